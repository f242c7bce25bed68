"""The rules of the trade, one module per family of mistakes: pure functions of frozen facts, asked by plan, studies, lists and sums."""

from gumboot.core.rules.register import ASKED, RULES, Asked, Breach, Code, Rule, all_rules, rule

__all__ = ["ASKED", "RULES", "Asked", "Breach", "Code", "Rule", "all_rules", "rule"]

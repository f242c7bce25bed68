"""Each rule is registered once under a code of the register, and tried at its limit here."""

from __future__ import annotations

import importlib
import pkgutil

import pytest

import gumboot.core.rules
import tests.rules
from gumboot.core.errors import BadRule
from gumboot.core.rules import ASKED, RULES, Code, rule
from tests.rules.cases import Case

MODULES = [importlib.import_module(f"gumboot.core.rules.{m.name}") for m in pkgutil.iter_modules(gumboot.core.rules.__path__)]
TRIED = [importlib.import_module(f"tests.rules.{m.name}") for m in pkgutil.iter_modules(tests.rules.__path__) if m.name.startswith("test_")]


def test_every_rule_is_tried() -> None:
    tried = {case.rule.code for module in TRIED for case in getattr(module, "CASES", ()) if isinstance(case, Case)}
    assert set(ASKED) - tried == set()


def test_a_misspelt_code_does_not_run() -> None:
    with pytest.raises(BadRule, match="no rule BANK-DEVISE"):
        rule("BANK-DEVISE")
    with pytest.raises(BadRule, match="has its rule already"):
        rule("BANK-WEAK")(lambda facts: None)


def test_codes_are_an_enum() -> None:
    assert {code.value for code in Code} == set(RULES)
    assert all(asked.entry is RULES[code] and asked.code == code for code, asked in ASKED.items())


def test_every_rule_says_what_it_holds_in_a_sentence() -> None:
    for asked in ASKED.values():
        assert (asked.judge.__doc__ or "").strip().endswith("."), asked.code

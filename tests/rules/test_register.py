"""Each rule is registered once under a code of the register, and tried at its limit here."""

from __future__ import annotations

import importlib
import pkgutil

import pytest

import gumboot.core.rules
import tests.rules
from gumboot.cli.checkout import CHECKOUT
from gumboot.core.errors import BadRule
from gumboot.core.rules import ASKED, RULES, Code, rule
from gumboot.core.rules.mistakes import MISTAKES, Mistake
from gumboot.documents.mistake_matrix import tried_in
from gumboot.documents.rule_reference import rule_reference
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
    assert {code.value for code in Code} == set(RULES) == set(ASKED)
    assert all(asked.entry is RULES[code] and asked.code == code for code, asked in ASKED.items())


def test_every_rule_says_what_it_holds_in_a_sentence() -> None:
    for asked in ASKED.values():
        assert (asked.judge.__doc__ or "").strip().endswith("."), asked.code


def test_every_mistake_is_told_once_and_every_rule_names_known_ones() -> None:
    assert [m.id for m in MISTAKES] == [f"M{n:02}" for n in range(1, 61)]
    named = {mistake for rule in RULES.values() for mistake in rule.mistake.split()}
    assert named <= {m.id for m in MISTAKES}
    for m in MISTAKES:
        assert m.id in named or m.acts or m.beyond, f"{m.id}: nothing catches it and nobody says so"


@pytest.mark.parametrize("mistake", [m for m in MISTAKES if m.tests], ids=lambda m: m.id)
def test_the_test_of_an_act_is_there(mistake: Mistake) -> None:
    path, _, name = mistake.tests.partition("::")
    text = (CHECKOUT / path).read_text()
    assert mistake.acts
    assert not name or f"def {name}(" in text


def test_every_rule_is_named_by_some_test() -> None:
    assert set(RULES) - set(tried_in(CHECKOUT / "tests")) == set()


def test_the_rule_reference_is_current() -> None:
    assert (CHECKOUT / "docs/rules.md").read_text() == rule_reference(), "./gumboot rules > docs/rules.md"

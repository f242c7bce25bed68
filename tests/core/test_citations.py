"""Each book cites its own clauses, and every rule and figure cites one that the register holds."""

from __future__ import annotations

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.derive import derive
from gumboot.core.rulebook.books import BOOKS, book
from gumboot.core.rulebook.loader import read_table, sources
from gumboot.core.rules import RULES

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
# Measurements before first power follow the international test standards everywhere.
TESTS = ("iec.62446", "iec.60364.6")


@pytest.mark.parametrize("house", HOUSES)
def test_a_plan_cites_its_own_family(house: str) -> None:
    plan = derive(demo_house(house), shelf())
    other = "iec." if book(plan.job.rule_book).family == "nec" else "nec."
    cited = {f.source for f in plan.figures.values()} | {f.source for f in plan.findings} | {x.source for x in plan.labels}
    assert not {s for s in cited if s.startswith(other) and s not in TESTS}


def test_every_rule_cites_a_clause_of_each_family_it_serves() -> None:
    for rule in RULES.values():
        assert rule.source in sources(), rule.code
        assert not rule.source_iec or rule.source_iec in sources(), rule.code
        if rule.source_iec:
            assert not rule.source_iec.startswith("nec.") or rule.code == "TERM-FALLBACK", rule.code


def test_every_source_says_how_it_is_known_and_what_it_holds_for() -> None:
    for source in sources().values():
        assert source.known in ("published; from memory", "common practice", "house rule", "physics"), source.key
        assert source.title
        assert source.known != "published; from memory" or (source.clause and source.edition), source.key


def test_books_name_sources_that_stand() -> None:
    for entry in BOOKS.values():
        for key in (entry.drop_source, entry.rise_source, entry.pv_limit_source, entry.opening_source, entry.working_source):
            assert key in sources()
        assert not entry.room_limits or entry.room_limits in sources()
        assert entry.left_to_local.endswith(".")


def test_shared_tables_name_sources_that_stand() -> None:
    for table in ("droop", "identification", "labels", "battery_fuse_classes"):
        assert {row["source"] for row in read_table(f"common/tables/{table}.csv")} <= set(sources())


def test_no_source_is_idle() -> None:
    from pathlib import Path

    root = Path(__file__).parents[2] / "src/gumboot/core"
    text = "".join(p.read_text() for p in root.rglob("*") if p.suffix in (".py", ".csv", ".json") and p.name != "sources.csv")
    idle = sorted(key for key in sources() if f'"{key}"' not in text and f",{key}," not in text and f",{key}\n" not in text)
    assert idle == []

"""No seeded fault passes, and no harmless change is stopped, in any house."""

from __future__ import annotations

from collections import Counter
from itertools import islice

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.derive import Plan, derive
from tests.acceptance.seeded import HARMLESS, SEEDS, Good

NAMES = [n for path in demo_houses() if "mistakes" not in (n := path.name.removesuffix(".gumboot.json"))]
CARDS = shelf()
# Of each kind of change in each house: enough of them, and the run stays short.
MOST = 2


def good(name: str) -> Good:
    job = demo_house(name)
    return Good(name, derive(job, CARDS), job.model_dump(mode="json"))


HOUSES = {name: good(name) for name in NAMES}


def said(plan: Plan) -> Counter[tuple[str, str]]:
    return Counter((str(f.code), f.where) for f in plan.findings if f.level != "note")


@pytest.mark.parametrize("name", NAMES)
def test_no_seeded_fault_passes(name: str) -> None:
    house, before, missed = HOUSES[name], said(HOUSES[name].plan), []
    for kind in SEEDS:
        for change in islice(kind.make(house), MOST):
            new = {code for code, _ in said(house.after(change, CARDS)) - before}
            if not new & kind.codes:
                missed.append(f"{kind.mistake} {kind.name} {change.what}: {sorted(new)}")
    assert missed == []


@pytest.mark.parametrize("name", NAMES)
def test_no_harmless_change_is_stopped(name: str) -> None:
    house, before = HOUSES[name], said(HOUSES[name].plan)
    named_anew = {"batteries_by_other_names"}
    for kind in HARMLESS:
        for change in islice(kind.make(house), MOST):
            after = said(house.after(change, CARDS))
            if kind.name in named_anew:
                assert Counter(code for code, _ in after.elements()) == Counter(code for code, _ in before.elements()), change.what
            else:
                assert sorted(after - before) == [], f"{kind.name} {change.what}"


def test_there_are_seeds_enough_and_each_kind_finds_a_house() -> None:
    """At least 300 faults and 60 harmless changes; nothing that is registered here is idle."""
    for kinds, least in ((SEEDS, 300), (HARMLESS, 60)):
        made = {kind.name: sum(1 for house in HOUSES.values() for _ in islice(kind.make(house), MOST)) for kind in kinds}
        assert [name for name, count in made.items() if not count] == []
        assert sum(made.values()) >= least


def test_every_mistake_that_a_plan_can_hold_is_seeded() -> None:
    """M13 to M15, M31 and others rest on what a crew records, not on a plan."""
    on_records = {13, 14, 15, 18, 31, 32, 40, 41, 45, 52, 53, 54, 56, 57, 59, 60}
    seeded = {int(kind.mistake[1:]) for kind in SEEDS if kind.mistake}
    assert seeded | on_records == set(range(1, 61))

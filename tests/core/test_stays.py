"""What is there already is judged and drawn, and nobody buys it or lands anything on it: one look is taken."""

from __future__ import annotations

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.study.materials import materials
from tests.helpers import changed

HOUSE = "d3-lockkeeper"


def house(*staying: str) -> Plan:
    document = demo_house(HOUSE).model_dump(mode="json")
    for thing in staying:
        document = changed(document, f"things.{thing}.stays", True)
    return derive(Job.model_validate(document), shelf())


def test_a_circuit_between_things_that_stay_is_one_look() -> None:
    new, old = house(), house("pv-inverter", "main-board", "roof")
    gone = {t.circuit for t in new.terminations} - {t.circuit for t in old.terminations}
    assert gone
    assert all(
        end.place in ("pv-inverter", "main-board", "roof") for c in new.circuits.all if c.id in gone for k in c.cores for end in k.ends
    )
    assert {c.id for c in old.checks} - {c.id for c in new.checks} == {f"stands-{c}" for c in gone}
    assert {c.id for c in old.circuits.all} == set(old.circuits.sized)
    assert [(f.code, f.where) for f in old.findings] == [(f.code, f.where) for f in new.findings]


def test_what_the_work_touches_is_landed_on_both_sides() -> None:
    old = house("main-board")
    assert any(t.place == "main-board" for t in old.terminations)
    assert [t.id for t in old.terminations] == [t.id for t in house().terminations]
    assert not any(c.id.startswith("stands-") for c in old.checks)


def test_nothing_is_bought_or_cut_for_what_stays() -> None:
    new, old = materials(house()), materials(house("pv-inverter", "main-board", "roof"))
    gone = {c.circuit for c in new.cuts} - {c.circuit for c in old.cuts}
    assert gone
    assert not gone & {circuit for item in old.items for circuit in item.where.split(", ")}
    assert len(old.items) < len(new.items)

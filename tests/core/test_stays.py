"""What is there already is judged and drawn, and nobody buys it or lands anything on it: one look is taken."""

from __future__ import annotations

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.study.materials import materials
from tests.helpers import changed

HOUSE = "d3-lockkeeper"


def house(*staying: str, known: bool = True) -> Plan:
    """The house with some things that stay; what lies between them is known, and is what the plan would pull."""
    document = demo_house(HOUSE).model_dump(mode="json")
    for thing in staying:
        document = changed(document, f"things.{thing}.stays", True)
    plan = derive(Job.model_validate(document), shelf())
    if not known or not staying:
        return plan
    sizes = {cid: z.size for cid, z in derive(demo_house(HOUSE), shelf()).circuits.sized.items()}
    for cid in plan.house.standing():
        document = changed(document, f"runs.{cid}.installed_size", sizes[cid])
    return derive(Job.model_validate(document), shelf())


def test_what_lies_between_things_that_stay_is_asked_for() -> None:
    unknown = house("pv-inverter", "main-board", "roof", known=False)
    asked = {f"runs.{cid}.installed_size" for cid in unknown.house.standing()}
    assert asked
    assert {g.path for g in unknown.gaps} == asked
    assert unknown.house.standing().isdisjoint(unknown.circuits.sized)
    assert house("pv-inverter", "main-board", "roof").gaps == ()
    # It is judged as it lies there, not as the code would have it.
    document = house("pv-inverter", "main-board", "roof").job.model_dump(mode="json")
    thin = derive(Job.model_validate(changed(document, "runs.pv-a1.installed_size", "1.5 mm2")), shelf())
    thick = derive(Job.model_validate(changed(document, "runs.pv-a1.installed_size", "6 mm2")), shelf())
    assert (thin.circuits.sized["pv-a1"].size, thick.circuits.sized["pv-a1"].size) == ("1.5 mm2", "6 mm2")
    assert thin.circuits.sized["pv-a1"].drop.value > 3 * thick.circuits.sized["pv-a1"].drop.value


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

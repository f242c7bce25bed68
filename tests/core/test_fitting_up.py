"""How boxes are fitted up beside their landings: dies and crimps, entries, joints from the factory, ferrites, bridges, covers, live ends."""

from __future__ import annotations

from math import sqrt

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.acts import Kind, acts
from gumboot.core.acts.fit import far_ends
from gumboot.core.plan.derive import derive
from gumboot.core.rulebook.common.crimps import DIES, crimps, die_words
from gumboot.core.sizes import area_mm2
from gumboot.core.standing import stand
from tests.core.test_standing import NOW, everything
from tests.crew import record_of
from tests.helpers import codes, plan_of, with_card

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
PLANS = {house: derive(demo_house(house), shelf()) for house in HOUSES}


def test_a_larger_conductor_takes_a_larger_die_and_no_fewer_crimps() -> None:
    sizes = sorted(DIES, key=area_mm2)
    numbers = [int(DIES[size]) for size in sizes]
    assert numbers == sorted(set(numbers))
    # The number is about the outside of a barrel in mm: more than the round of its copper, less than twice that.
    for size, number in zip(sizes, numbers, strict=True):
        bare = sqrt(4 * area_mm2(size) / 3.1416)
        assert bare < number < 2 * bare
    counts = [crimps(area_mm2(size)) for size in sizes]
    assert counts == sorted(counts)
    assert (crimps(35.0), crimps(35.1)) == (1, 2)
    assert (die_words("50 mm2"), die_words("2/0 AWG")) == ("die 14", "die marked 2/0 AWG")


@pytest.mark.parametrize("house", HOUSES)
def test_every_lug_says_die_and_crimps_and_every_clamp_is_opened(house: str) -> None:
    for t in PLANS[house].terminations:
        if t.terminal.end == "lug":
            assert "die " in t.preparation
            assert "crimp" in t.preparation.partition("die ")[2]
        elif t.terminal.end in ("bare", "ferrule"):
            assert "open the clamp fully first" in t.preparation
        elif t.terminal.plug:
            assert "push until it clicks, then pull" in t.preparation
        assert t.terminal.tip is not None or t.terminal.end == "spring"


@pytest.mark.parametrize("house", HOUSES)
def test_what_comes_into_a_box_has_an_entry_and_the_rest_is_blanked(house: str) -> None:
    plan, of = PLANS[house], acts(PLANS[house])
    for box in plan.fitting.boxes:
        if box.entries is None or box.used is None:
            # Blocks and stacks have no entries: what joins them is bolted or plugged.
            assert plan.house.cards[box.place].kind == "battery"
            assert f"entries:{box.place}" not in of
            continue
        assert box.used.value + box.blanks == box.entries.count
        act = of[f"entries:{box.place}"]
        assert f"{box.used.value:.0f} of {box.entries.count} in use" in act.see
        assert f"keeps {box.entries.rating}" in act.see
        own = {f"torque:{t.id}" for t in plan.terminations if t.place == box.place}
        assert set(act.needs) == own
        assert {act.id, *(f"joint:{box.place}.{joint.joint.id}" for joint in box.joints)} <= set(of[f"cover:{box.place}"].needs)


def test_entries_of_a_box_by_hand() -> None:
    # PV 1 and 2 in one raceway, battery, grid, backup; and all signal leads together.
    plan = PLANS["d1-saltmarsh"]
    box = plan.fitting.box("inverter")
    assert box is not None
    ways = {
        r.runs for r in plan.house.raceways for run in r.runs if "inverter" in (plan.house.by_id[run].source, plan.house.by_id[run].load)
    }
    alone = [c.id for c in plan.circuits.all if "inverter" in (c.source, c.load) and not any(c.id in r for r in ways)]
    assert box.used is not None
    assert box.used.value == len(ways) + len(alone) + 1
    few = {"count": 1, "size": "M32", "rating": "IP65"}
    assert "ENTRY-COUNT" in codes({}, with_card("plover-6s", {"entries": few}))
    enough = {**few, "count": int(box.used.value)}
    assert "ENTRY-COUNT" not in codes({}, with_card("plover-6s", {"entries": enough}))
    silent = plan_of({}, with_card("plover-6s", {"entries": None}))
    assert "entries:inverter" not in acts(silent)


@pytest.mark.parametrize("house", HOUSES)
def test_an_end_that_cannot_be_switched_off_is_landed_after_the_other_end_of_its_conductor(house: str) -> None:
    plan, of = PLANS[house], acts(PLANS[house])
    order = [t.id for t in plan.terminations]
    far = far_ends(plan)
    live = [t for t in plan.terminations if t.live_method]
    assert set(far) == {t.id for t in live}
    for t in live:
        both = [x for x in live if x.circuit == t.circuit and x.place != t.place]
        assert far[t.id] or both, t.id
        for other in far[t.id]:
            assert order.index(other) < order.index(t.id)
            assert f"torque:{other}" in of[f"torque:{t.id}"].needs


@pytest.mark.parametrize("house", HOUSES)
def test_every_conductor_end_has_one_landing(house: str) -> None:
    plan = PLANS[house]
    standing = plan.house.standing()
    ends = [
        (circuit.id, n, end)
        for circuit in (z.circuit for z in plan.circuits.sized.values() if z.circuit.id not in standing)
        for n, core in enumerate(plan.house.conductors(circuit))
        for end in core.ends
    ]
    assert len(ends) == len(plan.terminations)
    assert len({t.id for t in plan.terminations}) == len(plan.terminations)
    assert {f"torque:{t.id}" for t in plan.terminations} == {a.id for a in acts(plan).values() if a.kind is Kind.TORQUE}


def test_a_ferrite_goes_on_before_what_goes_through_it() -> None:
    of = acts(PLANS["k13-printworks"])
    act = of["ferrite:inverter.earth"]
    assert "earth lead alone, 2 times through it" in act.see
    through = [a for a in of.values() if a.kind is Kind.TORQUE and a.name.startswith("inverter.earth.")]
    assert through
    assert all(act.id in a.needs for a in through)
    assert not [a for a in acts(PLANS["d1-saltmarsh"]).values() if a.kind is Kind.FERRITE]


def test_the_makers_bridge_names_the_partner_that_stays_empty() -> None:
    plan = PLANS["k07-ridge"]
    bridged = [a for a in acts(plan).values() if a.kind is Kind.BRIDGED]
    assert [a.name for a in bridged] == [s.id for s in plan.job.strings if s.bridge]
    for act in bridged:
        assert "No other bridge." in act.see
        string = next(s for s in plan.job.strings if s.id == act.name)
        tracker = next(t for t in plan.seats.inverter.trackers if t.id == string.tracker)
        assert f"{tracker.bridge_with} takes no conductor" in act.see or not tracker.bridge_with


@pytest.mark.parametrize(
    ("change", "why"),
    [
        ({}, ""),
        ({"reached_nm": 8.81}, "8.81 N m is outside 7.20 to 8.80 N m"),
        ({"reached_nm": 8.8}, ""),
        ({"reached_nm": 7.2}, ""),
        ({"reached_nm": 7.19}, "7.19 N m is outside"),
        ({"tool": {"id": "TW-2", "title": "Wrench", "calibrated_to": "2020-01-01"}}, "out of calibration"),
    ],
)
def test_a_joint_from_the_factory_is_judged_as_a_landing_and_first_power_waits_for_it(change: dict[str, object], why: str) -> None:
    plan = PLANS["d1-saltmarsh"]
    act = acts(plan)["joint:bat-1.breaker-bar"]
    done = [r for r in everything(plan) if r.act != act.id]
    made = record_of(plan, stand(plan, done, NOW), act, NOW)
    made = type(made).model_validate({**made.model_dump(), **change})
    standing = stand(plan, [*done, made], NOW)
    assert why in standing.stands[act.id].why
    assert standing.stands[act.id].holds == (not why)
    first = f"step:{plan.power_up.steps[0].id}"
    assert act in acts(plan).before(first)
    assert ([t.act.id for t in standing.gates.held_by(first) if t.act.id == act.id] == [act.id]) == bool(why)


def test_a_cover_says_shields_screws_torque_and_order() -> None:
    of = acts(PLANS["d1-saltmarsh"])
    assert of["cover:inverter"].see == (
        "Debris out; Insulation plate over the battery terminals back in place; cover on: 6 screws at 1.5 N m (13.3 lbf in), Torx bit T20, "
        "crosswise, from the middle outward."
    )
    torque = of["cover:inverter"].band.expected
    assert torque is not None
    assert (torque.value, PLANS["d1-saltmarsh"].figures[torque.key]) == (1.5, torque)
    silent = acts(plan_of({}, with_card("plover-6s", {"cover": None})))
    assert "at the torque that stands on it" in silent["cover:inverter"].see
    assert silent["cover:inverter"].band.expected is None

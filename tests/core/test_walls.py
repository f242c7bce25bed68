"""Several walls: each is worked out, drawn and asked by itself, and the bank's place is judged where the bank stands."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.survey import questions_of
from gumboot.core.study.materials import materials, wall_length_m
from gumboot.drawing import wall as drawing
from tests.helpers import GOOD, plan_of, with_card


def house(moved: tuple[str, ...], **hall: Any) -> Plan:
    """Saltmarsh with a second wall in the hall, and some boxes moved to it, upright beside one another as they stood."""
    document = demo_house(GOOD).model_dump(mode="json")
    first = document["walls"][0]
    away = [p for p in first["placements"] if p["id"] in moved]
    first["placements"] = [p for p in first["placements"] if p["id"] not in moved]
    second = {**first, "id": "hall", "title": "Hall wall", "placements": away, "openings": [], **hall}
    document["walls"] = [first, second]
    return derive(Job.model_validate(document), shelf())


def codes(plan: Plan) -> set[str]:
    return {f.code for f in plan.findings}


def test_a_box_on_a_second_wall_is_worked_out_there() -> None:
    one, two = derive(demo_house(GOOD), shelf()), house(("sub-board",))
    assert two.gaps == ()
    assert [w.id for w in two.walls] == ["wall", "hall"]
    assert [b.id for b in two.walls[1].boxes] == ["sub-board"]
    assert [b.id for b in two.walls[0].boxes] == [b.id for b in one.walls[0].boxes if b.id != "sub-board"]
    assert two.figures["wall.sub-board.ratio"].value == one.figures["wall.sub-board.ratio"].value
    assert codes(two) == codes(one)


def test_a_finding_leads_to_its_own_wall() -> None:
    plan = house(("sub-board",), stud_first_mm=11)
    missed = {f.where: f.field for f in plan.findings if f.code == "WALL-STUD-MISS"}
    assert missed == {"sub-board": "walls.hall.placements.sub-board.x_mm"}
    timber = house(("sub-board",), board=None)
    assert [f.field for f in timber.findings if f.code == "WALL-COMBUSTIBLE"] == ["walls.hall.board"]


def test_the_bank_is_judged_in_the_room_where_it_stands() -> None:
    batteries = ("bat-1", "bat-2", "bat-3")
    assert "PLACE-ROOM" not in codes(house(("sub-board",), room="habitable room"))
    found = [f for f in house(batteries, room="habitable room").findings if f.code == "PLACE-ROOM"]
    assert [(f.where, f.field) for f in found] == [("hall", "walls.hall.room")]
    assert "PLACE-BARRIER" in codes(house(batteries, habitable_behind=True, barrier=False))


def test_energy_is_counted_by_the_kind_of_place() -> None:
    room = demo_house(GOOD).walls[0].room
    apart = house(("bat-3",), room="outdoor" if room != "outdoor" else "garage")
    figures = apart.figures
    assert figures["wall.energy"].value == 2 * figures["card.cobble-5.energy_wh"].value
    together = house(("bat-3",))
    assert together.figures["wall.energy"].value == 3 * figures["card.cobble-5.energy_wh"].value


def test_an_unmeasured_wall_asks_for_itself_and_holds_back_only_itself() -> None:
    plan = house(("sub-board",), width_mm=None)
    assert [g.path for g in plan.gaps] == ["walls.hall.width_mm"]
    assert [w.id for w in plan.walls] == ["wall"]
    asked = [q.text for q in questions_of(plan.job) if q.path.endswith(".width_mm")]
    assert asked == [f"Width of the wall, {plan.job.walls[0].title}", "Width of the wall, Hall wall"]


def test_each_wall_is_drawn_and_bought_for() -> None:
    plan = house(("sub-board",), anchor={"diameter_mm": 10, "length_mm": 120, "lateral_allowable_n": 1200})
    drawn = str(drawing.elevation(plan, "SI"))
    assert drawn.count("<svg") == 2
    assert "Elevation of Hall wall" in drawn
    assert str(drawing.elevation(plan, "SI", "hall")).count("<svg") == 1
    fixings = {i.item: i.quantity for i in materials(plan).items if i.group == "Fixing"}
    assert set(fixings) == {"Lag screw 8 × 90 mm", "Lag screw 10 × 120 mm"}
    assert fixings["Lag screw 10 × 120 mm"] == len(plan.walls[1].boxes[0].holes)


def test_a_run_between_two_walls_has_no_length_by_the_wall() -> None:
    plan = house(("sub-board",))
    backup = next(c for c in plan.circuits.all if c.id == "backup")
    assert wall_length_m(plan, backup) is None
    assert wall_length_m(derive(demo_house(GOOD), shelf()), backup) is not None


def test_a_wall_may_have_any_name() -> None:
    document = demo_house(GOOD).model_dump(mode="json")
    document["walls"][0]["id"] = "east"
    plan = derive(Job.model_validate(document), shelf())
    assert plan.gaps == ()
    assert {f.key for f in plan.findings} == {f.key for f in derive(demo_house(GOOD), shelf()).findings}


@pytest.mark.parametrize(("gravity", "share"), [(0.35, 0.55), (0.5, 0.55), (0.51, 0.675), (0.6, 0.675), (0.67, 0.75)])
def test_the_pilot_hole_of_a_lag_screw_goes_by_the_timber(gravity: float, share: float) -> None:
    """NDS 12.1.4.2: 40 to 70 % of the thread up to a gravity of 0.5, 60 to 75 % to 0.6, 65 to 85 % above."""
    wall = plan_of({"walls.wall.timber_gravity": gravity, "walls.wall.anchor.diameter_mm": 10}).walls[0]
    assert wall.pilot is not None
    assert wall.pilot.value == pytest.approx(10 * share)
    assert wall.pilot.label == {0.55: "5.5 mm, 7/32 in", 0.675: "6.8 mm, 17/64 in", 0.75: "7.5 mm, 19/64 in"}[share]
    assert plan_of(name="d2-schoolhouse").walls[0].pilot is None


@pytest.mark.parametrize(("mass", "people"), [(27, 1), (27.1, 2), (54, 2), (54.1, 3), (108.1, 5)])
def test_as_many_lift_as_the_weight_asks(mass: float, people: int) -> None:
    cards = with_card("plover-6s", {"body.mass_kg": mass})
    box = next(b for b in plan_of({}, cards).walls[0].boxes if b.id == "inverter")
    assert (box.people, box.lift_needs_two) == (people, people > 1)


@pytest.mark.parametrize(
    ("mass", "by"), [(54, "two people or a lift table"), (108, "four people or a lift table"), (108.1, "a lift table or a hoist")]
)
def test_page_and_finding_lift_alike_and_never_ask_for_five(mass: float, by: str) -> None:
    """More than four do not lift in step: the quick sum refuses them, and the plan must not ask for five."""
    plan = plan_of({}, with_card("plover-6s", {"body.mass_kg": mass}))
    assert next(b for b in plan.walls[0].boxes if b.id == "inverter").lifted_by == by
    acts = [f.act for f in plan.findings if f.code == "LIFT-TWO" and f"{mass:g} kg" in f.text]
    assert [act.lower().startswith(by) for act in acts] == [True]


def test_a_stack_tips_as_one_and_a_cabinet_with_what_is_in_it() -> None:
    """34 kg a module at a half depth of 90 mm: by hand, with all modules of the stack over its whole height."""
    plan = plan_of(name="d2-schoolhouse")
    modules = len(plan.job.banks[0].units)
    height = 300 + (modules - 1) * 210
    assert plan.figures["wall.bat-1.tips"].value == pytest.approx(modules * 34 * 9.80665 * 90 / height)
    cabinet = plan_of(name="k09-terrace")
    inside = len(cabinet.job.banks[0].units) * cabinet.seats.battery.body.mass_kg
    assert cabinet.figures["wall.inverter.tips"].value == pytest.approx((70 + inside) * 9.80665 * 130 / 1640)


def test_an_opening_is_an_edge_of_the_masonry() -> None:
    wall = plan_of(name="k12-orchard-flat").walls[0]
    hole = max((h for b in wall.boxes if b.id == "bat-4" for h in b.holes if h.carries), key=lambda h: (h.y_mm.value, h.x_mm.value))
    x, y = hole.x_mm.value, hole.y_mm.value
    window = {"id": "w", "title": "window", "kind": "window", "x_mm": x + 30, "y_mm": y + 40, "width_mm": 300, "height_mm": 300}
    near = plan_of({"walls.wall.openings": [window]}, name="k12-orchard-flat")
    assert near.figures["wall.bat-4.anchor_edge"].value == pytest.approx(50)
    pipe = plan_of({"walls.wall.openings": [{**window, "kind": "water"}]}, name="k12-orchard-flat")
    assert pipe.figures["wall.bat-4.anchor_edge"].value > 1000


def test_a_conduit_sweeps_at_both_its_ends() -> None:
    """A 32 mm conduit bends in 80 mm: a board at its far end that is shut in by less on every side is a stop; one side is enough."""
    board = next(b for b in plan_of(name="d2-schoolhouse").walls[0].boxes if b.id == "sub-board").rect
    battery = next(b for b in plan_of(name="d2-schoolhouse").walls[0].boxes if b.id == "bat-1").rect

    def plan(entry: str = "usual", /, *, left: float = 79, right: float = 79, below: float = 79, above: float = 79) -> Plan:
        y = battery.h + below
        return plan_of(
            {
                "walls.wall.width_mm": board.x + board.w + right,
                "walls.wall.height_mm": y + board.h + above,
                "walls.wall.placements.sub-board.y_mm": y,
                "walls.wall.placements.sub-board.entry": entry,
                "walls.wall.placements.inverter.x_mm": board.x - left - 560,
                "walls.wall.placements.inverter.y_mm": y - 50,
                "walls.wall.placements.bat-1.x_mm": board.x - 100,
            },
            name="d2-schoolhouse",
        )

    # A box or an edge that touches it leaves nothing there.
    for side in ("left", "right", "below", "above"):
        assert plan(side, **{side: 0}).figures["wall.sweep_room_sub-board"].value == pytest.approx(0), side
    shut = plan()
    assert shut.figures["wall.sweep_room_sub-board"].value == pytest.approx(79)
    need = next(f.limit for f in shut.findings if (f.code, f.where) == ("WALL-SWEEP", "sub-board"))
    assert need is not None
    assert need.value > 79
    for side in ("left", "right", "below", "above"):
        freed = plan(**{side: need.value})
        assert ("WALL-SWEEP", "sub-board") not in [(f.code, f.where) for f in freed.findings], side
        # Once a side is decided, room at that side counts, and no other.
        for entry in ("left", "right", "below", "above"):
            told = [(f.code, f.where) for f in plan(entry, **{side: need.value}).findings]
            assert (("WALL-SWEEP", "sub-board") in told) == (entry != side), (side, entry)

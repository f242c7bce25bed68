"""Hanging: what is found, marked and drilled before a box goes up, what its fixings are, and where its holes came out."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.acts import Kind, State, acts
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Drilled
from gumboot.core.recording import Draft, Refused, drafted, terms_of
from gumboot.core.standing import stand
from gumboot.core.standing.drilled import moved, wrong_where_drilled
from gumboot.core.study.materials import materials
from gumboot.core.study.van import van_of
from gumboot.core.wording import inches_on_tape, length_in_both, weight_in_both
from tests.core.test_stands import NOW, one, state
from tests.crew import said
from tests.helpers import GOOD, edited, plan_of, with_card
from tests.kept import HOUSES

PLANS = {house: plan_of(None, name=house) for house in HOUSES}
PLAN = PLANS[GOOD]


def off(right: float, up: float = 0.0, box: str = "inverter") -> Drilled:
    """Holes of a box that came out beside their marks."""
    record = one(f"hole:{box}", kind="drilled", right_mm=right, up_mm=up)
    assert isinstance(record, Drilled)
    return record


@pytest.mark.parametrize("house", HOUSES)
def test_nothing_is_drilled_before_the_wall_was_looked_into_and_nothing_hangs_before_its_holes(house: str) -> None:
    plan = PLANS[house]
    graph = acts(plan)
    for wall in plan.walls:
        own = next(w for w in plan.job.walls if w.id == wall.id)
        for box in (b for b in wall.boxes if b.holes):
            before = {a.id for a in graph.before(f"lift:{box.id}")}
            assert {f"find:{wall.id}", f"marked:{box.id}", f"hole:{box.id}"} <= before
            assert (f"board:{wall.id}" in before) == (own.board is not None)
            inside = getattr(plan.house.cards[box.id], "goes_in_first", [])
            assert (f"inside:{box.id}" in before) == bool(inside)
            fixed = graph.get(f"fixed:{box.id}")
            assert (fixed is not None) == (wall.fixings is not None and wall.fixings.torque is not None)
            assert fixed is None or fixed.needs == (f"lift:{box.id}",)


def test_every_dimension_that_is_marked_stands_on_the_act_in_both_systems() -> None:
    for wall in PLAN.walls:
        for box in (b for b in wall.boxes if b.holes):
            seen = acts(PLAN)[f"marked:{box.id}"].see
            assert length_in_both(box.holes[0].x_mm.value) in seen
            assert all(length_in_both(span.mm.value) in seen for span in box.spans)


def test_how_a_box_is_lifted() -> None:
    graph = acts(PLAN)
    assert "Two people or a lift table: 41 kg (90 lb)" in graph["lift:inverter"].see
    assert "lift it 50 mm (1 15/16 in) above its bracket" in graph["lift:inverter"].see
    assert graph["lift:inverter"].caution
    assert graph["lift:busbar"].see.startswith("One person lifts 8 kg (18 lb).")
    assert not graph["lift:busbar"].caution
    # A card without a bracket says nothing of one.
    assert "bracket" not in graph["lift:bat-1"].see


@pytest.mark.parametrize(
    ("right", "up", "code"),
    [
        # 38 / 2 - 1.5 x 8 = 7 mm to either side of the stud's middle.
        (7.0, 0.0, ""),
        (7.1, 0.0, "stud's middle"),
        (-7.0, 0.0, ""),
        (-7.1, 0.0, "stud's middle"),
        (0.0, 20.0, ""),
        (0.0, -400.0, "clearance"),
    ],
)
def test_holes_beside_their_marks_are_judged_by_the_rules_of_the_wall(right: float, up: float, code: str) -> None:
    wrong = wrong_where_drilled(PLAN, "inverter", off(right, up))
    assert (code in wrong) if code else (wrong == "")
    assert not code or "Drill anew and fill these" in wrong
    assert state("hole:inverter", off(right, up))[0] is (State.FAILED if code else State.GOOD)


def test_a_wall_that_had_a_stop_before_is_not_told_of_it_again() -> None:
    plan = plan_of({"walls.wall.placements.inverter.x_mm": 1372})
    assert any(f.code == "WALL-STUD-MISS" for f in plan.at("wall"))
    assert wrong_where_drilled(plan, "bat-1", off(1.0, box="bat-1")) == ""


def test_only_the_box_that_was_drilled_moves() -> None:
    before, after = PLAN.job, moved(PLAN.job, "inverter", 3.0, -2.0)
    for first, other in zip(before.walls[0].placements, after.walls[0].placements, strict=True):
        shift = (3.0, -2.0) if first.id == "inverter" else (0.0, 0.0)
        assert (other.x_mm - first.x_mm, other.y_mm - first.y_mm) == pytest.approx(shift)
    assert moved(before, "inverter", 0.0, 0.0) == before


def test_holes_that_were_only_said_to_be_drilled_count_as_before() -> None:
    assert state("hole:inverter", one("hole:inverter", kind="done"))[0] is State.GOOD


def _typed(typed: dict[str, str], plan: Plan = PLAN) -> Any:
    act = acts(plan)["hole:inverter"]
    return drafted(Draft(plan, stand(plan, [], NOW, 1), act, typed, "SI", said(act.id, NOW)))


@pytest.mark.parametrize(
    ("typed", "right", "up"),
    [
        ({}, 0.0, 0.0),
        ({"right": "-3", "up": "0", "unit": "mm"}, -3.0, 0.0),
        ({"right": "0.25", "up": "-0.125", "unit": "in"}, 6.35, -3.175),
        ({"right": "0.25 in", "unit": "mm"}, 6.35, 0.0),
        ({"right": "2", "unit": "furlong"}, 2.0, 0.0),
    ],
)
def test_how_far_is_read_in_the_unit_that_was_chosen(typed: dict[str, str], right: float, up: float) -> None:
    record = _typed(typed)
    assert isinstance(record, Drilled)
    assert (record.right_mm, record.up_mm) == pytest.approx((right, up))


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"right": "left"}, "Right of its mark"),
        ({"up": "501"}, "Move the box in the plan"),
        ({"right": "-30", "unit": "in"}, "another place"),
        ({"right": "3 kg"}, "Right of its mark"),
        ({"right": "nan"}, "Right of its mark"),
    ],
)
def test_what_is_no_distance_is_refused_by_its_field(typed: dict[str, str], words: str) -> None:
    refused = _typed(typed)
    assert isinstance(refused, Refused)
    assert refused.field == next(iter(typed))
    assert words in refused.text


def test_a_phone_takes_as_marked_for_good_and_leaves_the_rest_to_the_server() -> None:
    terms = terms_of(PLAN, acts(PLAN)["hole:inverter"])
    assert terms is not None
    assert [(t.inputs, t.low, t.high, t.is_doubtful, t.is_optional) for t in terms] == [
        (("right",), 0.0, 0.0, True, True),
        (("up",), 0.0, 0.0, True, True),
    ]


def test_the_fixings_of_a_timber_wall() -> None:
    found = PLAN.walls[0].fixings
    assert found is not None
    # 90 mm less 12 mm of board and 3 mm of bracket; NDS: 1.5 D from the edge, 4 D apart, D = 8 mm.
    told = [f.value for f in (found.depth, found.edge, found.spacing) if f is not None]
    assert told == pytest.approx([75.0, 12.0, 32.0])
    assert found.count.value == sum(len(box.holes) for box in PLAN.walls[0].boxes)
    assert found.torque is None


def test_the_fixings_of_a_masonry_wall_are_those_of_the_anchors_card() -> None:
    plan = PLANS["k13-printworks"]
    found = plan.walls[0].fixings
    assert found is not None
    assert found.torque is not None
    assert [f.value for f in found.torque] == pytest.approx([13.5, 15.0, 16.5])
    assert "washer under each" in found.washer
    act = acts(plan)["fixed:inverter"]
    assert act.is_torqued
    assert act.kind is Kind.FIXED
    silent = plan_of(None, with_card("limpet-8", {"torque_nm": None, "washer": False}), name="k13-printworks")
    assert silent.walls[0].fixings is not None
    assert silent.walls[0].fixings.torque is None
    assert "fixed:inverter" not in acts(silent)


def test_a_wall_without_a_board_is_drilled_as_soon_as_it_was_looked_into() -> None:
    job = edited({"walls.wall.board": None, "walls.wall.surface": "cement board"})
    assert job.walls[0].board is None
    graph = acts(plan_of({"walls.wall.board": None, "walls.wall.surface": "cement board"}))
    assert "board:wall" not in graph
    assert graph["marked:inverter"].needs == ("find:wall",)


def test_where_a_further_unit_stands_nothing_is() -> None:
    for plan in PLANS.values():
        for wall in plan.walls:
            for room in wall.growth:
                others = [b for b in wall.boxes if not (b.rect.x == room.rect.x and b.rect.y < room.rect.y)]
                assert not any(room.rect.meets(box.rect) or room.rect.meets(box.clear) for box in others)
                assert room.rect.x >= 0
                assert room.rect.x + room.rect.w <= wall.width_mm


@pytest.mark.parametrize(
    ("mm", "words"),
    [(25.4, "1 in"), (0.0, "0 in"), (12.7, "1/2 in"), (1421, "55 15/16 in"), (-6.35, "−1/4 in"), (0.7, "0 in"), (25.3, "1 in")],
)
def test_inches_as_a_tape_shows_them(mm: float, words: str) -> None:
    assert inches_on_tape(mm) == words


def test_a_length_and_a_weight_in_both() -> None:
    assert length_in_both(4.4) == "4.4 mm (3/16 in)"
    assert length_in_both(460) == "460 mm (18 1/8 in)"
    assert weight_in_both(41) == "41 kg (90 lb)"


@pytest.mark.parametrize("house", HOUSES)
def test_what_comes_in_a_box_is_looked_at_before_it_is_lifted_and_missing_parts_are_sought_in_its_likes(house: str) -> None:
    plan = PLANS[house]
    graph = acts(plan)
    boxes = {box.id: plan.house.cards[box.id] for wall in plan.walls for box in wall.boxes}
    for box, card in boxes.items():
        parts = getattr(card, "in_box", [])
        unpack = graph.get(f"unpack:{box}")
        assert (unpack is not None) == bool(parts)
        if unpack is not None:
            assert all(part in unpack.see for part in parts)
            assert unpack.id in graph[f"lift:{box}"].needs
            alike = [other for other, its in boxes.items() if other != box and its is card]
            assert all(other in unpack.caution for other in alike)
            assert ("same parts" in unpack.caution) == bool(alike)


def test_a_missing_part_holds_the_lift_and_nothing_else_of_the_box() -> None:
    missing = one("unpack:inverter", kind="answer", yes=False)
    found = stand(PLAN, [missing], NOW, 1)
    assert found.stands["unpack:inverter"].state is State.FAILED
    assert any(trouble.act.id == "unpack:inverter" for trouble in found.gates.held_by("lift:inverter"))
    assert not any(trouble.act.id == "unpack:inverter" for trouble in found.gates.held_by("marked:inverter"))


def test_a_box_that_hangs_already_was_unpacked() -> None:
    assert state("unpack:inverter", one("lift:inverter", kind="done"))[0] is State.GOOD


@pytest.mark.parametrize(
    ("edits", "words"),
    [
        ({}, "Walk the way first: its narrowest passage, steps, and a floor that bears it."),
        ({"walls.wall.way_mm": 760}, "The way: narrowest 760 mm (29 15/16 in). Walk it first."),
        ({"walls.wall.way_steps": 0}, "The way: no steps. Walk it first."),
        (
            {"walls.wall.way_mm": 760, "walls.wall.way_steps": 6},
            "The way: narrowest 760 mm (29 15/16 in), 6 steps, on which no lift table goes. Walk it first.",
        ),
    ],
)
def test_who_carries_a_heavy_box_is_told_its_way(edits: dict[str, object], words: str) -> None:
    graph = acts(plan_of(dict(edits)))
    assert graph["lift:inverter"].prepare == words
    # What one person lifts needs no way.
    assert graph["lift:switch-fuse"].prepare == ""


def test_lag_screws_with_a_card_are_as_that_says_wherever_they_are_asked_about() -> None:
    """Figures, drill list, material, torque, tip and edge distance; what was typed of screws before counts no more."""
    thick = with_card("barnacle-8x90", {"diameter_mm": 10.0, "length_mm": 110.0})
    typed = {"walls.wall.anchor.diameter_mm": 6.0, "walls.wall.anchor.lateral_allowable_n": 1.0}
    plan = plan_of({**typed, "equipment.screw": "barnacle-8x90"}, thick)
    assert "WALL-ANCHOR-OVER" not in {f.code for f in plan.findings}
    assert plan.figures["wall.withdrawal"].given[1].value == 10.0
    fixings = plan.walls[0].fixings
    assert fixings is not None
    assert (fixings.called, fixings.title, fixings.tip, fixings.washer) == (
        "screws",
        "Barnacle 8 × 90 mm lag screws",
        "13 mm socket",
        "a washer under each",
    )
    # 40 to 70 % in light timber: the middle of it.
    assert fixings.bit.value == pytest.approx(5.5)
    assert fixings.torque is not None
    assert [round(f.value, 2) for f in fixings.torque] == [10.2, 12.0, 13.8]
    act = acts(plan)["fixed:inverter"]
    assert act.title == "Screws of Plover 6S hybrid inverter at their torque"
    assert [item.item for item in materials(plan).items if item.group == "Fixing"] == ["Lockside Barnacle 8 × 90 mm lag screws"]
    assert "13 mm socket" in [row.item.lower() for row in van_of(plan, "2026-11-28").rows]
    # 38 / 2 - 1.5 x 10 = 4 mm of a stud are left beside the middle; with 8 mm they were 7.
    moved = {"walls.wall.placements.inverter.x_mm": 1371.0}
    assert "WALL-STUD-MISS" not in {f.code for f in plan_of(moved).findings}
    assert "WALL-STUD-MISS" in {f.code for f in plan_of({**moved, "equipment.screw": "barnacle-8x90"}, thick).findings}
    weak = plan_of({"equipment.screw": "barnacle-8x90"}, with_card("barnacle-8x90", {"lateral_allowable_n": 10.0}))
    assert {f.field for f in weak.findings if f.code == "WALL-ANCHOR-OVER"} == {"equipment.screw"}
    # Without a torque on its card nobody is asked for one.
    silent = plan_of({"equipment.screw": "barnacle-8x90"}, with_card("barnacle-8x90", {"torque_nm": None}))
    assert acts(silent).get("fixed:inverter") is None

"""Places on a roof and the layout finder: by hand, against brute force, and against the plan's own findings."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gumboot.catalogue import shelf
from gumboot.core.card import ModuleCard
from gumboot.core.card.boxes import BoardCard
from gumboot.core.job.model import Face, Obstacle
from gumboot.core.plan.places import area_of, places, spots
from gumboot.core.study.layout_ranks import find, find_layouts
from gumboot.core.study.layouts import Finder, Lay, assignments, broken_by, finder_of, lays_of, series_mismatch_pct, strings_of, why_not
from tests.helpers import edited, plan_of, with_card

MODULE = shelf()["slate-410"]
assert isinstance(MODULE, ModuleCard)
FACE = Face(id="f", title="Face", tilt_deg=30, azimuth_deg=180, columns=1, rows=1, width_mm=5000, height_mm=4000)


@pytest.mark.parametrize(
    ("edits", "expected"),
    [
        # 1134 x 1722 mm with 20 mm between: four columns of 1134 are 4596 of 5000 mm, two rows 3464 of 4000 mm.
        ({}, 8),
        ({"width_mm": 4596.0}, 8),
        ({"width_mm": 4595.0}, 6),
        ({"setback_side_mm": 202.0}, 8),
        ({"setback_side_mm": 203.0}, 6),
        ({"setback_ridge_mm": 536.0}, 8),
        ({"setback_ridge_mm": 537.0}, 4),
        ({"orientation": "landscape"}, 4 + 2),  # 1722 wide: two columns; 1134 high: three rows of 3442 mm
        ({"width_mm": None, "columns": 5, "rows": 2}, 10),
        ({"height_mm": 1700.0}, 0),
        # A hip of 2000 mm at the ridge: row one ends at 1722 mm of 4000 (3708 mm wide there), row two at 3464 mm (2402 mm).
        ({"ridge_mm": 2000.0}, 3 + 2),
    ],
)
def test_places_by_hand(edits: dict[str, Any], expected: int) -> None:
    assert places(FACE.model_copy(update=edits), MODULE) == expected  # type: ignore[arg-type]


def test_a_flue_takes_the_module_it_stands_in() -> None:
    flue = Obstacle(id="flue", x_mm=2000, y_mm=2000, width_mm=200, height_mm=200, clear_mm=0)
    assert places(FACE.model_copy(update={"obstacles": (flue,)}), MODULE) == 7  # type: ignore[arg-type]


faces = st.builds(
    lambda w, h, side, low, high, boxes: FACE.model_copy(
        update={
            "width_mm": w, "height_mm": h, "setback_side_mm": side, "setback_eaves_mm": low, "setback_ridge_mm": high,
            "obstacles": tuple(Obstacle(id=f"o{n}", x_mm=x, y_mm=y, width_mm=a, height_mm=b) for n, (x, y, a, b) in enumerate(boxes)),
        }
    ),
    st.floats(1000, 15000), st.floats(1000, 8000), st.floats(0, 500), st.floats(0, 500), st.floats(0, 500),
    st.lists(st.tuples(st.floats(0, 9000), st.floats(0, 6000), st.floats(50, 1500), st.floats(50, 1500)), max_size=3),
)  # fmt: skip


@given(faces)
def test_no_module_overlaps_another_leaves_the_face_or_meets_an_obstacle(face: Face) -> None:
    found, area = spots(face, MODULE), area_of(face, MODULE)  # type: ignore[arg-type]
    for s in found:
        assert s.x >= face.setback_side_mm - 1e-6
        assert s.x + s.w <= area.width - face.setback_side_mm + 1e-6
        assert s.y >= face.setback_eaves_mm - 1e-6
        assert s.y + s.h <= area.height - face.setback_ridge_mm + 1e-6
        for x, y, w, h in area.blocked:
            assert not (s.x < x + w - 1e-6 and x < s.x + s.w - 1e-6 and s.y < y + h - 1e-6 and y < s.y + s.h - 1e-6)
    for a, b in itertools.combinations(found, 2):
        apart_x = abs(a.x - b.x) >= a.w + face.gap_mm - 1e-6
        apart_y = abs(a.y - b.y) >= a.h + face.gap_mm - 1e-6
        assert apart_x or apart_y


@given(st.floats(1200, 9000), st.floats(1800, 8000), st.floats(0, 3000))
def test_a_wider_face_holds_no_fewer(width: float, height: float, more: float) -> None:
    small = FACE.model_copy(update={"width_mm": width, "height_mm": height})
    large = FACE.model_copy(update={"width_mm": width + more, "height_mm": height})
    assert places(large, MODULE) >= places(small, MODULE)  # type: ignore[arg-type]


def small_finder(**changes: Any) -> Finder:
    found = finder_of(plan_of({}))
    assert isinstance(found, Finder)
    return replace(found, **changes)


def brute(f: Finder) -> set[tuple[tuple[str, int, int, bool], ...]]:
    """Every assignment by plain product, judged one by one; alike trackers are then not told apart."""
    rows = []
    for t in f.trackers:
        own: list[Lay | None] = [None]
        for face in f.faces:
            for modules in range(1, f.holds[face.id] + 1):
                for count in range(1, f.holds[face.id] + 1):
                    for bridge in (False, True):
                        lay = Lay(t.id, face.id, modules, count, bridge)
                        if not broken_by(f, lay):
                            own.append(lay)
        rows.append(own)
    found = set()
    partner = {t.id: t.bridge_with for t in f.trackers}
    for picked in itertools.product(*rows):
        lays = [x for x in picked if x is not None]
        if any(x.bridge and partner[x.tracker] in {y.tracker for y in lays} for x in lays):
            continue
        if not lays or any(sum(x.total for x in lays if x.face == face.id) > f.holds[face.id] for face in f.faces):
            continue
        if sum(x.total for x in lays) * f.modules["south"].power_w > f.pv_max_w + 1e-6:
            continue
        found.add(tuple(sorted((x.face, x.modules, x.count, x.bridge) for x in lays)))
    return found


@pytest.mark.parametrize("accepts", [9, 6])
def test_two_inverters_each_within_what_it_accepts(accepts: int) -> None:
    """By plain product: each inverter's modules within its own power; alike inverters and alike inputs are not told apart."""
    f = small_finder(holds={"south": 7, "west": 0}, fuse_a=25.0)
    one = f.converters[0].model_copy(update={"pv_max_w": accepts * f.modules["south"].power_w})
    one = one.model_copy(update={"trackers": [t.model_copy(update={"v_min": 80.0, "v_start": 90.0}) for t in one.trackers[:2]]})
    other = one.model_copy(update={"trackers": [t.model_copy(update={"id": f"{t.id} b"}) for t in one.trackers]})
    f = replace(f, converters=(one, other), roof_boxes={})

    def told(lays: Iterable[Lay]) -> tuple[tuple[tuple[int, int], ...], ...]:
        held = list(lays)
        blocks = [tuple(sorted((x.modules, x.count) for x in held if x.tracker.endswith(" b") is b)) for b in (False, True)]
        return tuple(sorted(blocks))

    options: list[list[Lay | None]] = [[None, *lays_of(f, t)] for t in f.trackers]
    wanted = set()
    for picked in itertools.product(*options):
        lays = [x for x in picked if x is not None]
        each = [sum(x.total for x in lays if x.tracker.endswith(" b") is b) for b in (False, True)]
        if lays and sum(each) <= 7 and max(each) <= accepts:
            wanted.add(told(lays))
    got = [told(lays) for lays in assignments(f)]
    assert len(got) == len(set(got)), "a layout came twice"
    assert set(got) == wanted


@pytest.mark.parametrize("holds", [{"south": 12, "west": 10}, {"south": 7, "west": 6}, {"south": 14, "west": 0}, {"south": 3, "west": 3}])
@pytest.mark.parametrize("amps", [20.0, 45.0])
def test_finder_against_brute_force(holds: dict[str, int], amps: float) -> None:
    base = small_finder()
    wide = {"i_max_a": amps, "isc_max_a": amps * 1.3, "terminal_max_a": 20.0, "bridge_max_a": 40.0}
    trackers = tuple(t.model_copy(update={**wide, "v_min": 80.0, "v_start": 90.0}) for t in base.trackers)
    f = replace(base.with_inputs(trackers), holds=holds, fuse_a=25.0)
    got = [tuple(sorted((x.face, x.modules, x.count, x.bridge) for x in lays)) for lays in assignments(f)]
    assert len(got) == len(set(got)), "a layout came twice"
    assert set(got) == brute(f)


def test_trackers_that_differ_are_told_apart() -> None:
    base = small_finder(holds={"south": 8, "west": 0})
    first, second = base.trackers
    other = second.model_copy(update={"v_max": 400.0})
    f = base.with_inputs((first, other))
    got = {tuple((x.tracker, x.modules) for x in lays) for lays in assignments(f)}
    assert (("PV1", 8),) in got
    assert (("PV2", 8),) in got


def test_ranked_best_first_with_a_reason_each() -> None:
    found = find_layouts(plan_of({}))
    assert found.fit > len(found.best) > 1
    assert [x.modules for x in found.best] == sorted((x.modules for x in found.best), reverse=True)
    assert all(x.why for x in found.best)
    # Both hold 21 within 2 % of yield; 11 and 10 stand 44 V under 500 V, 12 and 9 only 3.05 V: the safer one leads.
    first, second = found.best[:2]
    assert {(x.face, x.modules) for x in first.lays} == {("south", 11), ("west", 10)}
    assert {(x.face, x.modules) for x in second.lays} == {("south", 12), ("west", 9)}
    assert second.margin_v == pytest.approx(500 - 12 * 37.6 * (1 - 0.0026 * -39), abs=0.01)
    assert "kWh more a year" in second.why
    assert "V less margin" in second.why


def test_ranked_by_what_a_person_asks() -> None:
    plan = plan_of({})
    margins = [x.margin_v for x in find_layouts(plan, first="margin").best]
    assert margins == sorted(margins, reverse=True)
    cores = [x.cores for x in find_layouts(plan, first="wiring").best]
    assert cores == sorted(cores)


def test_a_bridge_over_two_inputs_leaves_the_other_empty() -> None:
    plan = plan_of({}, None, "k07-ridge")
    for layout in find_layouts(plan).best:
        carried = {x.tracker for x in layout.lays}
        for x in layout.lays:
            assert x.bridge
            pair = next(t.bridge_with for t in plan.shelf["grebe-11"].trackers if t.id == x.tracker)  # type: ignore[union-attr]
            assert pair not in carried
    wanted = (Lay("PV1", "south", 8, 1, True), Lay("PV2", "south", 8, 1, True))
    assert "PV-BRIDGE" in {b.code for b in why_not(plan, wanted)}
    # A string on an input whose terminal the bridge does not take is no hindrance.
    apart = (Lay("PV1", "south", 8, 1, True), Lay("PV3", "south", 8, 1))
    assert "PV-BRIDGE" not in {b.code for b in why_not(plan, apart)}
    both = plan_of({"strings.R2.tracker": "PV2"}, None, "k07-ridge")
    assert "PV-BRIDGE" in {f.code for f in both.findings}


def test_paired_bridges_against_brute_force() -> None:
    f = finder_of(plan_of({}, None, "k07-ridge"))
    assert isinstance(f, Finder)
    for terminal in (15.0, 20.0):
        narrow = {"terminal_max_a": terminal, "v_min": 100.0, "v_start": 100.0}
        few = replace(f.with_inputs([t.model_copy(update=narrow) for t in f.trackers[:4]]), holds={"south": 14})
        got = [tuple(sorted((x.face, x.modules, x.count, x.bridge) for x in lays)) for lays in assignments(few)]
        assert len(got) == len(set(got))
        assert set(got) == brute(few)


@pytest.mark.parametrize("wanted", [19, 21])
def test_a_wished_number_is_kept(wanted: int) -> None:
    found = find_layouts(plan_of({}), wanted)
    assert found.best
    assert {x.modules for x in found.best} == {wanted}
    assert find_layouts(plan_of({}), 22).best == ()


@settings(max_examples=40)
@given(st.integers(1, 14), st.integers(1, 2), st.sampled_from(["PV1", "PV2"]), st.sampled_from(["south", "west"]), st.booleans())
def test_a_lay_is_judged_as_the_plan_judges_it(modules: int, count: int, tracker: str, face: str, bridge: bool) -> None:
    plan = plan_of({})
    lay = Lay(tracker, face, modules, count, bridge)
    said = {b.code for b in why_not(plan, (lay,))}
    job = edited({"strings": strings_of(plan, (lay,))})
    from gumboot.core.plan.derive import derive

    found = {x.code for x in derive(job, shelf()).findings if x.code.startswith("PV-")}
    # The run's cable is no question of the layout; what a string or an array yields forbids none.
    assert said == found - {"PV-WIRE", "PV-FULL-POWER", "PV-DC-AC"}


def test_why_a_wanted_one_is_impossible() -> None:
    plan = plan_of({})
    said = " ".join(b.text for b in why_not(plan, (Lay("PV1", "south", 13, 1), Lay("PV2", "west", 3, 1))))
    for words in ("has 12 places; 13 modules", "538.4 V", "81.4 V", "starts at 140 V"):
        assert words in said
    assert why_not(plan, (Lay("PV1", "south", 11, 1), Lay("PV2", "west", 8, 1))) == []
    assert {b.code for b in why_not(plan, (Lay("PV1", "south", 7, 1), Lay("PV1", "west", 6, 1)))} == {"PV-UNLIKE"}
    # Equal ones on two faces work, with a loss.
    assert {b.code for b in why_not(plan, (Lay("PV1", "south", 6, 1), Lay("PV1", "west", 6, 1)))} == set()
    assert {b.code for b in why_not(plan, (Lay("PV9", "south", 6, 1),))} == {"PV-NO-TRACKER"}
    both = why_not(plan, (Lay("PV1", "south", 8, 1), Lay("PV2", "south", 8, 1)))
    assert "PV-FACE-FULL" in {b.code for b in both}


def test_optimised_strings_are_found_by_their_own_limits() -> None:
    plan = plan_of({"equipment.optimiser": "ripple-o"}, None, "k02-weaver")
    f = finder_of(plan)
    assert isinstance(f, Finder)
    assert f.optimiser is not None
    counts = {x.modules for x in lays_of(f, f.trackers[0])}
    assert counts
    assert min(counts) >= f.optimiser.count_min
    assert max(counts) <= f.optimiser.count_max
    high = replace(f, optimiser=f.optimiser.model_copy(update={"string_v": 1001.0}))
    assert "PV-COLD-VOC" in {b.code for b in broken_by(high, lays_of(f, f.trackers[0])[0])}
    assert lays_of(high, high.trackers[0]) == []


def test_one_module_alone_is_a_string_where_the_input_takes_it() -> None:
    f = small_finder()
    low = f.with_inputs([t.model_copy(update={"v_min": 20.0, "v_start": 25.0}) for t in f.trackers])
    assert (1, 1) in {(x.modules, x.count) for x in lays_of(low, low.trackers[0])}
    assert 1 not in {x.modules for x in lays_of(f, f.trackers[0])}


def test_parallel_mode_wants_them_alike() -> None:
    f = small_finder(parallel_only=True)
    for layout in find(f).best:
        assert len({(x.face, x.modules) for x in layout.lays}) == 1


def test_what_must_be_answered_first_is_said() -> None:
    assert "record low" in find_layouts(plan_of({"site.record_low_c": None})).waits_for
    assert "face" in find_layouts(plan_of({"faces": [], "strings": []})).waits_for
    assert "module" in find_layouts(plan_of({"equipment.module": None, "strings": []})).waits_for


def test_series_mismatch_is_nothing_on_one_face_and_something_on_two() -> None:
    plan = plan_of({})
    assert series_mismatch_pct(plan, "south", 6, "south", 6) == pytest.approx(0, abs=1e-9)
    loss = series_mismatch_pct(plan, "south", 6, "west", 6)
    assert loss is not None
    assert 3 < loss < 30
    assert series_mismatch_pct(plan_of({"site.latitude_deg": None}), "south", 6, "west", 6) is None


def test_the_bridge_is_taken_where_one_terminal_is_not_enough() -> None:
    cards = with_card("plover-6s", {"trackers.PV1.terminal_max_a": 15.0, "trackers.PV1.bridge_max_a": 30.0})
    f = finder_of(plan_of({}, cards))
    assert isinstance(f, Finder)
    assert all(x.bridge for x in lays_of(f, f.trackers[0]))


def test_a_roof_beyond_counting_is_refused_and_not_sampled() -> None:
    base = small_finder()
    trackers = tuple(
        base.trackers[0].model_copy(
            update={"id": f"T{k}", "v_min": 60.0 + k, "v_start": 70.0, "i_max_a": 90.0, "isc_max_a": 90.0, "terminal_max_a": 90.0}
        )
        for k in range(6)
    )
    f = replace(base.with_inputs(trackers, 1e6), holds={"south": 90, "west": 90}, fuse_a=25.0, roof_boxes={})
    found = find(f)
    assert found.best == ()
    assert "more than" in found.waits_for


@pytest.mark.parametrize("weak", [0, 1])
def test_alike_inverters_behind_unlike_boxes_are_told_apart(weak: int) -> None:
    """The box of one of two alike inverters takes 1 A: nothing may lie there, and all that one inverter may hold lies on the other."""
    f = small_finder(holds={"south": 14, "west": 0})
    card = shelf()["eaves-4"]
    assert isinstance(card, BoardCard)
    one = f.converters[0]
    other = one.model_copy(update={"trackers": [t.model_copy(update={"id": f"{t.id} b"}) for t in one.trackers]})
    alone = {tuple((x.modules, x.count) for x in lays) for lays in assignments(f)}
    boxes = {t.id: card.model_copy(update={"busbar_a": 1.0}) if c is (one, other)[weak] else card for c in (one, other) for t in c.trackers}
    found = list(assignments(replace(f, converters=(one, other), roof_boxes=boxes)))
    assert {x.tracker.endswith(" b") for lays in found for x in lays} == {weak == 0}
    assert {tuple((x.modules, x.count) for x in lays) for lays in found} == alone

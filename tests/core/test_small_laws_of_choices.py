"""Small laws of what is chosen, switched and compared, each against a value worked by hand, most of them at a limit."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import pytest
from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card import ModuleCard, parse_card
from gumboot.core.errors import BadFigure, OutOfRange
from gumboot.core.job import Job
from gumboot.core.job.model import Face
from gumboot.core.plan.derive import derive
from gumboot.core.plan.places import spots
from gumboot.core.plan.raceways import conductor_areas_mm2
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.north_american.connection import tap_ampacity_a
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.sim.switch_line.judging import judge
from gumboot.core.sim.switch_line.parts import Board
from gumboot.core.study.conduit import smallest_for
from gumboot.core.study.fit import fits
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import mismatch
from gumboot.core.study.pick import what_may_start_together
from tests.core.test_stacks import cards, schoolhouse
from tests.helpers import edited, plan_of, with_card

BATTERIES = ("bat-1", "bat-2", "bat-3")


@pytest.mark.parametrize(("length_m", "amps"), [(3.0, 20), (3.048, 20), (3.049, 200 / 3), (7.5, 200 / 3), (7.62, 200 / 3)])
def test_a_tap_up_to_its_very_length(length_m: float, amps: float) -> None:
    """705.12(A)(3) with 240.21(B): a tenth up to 10 ft, a third up to 25 ft; 10 ft are 3.048 m and 25 ft are 7.62 m."""
    assert tap_ampacity_a(200.0, length_m) == pytest.approx(amps)


def test_a_tap_a_hand_too_long_is_refused() -> None:
    with pytest.raises(OutOfRange, match="25 ft"):
        tap_ampacity_a(200.0, 7.63)


@pytest.mark.parametrize(("closed", "feeds"), [
    (("inverter",), False), ((*BATTERIES, "battery-switch"), False), ((*BATTERIES, "battery-switch", "inverter"), True),
])  # fmt: skip
def test_an_inverter_feeds_when_it_is_on_and_has_dc(closed: Sequence[str], feeds: bool) -> None:
    line = plan_of().power_up.line
    assert Board(line, frozenset(closed)).feeds(line.units[0]) is feeds


def test_a_charge_stays_until_its_battery_switch_is_opened() -> None:
    line = plan_of().power_up.line
    between = rehearse(line, ["bat-1", "precharge", "bat-2", "bat-3", "battery-switch"])
    assert [o.allowed for o in between.outcomes] == [True] * 5
    assert between.charged == {line.switch("battery-switch").unit}
    assert rehearse(line, [*BATTERIES, "precharge", "battery-switch", "battery-switch"]).charged == set()
    again = rehearse(line, [*BATTERIES, "precharge", "battery-switch", "battery-switch", "battery-switch"])
    assert [o.allowed for o in again.outcomes] == [True] * 6 + [False]
    assert "pre-charge" in again.outcomes[-1].text


def test_pv_is_not_opened_while_it_is_all_that_an_inverter_has() -> None:
    line = plan_of().power_up.line
    on = frozenset({*BATTERIES, "battery-switch", "inverter", "sub-main", "grid-breaker", "pv-switch"})
    assert judge(Board(line, on), "pv-switch").allowed
    alone = judge(Board(line, on - {*BATTERIES}), "pv-switch")
    assert not alone.allowed
    assert "only source" in alone.text


def test_a_layout_says_what_lies_on_each_input() -> None:
    best = find_layouts(plan_of()).best[0]
    assert [best.on(lay.tracker) for lay in best.lays] == list(best.lays)
    assert best.on("PV9") is None


def test_a_face_without_measures_is_laid_row_upon_row() -> None:
    face = (
        demo_house("d1-saltmarsh").faces[0].model_copy(update={"width_mm": None, "height_mm": None, "rows": 3, "columns": 2, "gap_mm": 20})
    )
    module = shelf()["slate-410"]
    assert isinstance(module, ModuleCard)
    module = module.model_copy(update={"width_mm": 1100, "height_mm": 1800})
    wide, high = (1100, 1800) if face.orientation == "portrait" else (1800, 1100)
    assert [(s.x, s.y) for s in spots(face, module)] == [(c * (wide + 20), r * (high + 20)) for r in range(3) for c in range(2)]


def test_inside_a_stack_every_module_resists() -> None:
    shelf_ = cards(2, 600)
    card = shelf_["sill-3"].model_copy(update={"cell_mohm": 2.5})
    plan = derive(schoolhouse(2, 12), {**shelf_, "sill-3": card})
    assert plan.figures["bank.stack_mohm"].value == pytest.approx(6 * 2.5)


@pytest.mark.parametrize(("field", "value", "code"), [("room_high_c", 60.0, "SITE-HOT"), ("room_low_c", -40.0, "SITE-COLD")])
def test_an_inverter_that_cannot_bear_the_air_says_so_in_the_list(field: str, value: float, code: str) -> None:
    fine = {f.card.id: f.codes for f in fits(demo_house("d1-saltmarsh"), shelf(), "inverter")}
    there = {f.card.id: f.codes for f in fits(edited({f"site.{field}": value}), shelf(), "inverter")}
    assert all(code in codes for codes in there.values())
    assert code not in fine["plover-6s"]
    unknown = {f.card.id: f.codes for f in fits(edited({f"site.{field}": None}), shelf(), "inverter")}
    assert code not in unknown["plover-6s"]


@pytest.mark.parametrize(("first", "second", "speaks"), [(18.0, 18.0, False), (10.0, 18.0, False), (18.0, 10.0, False), (10.0, 10.0, True)])
def test_a_module_is_spoken_against_where_no_input_bears_one_string_of_it(first: float, second: float, speaks: bool) -> None:
    """It gives 13.87 A; one input that bears it is enough."""
    cards_ = with_card("plover-6s", {"trackers.PV1.isc_max_a": first, "trackers.PV2.isc_max_a": second})
    said = {f.card.id: f.codes for f in fits(demo_house("d1-saltmarsh"), cards_, "module")}
    assert ("PV-TRACKER-ISC" in said["slate-410"]) == speaks


def test_of_two_generators_the_first_is_started_and_the_second_is_a_stop() -> None:
    document = demo_house("d4-lookout").model_dump(mode="json")
    document["things"].append({"seat": "generator", "id": "hired", "card": "donkey-6", "feeds": "inverter"})
    plan = derive(Job.model_validate(document), shelf())
    assert [s.id for s in plan.power_up.steps if s.id.startswith("generator")] == ["generator-breaker"]
    assert "GEN-ONE" in {f.code for f in plan.stops}


def test_with_optimisers_the_string_has_their_voltage_whatever_its_length() -> None:
    """The margin of each input is its limit less the voltage that the optimisers hold."""
    found = find_layouts(plan_of({"equipment.optimiser": "ripple-o"}))
    held = shelf()["ripple-o"].model_dump()["string_v"]
    limits = [t["v_max"] for t in shelf()["plover-6s"].model_dump()["trackers"]]
    assert found.best
    for layout in found.best:
        assert layout.margin is not None
        assert any(layout.margin.value == pytest.approx(limit - held) for limit in limits)


def test_two_faces_in_one_string_by_hand(monkeypatch: pytest.MonkeyPatch) -> None:
    """Three hours, two modules each: alone 12 + 8 + 4 = 24; joined the better of all at the darker and half at the brighter."""
    yields = {"south": np.array([4.0, 2.0, 2.0]), "west": np.array([2.0, 2.0, 0.0])}
    monkeypatch.setattr(mismatch, "face_yield_w", lambda plan, place, face: yields[face])
    # Joined: max(4 x 2, 2 x 4), max(4 x 2, 2 x 2), max(0, 2 x 2) = 8 + 8 + 4 = 20.
    assert mismatch.series_mismatch_pct(plan_of(), "south", 2, "west", 2) == pytest.approx(100 * 4 / 24)


def test_two_faces_in_the_dark_lose_nothing_that_can_be_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(mismatch, "face_yield_w", lambda plan, place, face: np.zeros(3))
    assert mismatch.series_mismatch_pct(plan_of(), "south", 2, "west", 2) is None


@pytest.mark.parametrize(
    ("x", "y", "lies"), [(0, 0, True), (-99, 0, True), (-100, 0, False), (99, 0, True), (100, 0, False), (0, 300, False), (0, 299, True)]
)
def test_a_box_lies_beneath_another_when_they_share_a_hands_breadth_of_wall(x: float, y: float, lies: bool) -> None:
    assert Rect(x, y, 100, 50).beneath(Rect(0, 300, 100, 50)) is lies


@pytest.mark.parametrize("kind", ["trunking", "conduit"])
def test_the_smallest_raceway_inside_is_filled_to_its_share_by_hand(kind: str) -> None:
    plan = plan_of({"runs.grid.raceway": kind}, name="k09-terrace")
    clauses, sized = book(plan.job.rule_book), plan.circuits.sized["grid"]
    areas = conductor_areas_mm2(plan.house, sized, clauses)
    inside = sum(areas) / clauses.raceways.share(kind, len(areas), None)[0]
    told = smallest_for(plan, "grid")
    if kind == "trunking":
        assert f"{inside:.0f} mm² inside" in told
        side = float(told.removesuffix(" mm square").rpartition(" ")[2])
        assert (side - 10) ** 2 < inside <= side**2
    else:
        across = float(told.removesuffix(" mm inside").rpartition(" ")[2])
        assert math.pi / 4 * (across - 1) ** 2 < inside <= math.pi / 4 * across**2


def test_a_hipped_face_is_as_wide_as_the_top_of_the_row_that_lies_there() -> None:
    """8 m at the eaves, 2 m at a ridge 4 m up: each metre up takes 0.75 m off either side.

    A row 1.8 m high from 0.2 m ends at 2.0 m, where 8 - 2 x 1.5 = 5 m are left: four modules of 1.1 m, not five as lower down.
    """
    face = Face.model_validate({
        **demo_house("d1-saltmarsh").faces[0].model_dump(),
        "width_mm": 8000, "ridge_mm": 2000, "height_mm": 4000, "gap_mm": 20, "obstacles": [], "orientation": "portrait",
        "setback_side_mm": 0, "setback_eaves_mm": 200, "setback_ridge_mm": 1900,
    })  # fmt: skip
    module = shelf()["slate-410"]
    assert isinstance(module, ModuleCard)
    module = module.model_copy(update={"width_mm": 1100, "height_mm": 1800})
    assert [round(s.y) for s in spots(face, module)] == [200] * 4


@pytest.mark.parametrize(("card", "field", "value"), [
    ("plover-6s", "idle_w", -1.0), ("slate-410", "width_mm", 0.0), ("slate-410", "width_mm", -1134.0), ("slate-410", "height_mm", -1.0),
    ("cobble-5", "dip_switches", -1), ("cobble-5", "dip_switches", 17),
])  # fmt: skip
def test_a_card_with_a_wrong_sign_is_refused_by_its_field(card: str, field: str, value: float) -> None:
    """A roof would be laid with modules of no width for ever, and a bank drain backwards."""
    with pytest.raises(ValidationError, match=field):
        with_card(card, {field: value})


def test_nothing_to_carry_is_refused_by_name() -> None:
    cards_ = with_card("plover-6s", {"idle_w": 0})
    assert plan_of({}, cards_).loads.carried
    with pytest.raises(BadFigure, match="own draw comes to 0"):
        plan_of({"loads": []}, cards_)


@pytest.mark.parametrize(("peak_s", "gives"), [(5.0, 3 * 110 * 46.4 * 0.94), (4.9, 3 * 75 * 46.4 * 0.94)])
def test_a_peak_that_is_over_before_the_start_is_none(peak_s: float, gives: float) -> None:
    """The inverter's shortest timed rating is 5 s: a peak counts that lasts as long, else what the batteries give for ever."""
    plan = plan_of({}, with_card("cobble-5", {"peak_s": peak_s}))
    assert plan.loads.bank_peak.value == pytest.approx(gives)


def test_a_card_that_holds_nothing_for_a_time_is_refused_by_name() -> None:
    told = shelf()["plover-6s"].model_dump(mode="json") | {"overloads": []}
    with pytest.raises(ValidationError, match="overloads"):
        parse_card(told)


def test_what_may_start_together_asks_the_batteries_too() -> None:
    weak = with_card("cobble-5", {"peak_s": 1.0, "discharge_a": 46.0})
    largest, fewer = what_may_start_together(plan_of({})), what_may_start_together(plan_of({}, weak))
    assert sum(largest.pairs.values()) > sum(fewer.pairs.values())
    assert len(fewer.largest) < len(largest.largest)


@pytest.mark.parametrize(
    ("altitude_m", "summer_c", "share"),
    [(0, 25.0, 1.0), (-50, 10.0, 1.0), (1000, 25.0, 0.88), (0, 40.0, 0.97), (2000, 35.0, 0.76 * 0.98), (0, None, 1.0)],
)
def test_thin_and_hot_air_takes_from_a_generator(altitude_m: float, summer_c: float | None, share: float) -> None:
    plan = plan_of({"site.altitude_m": altitude_m, "site.summer_high_c": summer_c}, None, "d4-lookout")
    here = plan.figures["circuits.generator_here"]
    assert here.value == pytest.approx(5500 * share)
    assert ("heat is not counted" in here.limits) is (summer_c is None)


@pytest.mark.parametrize(("origin_ohm", "slow"), [(1.1234, False), (1.1235, True)])
def test_a_loop_is_held_against_the_mean_tripping_current_where_the_book_says_so(origin_ohm: float, slow: bool) -> None:
    """AS/NZS 3000 Table 8.1: 25 A curve C bears 230 / 187.5 = 1.2267 ohm; 0.1032 ohm of it are the circuit's own."""
    plan = plan_of({"site.loop_ohm": origin_ohm, "runs.grid.residual_ma": None}, None, "d2-schoolhouse")
    assert plan.job.rule_book == "as-nzs-3000"
    assert ("LOOP-SLOW" in {f.code for f in plan.stops}) is slow
    # In island mode what surely trips still counts: an average says nothing of one fault.
    assert plan.figures["circuits.backup.trip_a"].value == 10 * 40


@pytest.mark.parametrize(("permit", "stopped"), [(8600.0, False), (8599.0, True)])
def test_pv_beside_the_inverter_counts_in_what_can_be_fed_in(permit: float, stopped: bool) -> None:
    """5000 W of the battery inverter, that can be told nothing here, and 3600 W of the PV inverter."""
    plan = plan_of({"site.export_limit_w": permit}, with_card("ferry-5", {"settings": []}), "d3-lockkeeper")
    assert ("GRID-EXPORT" in {f.code for f in plan.stops}) is stopped
    assert "GRID-PV-EXPORT" not in {f.code for f in plan.stops}


def test_pv_on_the_main_board_of_a_house_whose_inverter_gives_nothing_back_is_held_against_the_permit() -> None:
    document = demo_house("k05-homestead").model_dump(mode="json")
    main = next(t["id"] for t in document["things"] if t.get("duty") == "main")
    document["things"].append({"seat": "pv-inverter", "id": "shed", "title": "Shed", "card": "rush-3k6", "feeds": main})
    document["site"]["export_limit_w"] = 3599.0
    plan = derive(Job.model_validate(document), shelf())
    assert not plan.house.giving
    assert "3599 W are permitted" in next(f.text for f in plan.stops if f.code == "GRID-PV-EXPORT")


def leads_apart(**lengths: float) -> tuple[float, list[str]]:
    """How far a lead of 2 AWG lies apart from two of 3 AWG, %, and what is said of it."""
    edits = {f"runs.bat-{n}.installed_size": "3 AWG" for n in (1, 3)} | {"runs.bat-2.installed_size": "2 AWG"}
    plan = plan_of({**edits, **{f"runs.{lead.replace('_', '-')}.length_m": metres for lead, metres in lengths.items()}})
    return plan.figures["bank.leads_apart"].value, [f.text for f in plan.findings if f.code == "BANK-LEAD-OHM"]


def test_leads_of_one_length_and_unlike_sizes_are_not_alike() -> None:
    # Table 8: 3 AWG has 26 % more resistance than 2 AWG.
    apart, said = leads_apart(bat_1=1.2, bat_2=1.2, bat_3=1.2)
    assert apart == pytest.approx(26, abs=1)
    assert len(said) == 1
    assert "bat-2 has the least and carries the most" in said[0]
    # A longer lead makes up for it: at the limit and just beyond.
    ratio = 1 + apart / 100
    within, silent = leads_apart(bat_1=1.2, bat_2=1.2 * ratio / 1.0999, bat_3=1.2)
    assert within == pytest.approx(9.99, abs=0.01)
    assert silent == []
    assert leads_apart(bat_1=1.2, bat_2=1.2 * ratio / 1.1001, bat_3=1.2)[1] != []

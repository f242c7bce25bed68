"""Small laws that the demo houses do not happen to show: signs, edges, words, and what a stack or a gap between modules changes."""

from __future__ import annotations

import numpy as np
import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.errors import BadFigure
from gumboot.core.expression import number
from gumboot.core.figure import Figure
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.plan.places import places
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rulebook.common.conductors import neutral_current_a
from gumboot.core.sim.ct_readings import MeterVerdict
from gumboot.core.sim.sun import Place, sky
from gumboot.core.sim.switch_line import Board
from gumboot.core.sim.switch_line.rehearsal import moved
from gumboot.core.study.growth import room_to_grow
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.year import store_of, study_year
from gumboot.core.study.year.hours import grid_charge_w
from tests.helpers import bank_each, edited, findings, plan_of, roof, with_card

MODULE = shelf()["slate-410"]


def test_what_flows_in_the_neutral_of_two_legs_is_their_difference() -> None:
    assert neutral_current_a(30.0, 12.0) == neutral_current_a(12.0, 30.0) == 18.0


@pytest.mark.parametrize(("short", "rows"), [(0, 2), (1, 1)])
def test_a_second_row_needs_its_gap_too(short: float, rows: int) -> None:
    card = MODULE.model_dump()
    tall, gap = card["height_mm"], 20
    own = roof(
        width_mm=card["width_mm"] * 2 + 30,
        height_mm=2 * tall + gap - short,
        gap_mm=gap,
    )
    assert places(own, MODULE) == 2 * rows  # type: ignore[arg-type]


def test_boxes_that_touch_do_not_meet() -> None:
    box = Rect(0, 0, 100, 100)
    for other in (Rect(100, 0, 50, 50), Rect(0, 100, 50, 50), Rect(-50, 0, 50, 50), Rect(0, -50, 50, 50)):
        assert not box.meets(other)
        assert not other.meets(box)
    assert box.meets(Rect(99.9, 99.9, 1, 1))


def test_the_afternoon_is_the_warmest_hour_of_the_day_and_the_night_the_coldest() -> None:
    air = sky(Place(50, 8, 200, 1, (0.5,) * 12, (10.0,) * 12), 60).air_c.reshape(365, 24)
    assert np.allclose(air.mean(axis=1), 10.0)
    assert set(air.argmax(axis=1)) <= {14, 15}
    assert set(air.argmin(axis=1)) <= {2, 3}


def test_a_meter_without_channels_proves_nothing() -> None:
    assert not MeterVerdict((), "", 0.0, 0.0).right


def test_a_battery_switch_that_opens_empties_its_inverter_and_one_that_closes_does_not() -> None:
    plan = plan_of({})
    line = plan.power_up.line
    unit = next(s.unit for s in line.switches if s.part == "battery switch")
    charged = Board(line, frozenset({"bat-1"}), frozenset({unit}), frozenset())
    closed = moved(charged, "battery-switch")
    assert closed.charged == {unit}
    assert moved(closed, "battery-switch").charged == frozenset()
    # Another switch that opens leaves the capacitors as they are.
    assert moved(charged, "bat-1").charged == {unit}


def test_a_stack_takes_and_charges_at_its_whole_voltage() -> None:
    plan = derive(demo_house("d2-schoolhouse"), shelf())
    battery, inverter = plan.house.bank("bank").card, plan.seats.inverter
    store = store_of(plan)
    assert store.charge_w == pytest.approx(
        min(inverter.battery.charge_a, battery.charge_a) * 6 * battery.nominal_v / inverter.battery.efficiency
    )
    amps = plan.job.settings.grid_charge_a
    assert grid_charge_w(plan, store) == pytest.approx(amps * 6 * battery.nominal_v / inverter.battery.efficiency)


def test_what_one_more_battery_leaves_to_be_bought_is_told_in_kilowatt_hours() -> None:
    plan = plan_of({})
    study = study_year(plan)
    assert study.year is not None
    foreign = study.figures["buys.battery.import"].value
    today = study.year.imported_w.sum() / 1000
    # One battery of three more moves it by a few per cent, never by a factor.
    assert 0.7 * today < foreign < today
    own = 100 * (1 - foreign / study.figures["year.load"].value)
    assert study.figures["buys.battery.own"].value == pytest.approx(own)


def test_room_to_grow_of_the_first_bank_is_called_plainly() -> None:
    plan = derive(Job.model_validate(bank_each()), shelf())
    assert all(room.figure(2).key == f"room.{room.limit}" for room in room_to_grow(plan))
    assert all(room.figure(2).key == f"room.bank-2.{room.limit}" for room in room_to_grow(plan, "bank-2"))


@pytest.mark.parametrize(("units", "where"), [(1, "bank's terminals"), (2, "busbars"), (3, "busbars")])
def test_the_fault_of_a_bank_is_named_after_where_it_stands(units: int, where: str) -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["banks"][0]["units"] = document["banks"][0]["units"][:units]
    figures = derive(Job.model_validate(document), shelf()).figures
    assert figures["bank.fault_a"].name == f"Fault current at the {where}"
    assert bool(figures["bank.bms_a"].limits) is (units > 1)


def test_each_factor_stands_under_its_own_name() -> None:
    sized = plan_of({}).circuits.sized["grid"]
    assert sized.ambient_factor.key != sized.grouping_factor.key
    assert "ambient" in sized.ambient_factor.name.lower()
    assert "ambient" not in sized.grouping_factor.name.lower()


@pytest.mark.parametrize(("float_v", "found"), [(56.4, False), (56.5, True)])
def test_float_may_equal_absorb_and_nothing_else_its_neighbour(float_v: float, found: bool) -> None:
    card = shelf()["cobble-5"].model_dump()["open_loop"]
    assert card["absorb_v"] == 56.4
    assert ("SET-ORDER" in {f.code for f in findings({}, with_card("cobble-5", {"open_loop.float_v": float_v}))}) is found
    same = {"open_loop.recover_v": card["grid_takeover_v"]}
    assert "SET-ORDER" in {f.code for f in findings({}, with_card("cobble-5", same))}


def test_a_terminal_without_a_torque_of_its_maker_is_told() -> None:
    card = shelf()["plover-6s"].model_dump(mode="json")
    nth = next(i for i, port in enumerate(card["ports"]) if port["id"] == "BATTERY")
    port = card["ports"][nth]
    port["terminals"][0] |= {"torque_nm": None, "screw": "hex_head"}
    changed = type(shelf()["plover-6s"]).model_validate(card)
    found = [f for f in derive(edited({}), {**shelf(), "plover-6s": changed}).findings if f.code == "TERM-FALLBACK"]
    assert len(found) == 1
    assert "BATTERY" in found[0].where


def test_a_layout_says_how_many_modules_it_gives_up() -> None:
    found = find_layouts(plan_of({}))
    best, fewer = found.best[0], next(x for x in found.best if x.modules < found.best[0].modules)
    assert f"{best.modules - fewer.modules} fewer modules" in fewer.why
    by_margin = find_layouts(plan_of({}), None, 40, "margin")
    more = next(x for x in by_margin.best if x.modules > by_margin.best[0].modules)
    assert f"{more.modules - by_margin.best[0].modules} more modules" in more.why


def test_nothing_is_divided_by_nothing() -> None:
    none = Figure("x", "x", "Output voltage", 0.0, "V", "arith")
    with pytest.raises(BadFigure, match="Output voltage comes to 0"):
        _ = number(5.0) / none
    with pytest.raises(BadFigure, match="correct it on its card"):
        derive(edited({}), with_card("plover-6s", {"output_v": 0.0}))


@pytest.mark.parametrize("name", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_the_supply_that_is_asked_is_one_that_can_be_set(name: str) -> None:
    row = next(s for s in derive(demo_house(name), shelf()).settings.sheet if s.key == "grid_type")
    assert row.text in row.choices

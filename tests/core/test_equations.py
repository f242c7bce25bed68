"""The numbered equations, by hand and by outside values."""

from __future__ import annotations

import math

import pytest

from gumboot.core import units
from gumboot.core.card.parts import DataPort, Pin
from gumboot.core.errors import OutOfRange
from gumboot.core.plan.links import DipBlock, dip_positions, lead_cores
from gumboot.core.plan.wall import Rect
from gumboot.core.plan.wall.fixing import withdrawal_n_per_mm
from gumboot.core.rulebook.common import bank
from gumboot.core.rulebook.common.insulation import InsulationTest, insulation_test
from gumboot.core.rulebook.north_american import battery, connection
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.sim.autonomy import Day
from gumboot.web.lists import new_item
from tests.helpers import edited, plan_of


def test_string_voltage_at_reference_is_count_times_module() -> None:
    assert pv.string_voltage_v(10, 40.0, -0.003, 25) == 400.0


def test_string_voltage_by_hand() -> None:
    # 11 modules of 37.6 V, -0.26 %/K, at -14 °C: 11 x 37.6 x 1.1014 = 455.54 V.
    assert pv.string_voltage_v(11, 37.6, -0.0026, -14) == pytest.approx(455.54, abs=0.005)


def test_voltage_rise_lies_within_the_tabulated_method() -> None:
    # NEC 2023 Table 690.7(A), from memory: crystalline silicon 1.14 at -11 to -15 °C, 1.02 at 20 to 24 °C. A
    # module at -0.35 %/K is what that table was drawn for.
    assert pv.module_voltage_v(1.0, -0.0035, -15) == pytest.approx(1.14, abs=0.005)
    assert pv.module_voltage_v(1.0, -0.0035, 20) == pytest.approx(1.02, abs=0.005)


def test_pv_currents_are_156_percent_together() -> None:
    # 690.8(A)(1) and (B)(1): the well-known 1.25 x 1.25 = 1.5625.
    assert pv.conductor_current_a(pv.maximum_circuit_current_a(10.0, 1)) == pytest.approx(15.625)
    assert pv.maximum_circuit_current_a(10.0, 2) == 25.0


def test_busbar_example() -> None:
    # The usual example of 705.12(B)(2): 200 A busbar, 200 A main: 40 A remain, a 32 A source fits and no more.
    assert connection.busbar_demand_a(200, 32) == connection.busbar_limit_a(200) == 240


def test_battery_current_conserves_energy() -> None:
    amps = battery.inverter_input_current_a(6000, 48, 0.94)
    assert amps * 48 * 0.94 == pytest.approx(6000)


def test_precharge_reaches_99_percent_after_five_time_constants() -> None:
    seconds = bank.precharge_five_s(33.0, 22000.0)
    assert seconds == pytest.approx(5 * 0.726)
    assert 1 - math.exp(-seconds / (33.0 * 0.022)) > 0.99


@pytest.mark.parametrize(("nm", "lbf_in", "digits"), [(2.9, 26, 0.5), (4.0, 35, 0.5), (5.6, 50, 0.5), (18.6, 165, 0.5)])
def test_torque_pairs_as_labels_print_them(nm: float, lbf_in: float, digits: float) -> None:
    # Common practice pairs, printed to whole lbf in.
    assert units.lbf_in_from_nm(nm) == pytest.approx(lbf_in, abs=digits)


def test_torque_pair_in_lbf_ft() -> None:
    # Common practice: 15 N m is printed as 11 lbf ft.
    assert units.lbf_ft_from_nm(15) == pytest.approx(11, abs=0.5)
    assert units.lbf_ft_from_nm(1.3558179483314004) == pytest.approx(1, abs=1e-12)


def test_lag_screw_withdrawal_table_value() -> None:
    # NDS 2018 Table 12.2A, from memory: 3/8 in lag in G = 0.50 wood, 305 lbf per inch; 1/4 in in 0.42: 173.
    inch = 25.4
    assert withdrawal_n_per_mm(0.50, 0.375 * inch) * inch / units.NEWTON_PER_LBF == pytest.approx(305, abs=0.8)
    assert withdrawal_n_per_mm(0.42, 0.25 * inch) * inch / units.NEWTON_PER_LBF == pytest.approx(173, abs=0.8)


def test_rectangles() -> None:
    a, b = Rect(0, 0, 10, 10), Rect(10, 0, 5, 5)
    assert not a.meets(b)
    assert a.meets(Rect(9.9, 0, 5, 5))
    assert a.gap_to(Rect(13, 14, 1, 1)) == 5.0
    assert Rect(1, 1, 9, 9).inside(a)
    assert not Rect(1, 1, 9.1, 9).inside(a)


@pytest.mark.parametrize(
    ("address", "switches"), [(1, "1000"), (2, "0100"), (3, "1100"), (4, "0010"), (5, "1010"), (15, "1111"), (0, "0000")]
)
def test_dip_is_binary_with_switch_one_least(address: int, switches: str) -> None:
    assert "".join(str(int(s)) for s in dip_positions(address, 4)) == switches


@pytest.mark.parametrize(
    ("block", "address", "terminated", "switches"),
    [
        (DipBlock(4), 3, True, "1100"),
        # Switch 4 is the terminator: three carry the address.
        (DipBlock(4, 4), 4, True, "0011"),
        (DipBlock(4, 4), 3, False, "1100"),
        (DipBlock(4, 1), 1, True, "1100"),
        (DipBlock(4, 0, most_first=True), 3, False, "0011"),
        (DipBlock(4, 0, on_is=0), 3, False, "0011"),
        (DipBlock(4, 0, offset=1), 3, False, "0100"),
        (DipBlock(6, 6, most_first=True, on_is=0, offset=1), 4, True, "111001"),
    ],
)
def test_a_block_is_shown_as_its_card_reads_it(block: DipBlock, address: int, terminated: bool, switches: str) -> None:
    assert "".join(str(int(s)) for s in block.show(address, terminated)) == switches


@pytest.mark.parametrize(("block", "most"), [(DipBlock(4), 15), (DipBlock(4, 4), 7), (DipBlock(4, 4, offset=1), 8)])
def test_the_highest_address_and_one_more(block: DipBlock, most: int) -> None:
    assert block.most == most
    assert block.show(most, False)
    with pytest.raises(ValueError, match="does not fit"):
        block.show(most + 1, False)


def test_dip_refuses_what_does_not_fit() -> None:
    with pytest.raises(ValueError, match="does not fit"):
        dip_positions(16, 4)


def test_lead_pairs_pins_by_signal() -> None:
    ours = DataPort(id="A", title="A", bus="CAN", pins=[Pin(pin=4, signal="CAN H"), Pin(pin=5, signal="CAN L"), Pin(pin=1, signal="spare")])
    theirs = DataPort(id="B", title="B", bus="CAN", pins=[Pin(pin=8, signal="CAN L"), Pin(pin=7, signal="CAN H")])
    assert [(c.signal, c.inverter_pin, c.battery_pin, c.colour) for c in lead_cores(ours, theirs)] == [
        ("CAN H", 4, 7, "blue"),
        ("CAN L", 5, 8, "white/blue"),
    ]


def test_hours_carried_by_hand() -> None:
    flat = [500.0] * 24
    assert Day(flat).hours_carried(7, 2000) == 4.0
    stepped = [100.0] * 12 + [200.0] * 12
    # From 11:00: one hour at 100 W, then 200 W: 100 Wh + 2 h x 200 W = 500 Wh.
    assert Day(stepped).hours_carried(11, 500) == 3.0
    # More than a day: 3600 Wh a day.
    assert Day(stepped).hours_carried(0, 3600 + 50) == 24.5


@pytest.mark.parametrize(
    ("system_v", "test_v", "least_mohm"),
    [(1, 250, 0.5), (119.9, 250, 0.5), (120, 500, 1), (500, 500, 1), (500.1, 1000, 1), (1000, 1000, 1), (1000.1, 1500, 1), (1500, 1500, 1)],
)
def test_insulation_by_class_of_voltage(system_v: float, test_v: float, least_mohm: float) -> None:
    # IEC 62446-1, Table 1.
    assert insulation_test(system_v) == InsulationTest(test_v, least_mohm)


@pytest.mark.parametrize("system_v", [0, -5, 1500.1])
def test_insulation_beyond_the_table_is_refused(system_v: float) -> None:
    with pytest.raises(OutOfRange, match="62446"):
        insulation_test(system_v)


@pytest.mark.parametrize(
    ("house", "check", "volts"), [("d1-saltmarsh", "iso-PV1", 1000), ("d1-saltmarsh", "iso-PV2", 500), ("d2-schoolhouse", "iso-PV1", 1000)]
)
def test_a_string_is_tested_at_its_own_class(house: str, check: str, volts: float) -> None:
    found = next(c for c in plan_of(name=house).checks if c.id == check)
    assert f"at {volts} V" in found.title
    assert "nobody on the roof" in found.caution
    assert "surge arresters out" in found.prepare


@pytest.mark.parametrize("units", ["US", "SI"])
def test_a_new_backing_board_is_12_mm_thick_in_any_units(units: str) -> None:
    job = edited({"preferences.units": units, "walls.wall.board": None})
    typed = {"material": "cement board", "x_mm": "0", "y_mm": "0", "width_mm": "1200 mm", "height_mm": "1200 mm"}
    assert new_item(job, "walls.wall.board", typed)["thickness_mm"] == 12

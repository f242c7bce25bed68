"""North American tables row by row against geometry, heat and a second published table. Values of the code were recalled: these tests judge them."""

from __future__ import annotations

import math
from typing import get_args

import pytest

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.rulebook.books.raceways import NecRaceways
from gumboot.core.rulebook.loader import read_table
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american import earthing, photovoltaic, place, raceway, terminations
from gumboot.core.rulebook.north_american.overcurrent import continuous_minimum_a, largest_device_a
from gumboot.core.units import NM_PER_LBF_IN

ALUMINIUM = tuple(nec.ALUMINIUM)


@pytest.mark.parametrize("size", ALUMINIUM)
def test_aluminium_resistance_is_that_of_its_area(size: str) -> None:
    # 61 % IACS aluminium at 75 °C against copper: 17.345 ohm cmil/ft at 20 °C, 0.00404 per K, 2 % for stranding.
    row = nec.conductor(size, "aluminium")
    assert row.area_mm2 == pytest.approx(nec.conductor(size).area_mm2)
    expected = 0.028265 * (1 + 0.00404 * 55) * 1000 / row.area_mm2 * 1.02
    assert row.resistance_ohm_per_km == pytest.approx(expected, rel=0.03)


@pytest.mark.parametrize("size", ALUMINIUM)
@pytest.mark.parametrize("column", [60, 75, 90])
def test_aluminium_carries_what_its_conductivity_allows(size: str, column: nec.Column) -> None:
    # Equal heat at equal surface: current goes with the root of conductivity, sqrt(0.61) = 0.78; the table rounds to 5 A.
    copper, aluminium = nec.ampacity_a(size, column), nec.ampacity_a(size, column, "aluminium")
    assert abs(aluminium - 0.78 * copper) <= 5 + 0.04 * copper


def test_both_materials_rise_with_size_and_column() -> None:
    for material, table in nec.TABLE.items():
        for column in (60, 75, 90):
            amps = [nec.ampacity_a(size, column, material) for size in table]
            assert amps == sorted(amps)
        assert all(row.ampacity_a[60] <= row.ampacity_a[75] <= row.ampacity_a[90] for row in table.values())


@pytest.mark.parametrize(("kind", "size"), [(r["kind"], r["trade_size"]) for r in read_table("north_american/tables/raceways.csv")])
def test_raceway_area_is_that_of_its_diameter(kind: str, size: str) -> None:
    row = next(r for r in read_table("north_american/tables/raceways.csv") if (r["kind"], r["trade_size"]) == (kind, size))
    circle = math.pi / 4 * float(row["inside_diameter_in"]) ** 2
    assert float(row["area_in2"]) == pytest.approx(circle, rel=0.004, abs=0.0015)


@pytest.mark.parametrize(
    "row", read_table("north_american/tables/insulated_conductors.csv"), ids=lambda r: f"{r['insulation']} {r['size']}"
)
def test_insulated_area_is_that_of_its_diameter_and_holds_its_copper(row: dict[str, str]) -> None:
    diameter = float(row["diameter_in"])
    assert float(row["area_in2"]) == pytest.approx(math.pi / 4 * diameter**2, abs=0.0006)
    assert diameter * 25.4 > 2 * math.sqrt(nec.conductor(row["size"]).area_mm2 / math.pi) + 0.7


# NEC 2023 Informative Annex C, Table C.1: how many THHN/THWN-2 of a size go into EMT (from memory).
ANNEX_C1 = {
    "1/2": {"14 AWG": 12, "12 AWG": 9, "10 AWG": 5, "8 AWG": 3},
    "3/4": {"14 AWG": 22, "12 AWG": 16, "10 AWG": 10, "8 AWG": 6, "6 AWG": 4},
    "1": {"14 AWG": 35, "12 AWG": 26, "10 AWG": 16, "8 AWG": 9, "6 AWG": 7},
}


@pytest.mark.parametrize(("trade", "size", "count"), [(t, s, n) for t, row in ANNEX_C1.items() for s, n in row.items()])
def test_fill_gives_annex_c_counts(trade: str, size: str, count: int) -> None:
    fit = raceway.fill_limit(3) * raceway.raceway_area_mm2("EMT", trade) / raceway.insulated_area_mm2("THWN-2", size)
    # Chapter 9 note 7: a remainder of 0.8 or more counts as one.
    assert math.floor(fit + 0.2) == count


@pytest.mark.parametrize(
    ("count", "length_mm", "share"),
    [(1, None, 0.53), (2, None, 0.31), (3, None, 0.40), (9, None, 0.40), (9, 600.0, 0.60), (9, 600.1, 0.40)],
)
def test_fill_share_turns_at_each_edge(count: int, length_mm: float | None, share: float) -> None:
    assert raceway.fill_limit(count, length_mm) == share


def test_raceways_refuse_what_they_do_not_hold() -> None:
    with pytest.raises(NotInTable, match="1/2, 3/4"):
        raceway.raceway_area_mm2("EMT", "5")
    with pytest.raises(NotInTable, match="raceway"):
        raceway.trade_sizes("bamboo")
    with pytest.raises(OutOfRange, match="two raceways"):
        raceway.smallest_raceway("FMC", [5000.0])
    with pytest.raises(OutOfRange, match="1 or more"):
        raceway.fill_limit(0)
    assert raceway.smallest_raceway("EMT", [raceway.insulated_area_mm2("THWN-2", "6 AWG")] * 4) == "3/4"
    # 376.22: a fifth of a wireway, however many lie there.
    assert [NecRaceways().share("wireway", conductors, None)[0] for conductors in (1, 3, 40)] == [0.2] * 3


def test_bend_radius_is_four_to_six_diameters() -> None:
    for row in read_table("north_american/tables/bend_radius.csv"):
        inside = next(
            float(r["inside_diameter_in"])
            for r in read_table("north_american/tables/raceways.csv")
            if (r["kind"], r["trade_size"]) == ("EMT", row["trade_size"])
        )
        assert 3.5 < float(row["radius_in"]) / inside < 6.6
    with pytest.raises(NotInTable):
        raceway.bend_radius_mm("5")


@pytest.mark.parametrize(
    ("size", "inches"),
    [
        ("10 AWG", 0),
        ("8 AWG", 1.5),
        ("6 AWG", 1.5),
        ("4 AWG", 2),
        ("2 AWG", 2.5),
        ("1 AWG", 3),
        ("2/0 AWG", 3.5),
        ("4/0 AWG", 4),
        ("250 kcmil", 4.5),
        ("500 kcmil", 6),
    ],
)
def test_bending_space(size: str, inches: float) -> None:
    assert raceway.bending_space_mm(size) == pytest.approx(inches * 25.4)


# NEC 2023 Table 250.66 (from memory).
@pytest.mark.parametrize(
    ("service", "electrode"),
    [
        ("2 AWG", "8 AWG"),
        ("1 AWG", "6 AWG"),
        ("1/0 AWG", "6 AWG"),
        ("2/0 AWG", "4 AWG"),
        ("3/0 AWG", "4 AWG"),
        ("4/0 AWG", "2 AWG"),
        ("350 kcmil", "2 AWG"),
        ("500 kcmil", "1/0 AWG"),
    ],
)
def test_electrode_conductor(service: str, electrode: str) -> None:
    assert earthing.electrode_size(service) == electrode
    order = lambda size: nec.conductor(size).ordinal
    for kind, enough in (("rod, pipe or plate", "6 AWG"), ("concrete-encased", "4 AWG")):
        assert earthing.electrode_size(service, kind=kind) == min(electrode, enough, key=order)
    assert earthing.electrode_size(service, kind="ground ring", ring="2 AWG") == min(electrode, "2 AWG", key=order)
    assert earthing.electrode_size(service, kind="ground ring") == electrode
    aluminium = earthing.electrode_size(service, electrode="aluminium")
    assert earthing.electrode_size(service, electrode="aluminium", kind="rod, pipe or plate") == min(aluminium, "4 AWG", key=order)
    # No less is said to suffice in concrete.
    assert earthing.electrode_size(service, electrode="aluminium", kind="concrete-encased") == aluminium


def test_aluminium_electrodes_carry_what_copper_ones_do() -> None:
    for service in ("2 AWG", "1/0 AWG", "3/0 AWG", "350 kcmil", "500 kcmil"):
        copper, aluminium = earthing.electrode_size(service), earthing.electrode_size(service, electrode="aluminium")
        assert 1.5 < nec.conductor(aluminium).area_mm2 / nec.conductor(copper).area_mm2 < 1.7


def test_equipment_grounding_bears_a_fault_for_a_short_while() -> None:
    # One ampere per 30 cmil for 5 s is the old rule of thumb of the table; no row may fall under 1 A per 60 cmil of its device.
    for row in read_table("north_american/tables/equipment_grounding.csv"):
        for material, column in (("copper", "copper_size"), ("aluminium", "aluminium_size")):
            assert nec.conductor(row[column], material).area_mm2 / float(row["device_max_a"]) > 0.06


def test_reactance_is_that_of_close_conductors() -> None:
    # X = omega mu0 / 2 pi (ln(D / r) + 0.25) with D about 2.2 to 4 conductor radii: 0.1 to 0.2 ohm/km at 60 Hz; steel a quarter more.
    for size in nec.SIZES:
        plastic, steel = nec.reactance_ohm_per_km(size), nec.reactance_ohm_per_km(size, "steel")
        assert 0.10 < plastic < 0.20
        assert 1.15 < steel / plastic < 1.35


@pytest.mark.parametrize("size", [r["size"] for r in read_table("north_american/tables/flexible_cable.csv")])
def test_free_air_carries_more_than_a_raceway(size: str) -> None:
    for column in (60, 75, 90):
        free, in_raceway = nec.flexible_cable_ampacity_a(size, column), nec.ampacity_a(size, column)
        assert 1.3 < free / in_raceway < 1.75


def test_flexible_cable_and_cords() -> None:
    assert not nec.battery_cable_allowed("1/0 AWG")
    assert nec.battery_cable_allowed("2/0 AWG")
    assert nec.cord_ampacity_a("12 AWG", 3) == 20
    assert nec.cord_ampacity_a("12 AWG", 2) == 25
    for carrying in (2, 3):
        amps = [nec.cord_ampacity_a(r["size"], carrying) for r in read_table("north_american/tables/cord.csv")]
        assert amps == sorted(amps)
    with pytest.raises(NotInTable):
        nec.cord_ampacity_a("1 AWG", 3)


@pytest.mark.parametrize("ambient", [24.9, 20, 10, 0, -10, -20, -25, -40])
def test_tabulated_voltage_lies_about_crystalline_silicon(ambient: float) -> None:
    # Modules lose 0.25 to 0.40 % per K; the table bands 5 K and rounds up.
    factor = photovoltaic.tabulated_correction(ambient)
    assert 1 + 0.0028 * (25 - ambient) - 0.011 <= factor <= 1 + 0.0042 * (25 - ambient) + 0.021


def test_tabulated_voltage_ends() -> None:
    assert photovoltaic.tabulated_correction(25) == 1.0
    assert photovoltaic.tabulated_correction(-40) == 1.25
    with pytest.raises(OutOfRange, match="coefficient"):
        photovoltaic.tabulated_correction(-40.1)


@pytest.mark.parametrize(("volts", "condition", "feet"), [(120, 1, 3), (150, 3, 3), (151, 1, 3), (277, 2, 3.5), (600, 3, 4)])
def test_working_space(volts: float, condition: int, feet: float) -> None:
    assert place.working_depth_mm(volts, condition) == pytest.approx(feet * 304.8)


def test_places_end() -> None:
    with pytest.raises(OutOfRange):
        place.working_depth_mm(601)
    with pytest.raises(NotInTable, match="garage"):
        place.room_limit_wh("bedroom")


def test_rooftop_adder_turns_at_seven_eighths() -> None:
    assert nec.rooftop_ambient_c(35, 21.9) == 68
    assert nec.rooftop_ambient_c(35, 22) == 35
    assert nec.rooftop_ambient_c(35, 0) == 68
    with pytest.raises(OutOfRange):
        nec.rooftop_ambient_c(35, -1)


def test_parallel_sets_begin_at_1_0() -> None:
    assert not nec.parallel_sets_allowed("1 AWG")
    assert nec.parallel_sets_allowed("1/0 AWG")


def test_device_for_continuous_load() -> None:
    assert continuous_minimum_a(40, 10) == 60
    assert continuous_minimum_a(40, 10, fully_rated=True) == 50
    assert largest_device_a("10 AWG", 30, "aluminium") == 25


def test_torque_tables_rise_with_size() -> None:
    for screw in ("slot_large", "split_bolt", "hex_head"):
        values = [terminations.screw_torque_nm(size, screw) for size in ("10 AWG", "6 AWG", "2 AWG", "4/0 AWG", "350 kcmil")]
        assert values == sorted(values)
    assert terminations.screw_torque_nm("10 AWG", "slot_small") == pytest.approx(20 * NM_PER_LBF_IN)
    with pytest.raises(NotInTable, match="maker"):
        terminations.screw_torque_nm("1 AWG", "slot_small")
    assert terminations.socket_torque_nm("1/4") == pytest.approx(200 * NM_PER_LBF_IN)
    with pytest.raises(NotInTable):
        terminations.socket_torque_nm("1")
    assert terminations.fallback_torque_nm("4 AWG", "socket 5/16") == pytest.approx(275 * NM_PER_LBF_IN)
    assert terminations.fallback_torque_nm("4 AWG", "hex_head") == terminations.screw_torque_nm("4 AWG", "hex_head")
    for screw in ("socket 5/16", "hex_head"):
        with pytest.raises(NotInTable):
            terminations.fallback_torque_nm("16 mm2", screw)  # type: ignore[arg-type]
    named = {screw.removeprefix("socket ") for screw in get_args(terminations.OfTable2)}
    assert named == {r["socket_across_flats_in"] for r in read_table("north_american/tables/torque_socket.csv")}
    sockets = [float(r["lbf_in"]) for r in read_table("north_american/tables/torque_socket.csv")]
    assert sockets == sorted(sockets)

"""Conductor tables against physics, row by row: geometry, resistivity and the heat balance of an insulated wire."""

from __future__ import annotations

import math

import pytest

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.rulebook.common.conductors import drop_v
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.earthing import grounding_size, upsized_grounding
from gumboot.core.rulebook.north_american.overcurrent import STANDARD_A, largest_device_a, next_standard_a

# IEC 60028: annealed copper 1.7241e-8 ohm m at 20 °C, 0.00393 per K.
RHO_20, ALPHA = 1.7241e-8, 0.00393
GAUGE = {"1/0": 0, "2/0": -1, "3/0": -2, "4/0": -3}


def awg_area_mm2(size: str) -> float:
    """ASTM B258: diameter 0.127 mm x 92^((36 - n) / 39)."""
    number = GAUGE.get(size.split(maxsplit=1)[0])
    n = number if number is not None else int(size.split(maxsplit=1)[0])
    return float(math.pi / 4 * (0.127 * 92 ** ((36 - n) / 39)) ** 2)


@pytest.mark.parametrize("size", nec.SIZES)
def test_area_follows_the_gauge(size: str) -> None:
    area = nec.conductor(size).area_mm2
    expected = awg_area_mm2(size) if "AWG" in size else float(size.split(maxsplit=1)[0]) * 0.506707
    assert area == pytest.approx(expected, rel=0.002)


@pytest.mark.parametrize("size", nec.SIZES)
def test_resistance_follows_resistivity(size: str) -> None:
    row = nec.conductor(size)
    rho_75 = RHO_20 * (1 + ALPHA * 55)
    # Stranding lengthens the wires by about 2 %; ASTM B8 takes 2 %.
    expected = rho_75 / (row.area_mm2 * 1e-6) * 1000 * 1.02
    assert row.resistance_ohm_per_km == pytest.approx(expected, rel=0.012)


@pytest.mark.parametrize("size", nec.SIZES)
def test_ampacity_columns_follow_the_heat_balance(size: str) -> None:
    # I^2 r(T) = (T - 30) / R_th: the ratio of two columns is free of the thermal resistance.
    amps = nec.conductor(size).ampacity_a

    def relative(t: float) -> float:
        return math.sqrt((t - 30) / (1 + ALPHA * (t - 20)))

    # Table values stand at whole fives, so the tolerance is half a step on both, and a little for
    # the table's own rounding of the smallest sizes.
    step = 2.5 / amps[60] + 2.5 / amps[75] + 0.03
    assert amps[75] / amps[60] == pytest.approx(relative(75) / relative(60), rel=step)
    assert amps[90] / amps[75] == pytest.approx(relative(90) / relative(75), rel=step)


def test_ampacity_and_resistance_are_monotone() -> None:
    for small, large in zip(nec.SIZES, nec.SIZES[1:], strict=False):
        a, b = nec.conductor(small), nec.conductor(large)
        assert b.ordinal == a.ordinal + 1
        assert b.area_mm2 > a.area_mm2
        assert b.resistance_ohm_per_km < a.resistance_ohm_per_km
        for column in (60, 75, 90):
            assert b.ampacity_a[column] > a.ampacity_a[column]


# Anchor values of Table 310.16 that every electrician knows; from memory, NEC 2023.
@pytest.mark.parametrize(
    ("size", "column", "amps"),
    [
        ("14 AWG", 75, 20),
        ("12 AWG", 90, 30),
        ("10 AWG", 60, 30),
        ("8 AWG", 75, 50),
        ("6 AWG", 75, 65),
        ("4 AWG", 75, 85),
        ("2 AWG", 75, 115),
        ("1/0 AWG", 75, 150),
        ("2/0 AWG", 75, 175),
        ("4/0 AWG", 75, 230),
        ("250 kcmil", 75, 255),
        ("500 kcmil", 75, 380),
    ],
)
def test_anchor_ampacities(size: str, column: nec.Column, amps: float) -> None:
    assert nec.ampacity_a(size, column) == amps


@pytest.mark.parametrize("column", [60, 75, 90])
@pytest.mark.parametrize("ambient", [10, 15, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 75, 80, 85])
def test_ambient_factor_follows_310_15_b_equation(column: nec.Column, ambient: int) -> None:
    # 310.15(B): sqrt((Tc - Ta') / (Tc - Ta)), printed to two places for each band's upper end.
    if ambient >= column:
        with pytest.raises(OutOfRange):
            nec.ambient_factor(ambient, column)
        return
    expected = math.sqrt((column - ambient) / (column - 30))
    assert nec.ambient_factor(ambient, column) == pytest.approx(expected, abs=0.006)


def test_ambient_factor_changes_just_past_a_band() -> None:
    assert nec.ambient_factor(40, 90) == 0.91
    assert nec.ambient_factor(40.1, 90) == 0.87


@pytest.mark.parametrize(
    ("count", "factor"),
    [(1, 1.0), (3, 1.0), (4, 0.8), (6, 0.8), (7, 0.7), (9, 0.7), (10, 0.5), (20, 0.5), (21, 0.45), (31, 0.40), (41, 0.35)],
)
def test_grouping_at_each_edge(count: int, factor: float) -> None:
    assert nec.grouping_factor(count) == factor


def test_grouping_refuses_nothing() -> None:
    with pytest.raises(OutOfRange, match="1 or more"):
        nec.grouping_factor(0)
    with pytest.raises(OutOfRange, match="up to 400"):
        nec.grouping_factor(401)


def test_terminal_column_turns_at_100_a() -> None:
    assert nec.terminal_column_c(100, 60) == 60
    assert nec.terminal_column_c(100.1, 60) == 75
    assert nec.terminal_column_c(20, 75) == 75


def test_sizes_refuse_what_is_not_in_the_table() -> None:
    with pytest.raises(NotInTable, match="13 AWG"):
        nec.conductor("13 AWG")


def test_standard_ratings_at_each_edge() -> None:
    for rating in STANDARD_A:
        assert next_standard_a(rating) == rating
        assert next_standard_a(rating - 0.5) == rating
    with pytest.raises(OutOfRange):
        next_standard_a(800.1)


# NEC 2023 Table 240.6(A) (from memory): 10 A came with that edition; above 600 A the steps are 700 and 800 A.
@pytest.mark.parametrize(("least", "rating"), [(0.5, 10), (10, 10), (10.1, 15), (600.1, 700), (700.1, 800)])
def test_the_ends_of_the_standard_ratings(least: float, rating: float) -> None:
    assert next_standard_a(least) == rating


@pytest.mark.parametrize(
    ("size", "amps", "device"),
    [
        ("14 AWG", 25, 15),
        ("12 AWG", 30, 20),
        ("10 AWG", 40, 30),
        ("8 AWG", 50, 50),
        ("8 AWG", 50.1, 60),
        ("2/0 AWG", 175, 175),
        ("4/0 AWG", 230, 250),
    ],
)
def test_largest_device_by_240_4(size: str, amps: float, device: float) -> None:
    assert largest_device_a(size, amps) == device


@pytest.mark.parametrize(
    ("device", "size"),
    [
        (15, "14 AWG"),
        (16, "12 AWG"),
        (20, "12 AWG"),
        (21, "10 AWG"),
        (60, "10 AWG"),
        (61, "8 AWG"),
        (100, "8 AWG"),
        (101, "6 AWG"),
        (200, "6 AWG"),
        (201, "4 AWG"),
        (300, "4 AWG"),
        (400, "3 AWG"),
        (500, "2 AWG"),
        (600, "1 AWG"),
        (601, "1/0 AWG"),
        (800, "1/0 AWG"),
    ],
)
def test_grounding_at_each_edge(device: float, size: str) -> None:
    assert grounding_size(device) == size


def test_grounding_ends() -> None:
    # 800 A: 3/0 AWG of aluminium (from memory).
    assert grounding_size(800, "aluminium") == "3/0 AWG"
    with pytest.raises(OutOfRange):
        grounding_size(801)


def test_earth_grows_with_its_circuit_but_never_beyond_it() -> None:
    assert upsized_grounding("10 AWG", "8 AWG", "8 AWG") == "10 AWG"
    # 8 AWG to 4 AWG: 10 380 x 41 740 / 16 510 = 26 243 circular mils, a hair above 6 AWG (26 240).
    assert upsized_grounding("10 AWG", "8 AWG", "4 AWG") == "4 AWG"
    # 8 AWG to 6 AWG: 10 380 x 26 240 / 16 510 = 16 497, just inside 8 AWG (16 510).
    assert upsized_grounding("10 AWG", "8 AWG", "6 AWG") == "8 AWG"
    assert upsized_grounding("14 AWG", "14 AWG", "10 AWG") == "10 AWG"


def test_drop_by_hand() -> None:
    # 100 A through 30 m of 2 AWG: 2 x 30 m x 0.6365 ohm/km = 38.2 mohm, 3.82 V.
    assert drop_v(100, 30, nec.resistance_ohm_per_km("2 AWG"), "DC") == pytest.approx(3.82, abs=0.005)

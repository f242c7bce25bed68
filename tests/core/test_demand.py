"""What a house asks of its supply, told in each way that the code allows, worked by hand."""

from __future__ import annotations

from typing import Any

import pytest

from tests.helpers import codes, plan_of

K7 = "k07-ridge"


def figures(edits: dict[str, Any], house: str = K7) -> dict[str, float]:
    return {key: f.value for key, f in plan_of(edits, None, house).figures.items() if key.startswith("service.")}


@pytest.mark.parametrize(
    ("heating", "heating_w", "supplement_w", "counts"),
    [
        ("none", 0, 0, 3400),  # cooling is the larger
        ("heat pump alone", 5000, 0, 5000),
        ("heat pump with supplement", 4000, 6000, 4000 + 0.65 * 6000),
        ("central or fewer than four units", 10000, 0, 6500),
        ("four units or more", 10000, 0, 4000),
        ("storage", 7000, 0, 7000),
    ],
)
def test_the_optional_method_by_hand(heating: str, heating_w: float, supplement_w: float, counts: float) -> None:
    """1500 sq ft is 139.355 m2: 4500 VA at 3 VA a square foot; three circuits 4500; 12 kVA fastened: 21 kVA, of which 14.4 count."""
    found = figures({
        "demand.area_m2": 139.355, "demand.circuits": 3, "demand.appliances_w": 12000, "demand.cooling_w": 3400, "demand.heating": heating,
        "demand.heating_w": heating_w, "demand.supplement_w": supplement_w,
    })  # fmt: skip
    # 33 W for a square metre is 3 VA for a square foot, a little rounded up.
    general = 33 * 139.355 + 4500 + 12000
    assert general == pytest.approx(21000, rel=0.005)
    assert found["service.demand_w"] == pytest.approx(10000 + 0.4 * (general - 10000) + counts)
    assert found["service.demand_a"] == pytest.approx(found["service.demand_w"] / 240)


def test_an_existing_dwelling_by_hand() -> None:
    """8 kVA and 40 % of 12 kVA: 12.8 kVA on 240 V."""
    assert figures({"demand.method": "existing dwelling", "demand.there_w": 20000})["service.demand_a"] == pytest.approx(12800 / 240)


def test_below_100_a_the_method_by_area_is_no_answer() -> None:
    plan = plan_of({"demand.method": "by area", "demand.area_m2": 100, "demand.appliances_w": 2000})
    assert "demand.method" in {gap.path for gap in plan.gaps}
    assert "service.together_a" not in plan.figures


def test_charging_falls_on_the_fullest_line() -> None:
    """Two inverters side by side: twice 30 A at 57.6 V over 94 % on 240 V."""
    found = figures({}, "g01-cooperage")
    assert found["service.charging_a"] == pytest.approx(2 * 30 * 57.6 / 0.94 / 240, rel=0.01)
    # Three single-phase inverters, one on each phase: one's current on each.
    shifted = figures({"demand.method": "measured peak", "demand.peak_a": 10}, "g02-dairy")
    one = plan_of({}, None, "g02-dairy")
    bank = one.seats.battery
    assert shifted["service.charging_a"] == pytest.approx(30 * bank.v_max / 0.94 / one.seats.inverter.leg_v)


def test_nobody_is_asked_where_nothing_charges_from_the_grid() -> None:
    plan = plan_of({"settings.grid_charge_a": 0, "demand.method": None})
    assert "demand.method" not in {gap.path for gap in plan.gaps}
    assert "demand.method" in {gap.path for gap in plan_of({"demand.method": None}).gaps}


def test_a_way_of_north_america_says_nothing_elsewhere() -> None:
    assert "SERVICE-LOAD" not in codes({"demand.method": "existing dwelling", "demand.there_w": 90000}, None, "d3-lockkeeper")

"""Lead-acid in a plan: what it gives at a current, and what its charge is set to."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.core.as_left import as_asked
from gumboot.core.plan.derive import Plan
from gumboot.core.study.year.store import store_of
from tests.helpers import plan_of, with_card

D4 = "d4-lookout"
HEATER = {
    "loads.lights.running_w": 2400,
    "loads.lights.surge_w": 2400,
    "loads.lights.duty": 1.0,
    "loads.lights.from_hour": 0,
    "loads.lights.to_hour": 24,
}


def value(plan: Plan, key: str) -> float:
    return plan.figures[key].value


def by_integration(capacity_ah: float, rated_h: float, exponent: float, amps: float) -> float:
    """Share of the capacity that is given: by stepping the discharge, each step using up what Peukert's law says."""
    held, given, step_h = 1.0, 0.0, 0.0005
    lasts_h = rated_h * (capacity_ah / (rated_h * amps)) ** exponent
    while held > 0:
        held -= step_h / lasts_h
        given += amps * step_h
    return given / capacity_ah


@pytest.mark.parametrize("exponent", [1.0, 1.15, 1.3])
def test_a_strong_current_leaves_less_of_the_energy(exponent: float) -> None:
    plan = plan_of(HEATER, with_card("anvil-6v", {"lead_acid.peukert": exponent}), D4)
    amps = value(plan, "bank.hour_a")
    assert amps > value(plan, "bank.rated_a")
    share = by_integration(325, 20, exponent, amps)
    assert value(plan, "bank.peukert") == pytest.approx(share, rel=1e-3)
    # Eight blocks of 1950 Wh from full down to half.
    assert value(plan, "bank.usable") == pytest.approx(8 * 1950 * 0.5 * share, rel=1e-3)


def test_reserve_and_year_know_of_it_too() -> None:
    """65 % kept of which 15 % lie above the floor, at 92 %."""
    plan = plan_of(HEATER, None, D4)
    share = value(plan, "bank.peukert")
    assert share < 0.8
    assert value(plan, "bank.reserve") == pytest.approx(8 * 1950 * 0.15 * 0.92 * share)
    assert store_of(plan).capacity_wh == pytest.approx(8 * 1950 * share)


def test_a_weak_current_is_no_gain() -> None:
    plan = plan_of({}, None, D4)
    assert value(plan, "bank.hour_a") < value(plan, "bank.rated_a")
    assert value(plan, "bank.peukert") == 1


@pytest.mark.parametrize("air_c", [-10.0, 0.0, 25.0, 40.0])
def test_charge_voltage_follows_the_air(air_c: float) -> None:
    """3 cells in each of eight blocks, 5 mV each."""
    plan = plan_of({"site.room_low_c": air_c, "site.room_high_c": max(air_c, 41)}, None, D4)
    assert value(plan, "settings.absorb_cold") == pytest.approx(58.4 + 24 * 0.005 * (25 - air_c))


def rows(edits: dict[str, Any], card: dict[str, Any] | None = None) -> dict[str, Any]:
    sheet = plan_of(edits, with_card("anvil-6v", card) if card else None, D4).settings.sheet
    return {row.key: row.text if row.figure is None else (row.figure.value, row.figure.unit) for row in sheet}


def test_the_sheet_says_how_charging_ends_and_how_it_follows() -> None:
    found = rows({"settings.equalise": True})
    assert found["absorb_minutes"] == (150, "min")
    assert found["tail_a"] == (8, "A")
    assert found["shift_mv_k"] == (-5, "mV/K")
    assert (found["equalise"], found["equalise_v"], found["equalise_days"]) == ("on", (62, "V"), (60, "d"))


@pytest.mark.parametrize(("on", "chemistry"), [(False, "lead-acid flooded"), (True, "lead-acid gel"), (True, "lead-acid sealed")])
def test_what_is_not_equalised_is_told_off(on: bool, chemistry: str) -> None:
    found = rows({"settings.equalise": on}, {"chemistry": chemistry})
    assert found["equalise"] == "off"
    assert "equalise_v" not in found


def test_lithium_is_told_none_of_it() -> None:
    plan = plan_of()
    assert not {"shift_mv_k", "equalise"} & {row.key for row in plan.settings.sheet}
    assert "bank.peukert" not in plan.figures


@pytest.mark.parametrize(
    ("typed", "same"),
    [
        ("-5", True),
        ("5", True),
        ("-5 mV/K", True),
        ("5 mV/°C", True),
        ("0.005 V/K", True),
        ("4", False),
        ("-4 mV/K", False),
        ("on", False),
        ("", False),
    ],
)
def test_compensation_as_devices_show_it(typed: str, same: bool) -> None:
    """Many devices leave the sign out: there is one way only in which it goes."""
    row = next(row for row in plan_of({}, None, D4).settings.sheet if row.key == "shift_mv_k")
    assert as_asked(row, typed, datetime(2027, 3, 1, tzinfo=UTC)) == same

"""Lead-acid in a plan: what it gives at a current, and what its charge is set to."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.as_left import as_asked
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.standing import stand
from gumboot.core.study.year.store import store_of
from gumboot.drawing.bank import bank_drawing
from gumboot.drawing.single_line import single_line
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


def strings_of_blocks(fuse_a: float | None = 150.0, units: int = 16, strings: int = 2, box: str | None = "trough-300") -> dict[str, Any]:
    """The lookout with two strings of eight blocks side by side on bars."""
    document = demo_house(D4).model_dump(mode="json")
    bank = document["banks"][0]
    bank |= {"string_fuse_v": 80.0, "string_fuse_breaks_a": 10000.0}
    bank |= {"units": [{"id": f"bat-{n}"} for n in range(1, units + 1)], "strings": strings, "string_fuse_a": fuse_a}
    if box:
        document["things"].append({"seat": "busbar", "id": "busbar", "card": box, "bank": "bank"})
    document["runs"] += [{"id": f"bat-{n}", "length_m": 1.2, "ambient_c": 30} for n in (1, 9)]
    document["walls"][0]["placements"].append({"id": "bat-9", "x_mm": 4400, "y_mm": 0})
    document["walls"][0] |= {"width_mm": 6000, "vent_cm2": 500, "openings": []}
    document["walls"][0]["board"]["width_mm"] = 5900
    return document


def planned(document: dict[str, Any]) -> Plan:
    return derive(Job.model_validate(document), shelf())


def test_two_strings_of_blocks_meet_at_bars() -> None:
    plan = planned(strings_of_blocks())
    assert plan.stops == ()
    ends = {c.id: [(core.ends[0].place, core.ends[-1].place) for core in c.cores] for c in plan.circuits.all}
    assert ends["bat-1"] == [("bat-1", "busbar"), ("bat-8", "busbar")]
    assert ends["bat-9"] == [("bat-9", "busbar"), ("bat-16", "busbar")]
    assert len(ends["interlinks"]) == 14
    assert ("bat-8", "bat-9") not in ends["interlinks"]
    # Twice the charge and the fault current of one string; 24 cells in series as before.
    assert value(plan, "settings.capacity") == pytest.approx(650)
    assert value(plan, "bank.fault_a") == pytest.approx(5200)
    assert value(plan, "bank.shift") == pytest.approx(-0.12)
    assert value(plan, "settings.tail_a") == pytest.approx(16)
    assert [value(plan, f"bank.share.bat-{n}") for n in (1, 9)] == pytest.approx([value(plan, "bank.design_a") / 2] * 2)
    assert [s.title for s in plan.power_up.steps if s.id in ("on-bat-1", "on-bat-9")] == [
        "Close the fuse of the string of bat-1",
        "Close the fuse of the string of bat-9",
    ]
    assert "fuses 150 A" in str(single_line(plan))
    assert "8 × bat-9" in str(bank_drawing(plan))


@pytest.mark.parametrize(
    ("document", "code"),
    [
        (strings_of_blocks(units=15), "BANK-STACKS"),
        (strings_of_blocks(strings=3, units=24), "BANK-STACKS"),
        (strings_of_blocks(box=None), "BANK-STACKS"),
        (strings_of_blocks(fuse_a=125.0), "DEVICE-SMALL"),
    ],
)
def test_strings_of_blocks_that_do_not_stand_well(document: dict[str, Any], code: str) -> None:
    assert code in {f.code for f in planned(document).stops}


def test_the_fuse_of_a_string_is_asked() -> None:
    document = strings_of_blocks(fuse_a=None)
    document["banks"][0] |= {"string_fuse_v": None, "string_fuse_breaks_a": None}
    plan = planned(document)
    asked = {gap.path for gap in plan.gaps if gap.station == "bank"}
    assert asked == {f"banks.bank.string_fuse_{what}" for what in ("a", "v", "breaks_a")}
    assert stand(plan, [], datetime(2027, 3, 1, tzinfo=UTC)).stations["bank"].state != "clear"


@pytest.mark.parametrize(
    ("field", "at_limit", "beyond", "code"),
    [("string_fuse_breaks_a", 5200, 5199, "FUSE-INTERRUPT"), ("string_fuse_v", 64, 63.9, "DC-VOLTAGE")],
)
def test_the_fuse_of_a_string_at_its_limits(field: str, at_limit: float, beyond: float, code: str) -> None:
    """Two strings push 5200 A together; eight blocks reach 64 V."""
    for value_, stops in ((at_limit, False), (beyond, True)):
        document = strings_of_blocks()
        document["banks"][0][field] = value_
        assert (code in {f.code for f in planned(document).stops}) == stops

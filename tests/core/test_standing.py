"""Plan and records together: bands, calibration, tug, re-checks, holds and what is missing."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.plan.derive import Plan
from gumboot.core.rules import RULES
from gumboot.core.standing import LINK_TASKS, Record, Standing, stand
from tests.helpers import plan_of

NOW = datetime(2026, 11, 24, 12, tzinfo=UTC)
LUG = "inverter.battery.pos.bat-main"


# code: (check, the last answer in the band, the first beyond)
READINGS: dict[str, tuple[str, float | bool, float | bool]] = {
    "READ-LOOK": ("look-glands", True, False),
    "READ-LOCKED": ("look-open", True, False),
    "READ-DEAD": ("dead-dc", 5.0, 5.1),
    "READ-POLARITY": ("polarity-PV1", True, False),
    "READ-INSULATION": ("iso-PV1", 1.0, 0.99),
    # 11 x 37.6 V x 1.0182 = 421.13 V, less a twentieth.
    "READ-STRING": ("voc-PV1", 400.08, 400.07),
    "READ-PACK": ("pack-bat-1", 44.8, 44.7),
    "READ-EARTH": ("earth-grid", 1.0, 1.01),
    "READ-BUS": ("bus-pair", 66.0, 66.1),
    "READ-ISLAND": ("island-volts", 228.0, 227.9),
    "READ-SOC": ("soc-agree", 1.0, 1.1),
    "READ-HEAT": ("thermal", 75.0, 75.1),
    "READ-EXPORT": ("export", 5000.0, 5001.0),
    "READ-SPREAD": ("pack-spread", 0.5, 0.6),
}


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of()


def record(kind: str, subject: str, value: dict[str, Any], at: datetime = NOW, name: str = "", corrects: str | None = None) -> Record:
    return Record(name or f"{kind}-{subject}-{at.isoformat()}", kind, subject, value, "Ivo", "installer", at, corrects)


def torque(nm: float | None, **more: Any) -> Record:
    at = more.pop("at", NOW)
    return record(
        "torque", LUG, {"value_nm": nm, "tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True, "size": "2/0 AWG", **more}, at
    )


def faults(plan: Plan, *records: Record, now: datetime = NOW) -> tuple[str, ...]:
    return stand(plan, records, now).torques[LUG].faults


@pytest.mark.parametrize("nm", [11 * 0.95, 11.0, 11 * 1.05])
def test_torque_in_band(plan: Plan, nm: float) -> None:
    assert faults(plan, torque(nm)) == ()


@pytest.mark.parametrize("nm", [11 * 0.95 - 0.001, 11 * 1.05 + 0.001])
def test_torque_just_out_of_band(plan: Plan, nm: float) -> None:
    assert "outside" in faults(plan, torque(nm))[0]


def test_snug_is_not_a_value(plan: Plan) -> None:
    assert "snug" in faults(plan, torque(None))[0]


def test_tool_out_of_calibration(plan: Plan) -> None:
    assert faults(plan, torque(11.0, calibrated_to="2026-11-24")) == ()
    assert faults(plan, torque(11.0, calibrated_to="2026-11-23")) == ("the tool was out of calibration",)
    assert faults(plan, torque(11.0, calibrated_to=None)) == ("the tool was out of calibration",)


def test_no_tug_test(plan: Plan) -> None:
    assert faults(plan, torque(11.0, tug=False)) == ("no tug test",)


def test_a_record_for_another_conductor_is_not_good(plan: Plan) -> None:
    assert "recorded for 4/0 AWG" in faults(plan, torque(11.0, size="4/0 AWG"))[0]


def test_a_correction_replaces_and_the_old_one_yields(plan: Plan) -> None:
    wrong = Record(
        "a", "torque", LUG, {"value_nm": 20, "tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True}, "Ivo", "installer", NOW
    )
    right = Record(
        "b",
        "torque",
        LUG,
        {"value_nm": 11, "tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True},
        "Ivo",
        "installer",
        NOW + timedelta(minutes=1),
        "a",
    )
    assert faults(plan, wrong, right) == ()


def test_recheck_is_due_after_24_h_and_overdue_later(plan: Plan) -> None:
    standing = stand(plan, [torque(11.0)], NOW)
    due, done = standing.rechecks[LUG]
    assert due == NOW + timedelta(hours=24)
    assert not done
    assert not any("overdue" in m for m in stand(plan, [torque(11.0)], NOW + timedelta(hours=24)).missing)
    assert any("1 overdue" in m for m in stand(plan, [torque(11.0)], NOW + timedelta(hours=24, seconds=1)).missing)
    looked = record("recheck", LUG, {"ok": True}, NOW + timedelta(hours=25))
    assert stand(plan, [torque(11.0), looked], NOW + timedelta(hours=26)).rechecks[LUG][1]


def test_a_recheck_before_a_new_torque_does_not_count(plan: Plan) -> None:
    looked = record("recheck", LUG, {"ok": True}, NOW - timedelta(hours=1))
    assert not stand(plan, [looked, torque(11.0)], NOW).rechecks[LUG][1]


@pytest.mark.parametrize(("value", "good"), [(1.0, True), (1.001, False)])
def test_earth_continuity_at_its_limit(plan: Plan, value: float, good: bool) -> None:
    standing = stand(plan, [record("measurement", "earth-grid", {"value": value})], NOW)
    assert standing.checks["earth-grid"].good is good


def test_string_voltage_band_today(plan: Plan) -> None:
    expected = plan.figures["strings.PV1.today_v"].value
    for factor, good in ((0.9501, True), (1.0499, True), (0.9499, False), (1.0501, False)):
        standing = stand(plan, [record("measurement", "voc-PV1", {"value": expected * factor})], NOW)
        assert standing.checks["voc-PV1"].good is good


def test_one_module_fewer_is_outside_the_band(plan: Plan) -> None:
    expected = plan.figures["strings.PV1.today_v"].value
    assert not stand(plan, [record("measurement", "voc-PV1", {"value": expected * 10 / 11})], NOW).checks["voc-PV1"].good


def packs(*volts: float) -> list[Record]:
    return [record("measurement", f"pack-bat-{i + 1}", {"value": v}) for i, v in enumerate(volts)]


def test_pack_spread_follows_from_the_packs(plan: Plan) -> None:
    assert stand(plan, packs(52.0, 52.2), NOW).checks["pack-spread"].record is None
    assert stand(plan, packs(52.0, 52.2, 52.5), NOW).checks["pack-spread"].good
    assert "above 0.5 V" in stand(plan, packs(52.0, 52.2, 52.51), NOW).checks["pack-spread"].faults[0]


def everything(plan: Plan, start: datetime = NOW - timedelta(hours=30)) -> list[Record]:
    """A whole job's records, all good."""
    out: list[Record] = []
    at = start
    for t in plan.terminations:
        value = {
            "value_nm": t.torque.value if t.torque else None,
            "tool": "TW-2",
            "calibrated_to": "2027-03-31",
            "tug": True,
            "size": t.size,
        }
        out.append(record("torque", t.id, value, at))
        if t.terminal.recheck_24h:
            out.append(record("recheck", t.id, {"ok": True}, at + timedelta(hours=25)))
    for c in plan.all_checks():
        if c.id == "pack-spread":
            continue
        typical = c.expected or c.high or c.low
        value = {"ok": True} if not c.unit else {"value": 52.0 if c.id.startswith("pack") else (typical.value if typical else 0)}
        out.append(record("measurement", c.id, value, at))
    out += [record("done", s.id, {"ok": True}, at) for s in plan.power_up.steps]
    out += [record("link", key, {"ok": True}, at) for key, _ in LINK_TASKS]
    out += [record("setting", r.key, {"as_left": str(r.figure.value) if r.figure else r.text}, at) for r in plan.settings.sheet]
    readings = {"readings": {"CT1": 1500, "CT2": 600}, "test_l1_w": 1500, "test_l2_w": 600}
    return [*out, record("ct", "ct-test", readings, at)]


def test_nothing_is_missing_when_all_is_recorded(plan: Plan) -> None:
    standing = stand(plan, everything(plan), NOW)
    assert standing.missing == ()
    assert {s.state for sid, s in standing.stations.items() if sid != "hand-over"} == {"clear"}
    assert standing.stations["hand-over"].word == "ready to sign"


@pytest.mark.parametrize(
    ("kind", "words"),
    [
        ("torque", "terminations"),
        ("recheck", "24 h"),
        ("measurement", "measurements"),
        ("done", "power-up"),
        ("link", "link tasks"),
        ("setting", "settings"),
        ("ct", "CTs"),
    ],
)
def test_each_kind_of_missing_record_is_named(plan: Plan, kind: str, words: str) -> None:
    records = [r for r in everything(plan) if r.kind != kind]
    assert any(words in m for m in stand(plan, records, NOW).missing)


def test_a_stop_is_missing_and_holds_power_up() -> None:
    bad = plan_of({"backup.bypass": "breaker without interlock"})
    standing = stand(bad, everything(bad), NOW)
    assert any("stop at power-up" in m for m in standing.missing)
    assert standing.stations["power-up"].state == "held"
    assert any(h.startswith("stop:") for h in standing.step_holds["start-dead"])


def step_holds(plan: Plan, records: list[Record], step: str) -> tuple[str, ...]:
    return stand(plan, records, NOW).step_holds[step]


def answered(check: str, answer: float | bool) -> list[Record]:
    """The records that give this answer; the spread of the bank follows from two of its batteries."""
    if check == "pack-spread":
        return packs(52.0, 52.0, 52.0 + answer)
    return [record("measurement", check, {"ok": answer} if isinstance(answer, bool) else {"value": answer})]


@pytest.mark.parametrize("code", READINGS)
def test_a_reading_speaks_just_beyond_its_band(plan: Plan, code: str) -> None:
    check, inside, beyond = READINGS[code]
    assert code not in {f.code for f in stand(plan, answered(check, inside), NOW).findings}
    spoken = [f for f in stand(plan, answered(check, beyond), NOW).findings if f.code == code]
    assert [f.where for f in spoken] == [check]
    assert spoken[0].level == RULES[code].level
    assert spoken[0] in stand(plan, answered(check, beyond), NOW).at(spoken[0].station)


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_every_check_has_a_rule_of_its_weight(house: str) -> None:
    for check in plan_of(name=house).all_checks():
        assert (RULES[check.code].level == "stop") == check.life, check.id


def test_first_step_waits_for_the_dead_measurements(plan: Plan) -> None:
    assert len(step_holds(plan, [], "start-dead")) == 8
    dead = [r for r in everything(plan) if r.kind == "measurement"]
    assert step_holds(plan, dead, "start-dead") == ()
    assert step_holds(plan, dead, "on-bat-1") == ("the step before: Everything open, locked and proved dead",)


def test_a_bad_dead_measurement_holds_until_a_licence_holder_clears_it(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.kind == "measurement" and r.subject != "dead-dc"]
    records.append(record("measurement", "dead-dc", {"value": 12.0}))
    assert step_holds(plan, records, "start-dead") == ("DC busbars, positive to negative",)
    records.append(record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}))
    assert step_holds(plan, records, "start-dead") == ()


def test_a_bad_reading_that_guards_life_holds_its_station(plan: Plan) -> None:
    bad = record("measurement", "dead-dc", {"value": 5.1})
    assert stand(plan, [bad], NOW).stations["prove"].state == "held"
    assert stand(plan, [record("measurement", "dead-dc", {"value": 5.0})], NOW).stations["prove"].state == "part"
    cleared = record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1))
    assert stand(plan, [bad, cleared], NOW).stations["prove"].state == "part"


def test_a_clearance_does_not_cover_a_later_reading(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.kind == "measurement" and r.subject != "dead-dc"]
    records += [
        record("measurement", "dead-dc", {"value": 12.0}),
        record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1)),
    ]
    assert step_holds(plan, records, "start-dead") == ()
    records.append(record("measurement", "dead-dc", {"value": 40.0}, NOW + timedelta(minutes=2)))
    assert step_holds(plan, records, "start-dead") == ("DC busbars, positive to negative",)


def test_a_cleared_hold_does_not_stand_in_the_way_of_signing(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.subject != "dead-dc"]
    records += [
        record("measurement", "dead-dc", {"value": 12.0}),
        record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1)),
    ]
    assert stand(plan, records, NOW).missing == ()


def test_island_output_is_measured_before_the_house_is_fed(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.subject != "island-volts"]
    assert any("Island output" in h for h in step_holds(plan, records, "island-volts"))
    assert any("Island output" in h for h in step_holds(plan, records, "sub-main"))


def test_settings_as_left_differ(plan: Plan) -> None:
    standing: Standing = stand(
        plan, [record("setting", "charge_a", {"as_left": "100"}), record("setting", "work_mode", {"as_left": "Self-use"})], NOW
    )
    assert standing.settings["charge_a"][1] is False
    assert standing.settings["work_mode"][1] is True

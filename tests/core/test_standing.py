"""Plan and records together: bands, calibration, tug, re-checks, holds and what is missing."""

from __future__ import annotations

import hashlib
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.acts import Kind, acts
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, OldRow, parse_record, typed
from gumboot.core.rules import RULES
from gumboot.core.standing import asked_text, judge_torque, stand
from tests.crew import TOOL
from tests.helpers import plan_of, with_card

NOW = datetime(2026, 11, 24, 12, tzinfo=UTC)
# Of the same working day: what was proved dead is dead still.
TODAY = NOW - timedelta(hours=1)
LUG = "inverter.battery.pos.bat-main"


# code: (check, the last answer in the band, the first beyond)
READINGS: dict[str, tuple[str, float | bool, float | bool]] = {
    "READ-LOOK": ("look-glands", True, False),
    "READ-LOCKED": ("look-open", True, False),
    "READ-DEAD": ("dead-dc", 5.0, 5.1),
    "READ-POLARITY": ("polarity-PV1", True, False),
    # 1.25 x 11 x 37.6 V = 517 V: tested at 1000 V.
    "READ-INSULATION": ("iso-PV1", 1.0, 0.99),
    # 11 x 37.6 V x 1.0182 = 421.13 V, less a twentieth.
    "READ-STRING": ("voc-PV1", 400.08, 400.07),
    "READ-PACK": ("pack-bat-1", 44.8, 44.7),
    "READ-EARTH": ("earth-grid", 1.0, 1.01),
    "READ-BUS": ("bus-pair", 66.0, 66.1),
    "READ-ISLAND": ("island-volts", 228.0, 227.9),
    "READ-PHASE": ("phase-inv-2", 5.0, 5.1),  # of the house with two inverters
    "READ-SOC": ("soc-agree", 1.0, 1.1),  # inverter 41 %, battery 40 % and 39.9 %
    "READ-HEAT": ("thermal", 75.0, 75.1),
    "READ-EXPORT": ("export", 5000.0, 5001.0),
    "READ-SPREAD": ("pack-spread", 0.5, 0.6),
}


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of()


WORDS = {
    "torque": "torque", "recheck": "recheck", "measurement": "check", "done": "step", "link": "ritual", "setting": "setting", "ct": "meter",
}  # fmt: skip
# What is done since: each unit read back, each lead made and rung out, each core closed; and what is done in a box beside its landings.
SINCE = {
    **dict.fromkeys(("told", "bridge", "lead", "ring", "core"), "link"),
    **dict.fromkeys(("joint", "ferrite", "bridged", "entries"), "torque"),
}


def record(kind: str, subject: str, value: dict[str, Any], at: datetime = NOW, name: str = "", corrects: str | None = None) -> AnyRecord:
    """A row as earlier versions wrote it, read as a record."""
    row = hashlib.sha256(f"{kind}-{subject}-{at.isoformat()}-{value}".encode()).hexdigest()[:32]
    return typed(OldRow(name or row, kind, subject, value, "Ivo", "installer", at, corrects))


def is_kind(found: AnyRecord, *kinds: str) -> bool:
    """Whether a record is of one of the kinds of earlier versions; the rest is what those had no records of."""
    word = found.act.partition(":")[0]
    if word in SINCE:
        return SINCE[word] in kinds
    return word in {WORDS[kind] for kind in kinds if kind != "rest"} or ("rest" in kinds and word not in WORDS.values())


def torque(nm: float | None, **more: Any) -> AnyRecord:
    at = more.pop("at", NOW)
    return record(
        "torque", LUG, {"value_nm": nm, "tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True, "size": "2/0 AWG", **more}, at
    )


def faults(plan: Plan, *records: AnyRecord, now: datetime = NOW) -> tuple[str, ...]:
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
    tool = {"tool": "TW-2", "calibrated_to": "2027-03-31", "tug": True}
    wrong = record("torque", LUG, {"value_nm": 20, **tool}, NOW, "a")
    right = record("torque", LUG, {"value_nm": 11, **tool}, NOW + timedelta(minutes=1), "b", "a")
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


def packs(*volts: float) -> list[AnyRecord]:
    return [record("measurement", f"pack-bat-{i + 1}", {"value": v}) for i, v in enumerate(volts)]


def test_pack_spread_follows_from_the_packs(plan: Plan) -> None:
    assert stand(plan, packs(52.0, 52.2), NOW).checks["pack-spread"].record is None
    assert stand(plan, packs(52.0, 52.2, 52.5), NOW).checks["pack-spread"].good
    assert "above 0.5 V" in stand(plan, packs(52.0, 52.2, 52.51), NOW).checks["pack-spread"].faults[0]


def everything(plan: Plan, start: datetime = NOW - timedelta(hours=30)) -> list[AnyRecord]:
    """A whole job's records, all good."""
    out: list[AnyRecord] = []
    at = start
    for t in plan.terminations:
        value = {
            "value_nm": t.torque.value if t.torque else None,
            "tool": "TW-2",
            "calibrated_to": "2027-03-31",
            "tug": True,
            "pressed": True,
            "size": t.size,
        }
        out.append(record("torque", t.id, value, at))
        if t.terminal.recheck_24h:
            out.append(record("recheck", t.id, {"ok": True}, at + timedelta(hours=25)))
    for c in plan.all_checks():
        if c.id == "pack-spread":
            continue
        typical = c.expected or c.high or c.low
        value = {"ok": True} if not c.unit else {"value": typical.value if typical else 0}
        if c.id.startswith("pack") and c.low and c.high:
            value = {"value": (c.low.value + c.high.value) / 2}
        if c.shows:
            out.append(record("measurement", c.id, {"value": 0.0, "shown": [41.0, 41.0]}, at))
            continue
        out.append(record("measurement", c.id, value, at))
    out += [record("done", s.id, {"ok": True}, at) for s in plan.power_up.steps]
    out += [record("link", act.name, {"ok": True}, at) for act in acts(plan).values() if act.kind is Kind.RITUAL]
    out += [record("setting", r.key, {"as_left": f"{r.figure.value:g}" if r.figure else r.text}, at) for r in plan.settings.sheet]
    loads = {"L1": 1500.0, "L2": 600.0, "L3": 1000.0}
    for each in plan.sensing.sets:
        placed = [(ct.place.channel, ct.wanted_leg) for ct in each.cts]
        readings = {
            "before": {channel: 310.0 for channel, _ in placed},
            "readings": {channel: 310.0 + loads[leg] for channel, leg in placed},
            **{f"test_{leg.lower()}_w": watts for leg, watts in loads.items()},
        }
        out += [record("ct", each.test, readings, at)] if placed else []
    return [*out, *of_the_rest(plan, at)]


def of_the_rest(plan: Plan, at: datetime) -> list[AnyRecord]:
    """What earlier versions had no records of: boxes hung, covers, labels, numbers."""
    out: list[AnyRecord] = []
    for act in acts(plan).values():
        name = hashlib.sha256(act.id.encode()).hexdigest()[:32]
        said = {"id": name, "act": act.id, "done_at": at, "by": "Ivo", "role": "installer"}
        if act.kind in (Kind.HOLE, Kind.LIFT, Kind.LEAD, Kind.CORE):
            out.append(parse_record({**said, "kind": "done"}))
        elif act.kind is Kind.READ_BACK:
            out.append(parse_record({**said, "kind": "read-back", "shown": act.band.wants}))
        elif act.kind in (Kind.JOINT, Kind.FIXED):
            made = {"kind": "landing", "reached_nm": act.band.expected.value, "tool": TOOL}  # type: ignore[union-attr]
            out.append(parse_record({**said, **made}))
        elif act.kind is Kind.RING:
            lead = plan.leads.of(act.name)
            out.append(parse_record({**said, "kind": "rung", "heard": {str(w.first): w.second for w in lead.wires}}))  # type: ignore[union-attr]
        elif act.kind in (Kind.COVER, Kind.LABEL, Kind.INSIDE, Kind.BRIDGE, Kind.FERRITE, Kind.BRIDGED, Kind.ENTRIES):
            out.append(parse_record({**said, "kind": "answer", "yes": True}))
        elif act.kind in (Kind.SERIAL, Kind.FIRMWARE):
            out.append(parse_record({**said, "kind": "words", "text": act.band.words or "SN 1"}))
    return out


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
    records = [r for r in everything(plan) if not is_kind(r, kind)]
    assert any(words in m for m in stand(plan, records, NOW).missing)


def test_a_stop_is_missing_and_holds_power_up() -> None:
    bad = plan_of({"backup.bypass": "breaker without interlock"})
    standing = stand(bad, everything(bad), NOW)
    assert any("stop at power-up" in m for m in standing.missing)
    assert standing.stations["power-up"].state == "held"
    assert any(h.startswith("stop:") for h in standing.step_holds["start-dead"])


def step_holds(plan: Plan, records: list[AnyRecord], step: str) -> tuple[str, ...]:
    return stand(plan, records, NOW).step_holds[step]


def answered(check: str, answer: float | bool) -> list[AnyRecord]:
    """The records that give this answer; the spread of the bank follows from two of its batteries."""
    if check == "pack-spread":
        return packs(52.0, 52.0, 52.0 + answer)
    if check == "soc-agree":
        return [record("measurement", check, {"value": answer, "shown": [41.0, 41.0 - answer]})]
    return [record("measurement", check, {"ok": answer} if isinstance(answer, bool) else {"value": answer})]


@pytest.mark.parametrize("code", READINGS)
def test_a_reading_speaks_just_beyond_its_band(plan: Plan, code: str) -> None:
    check, inside, beyond = READINGS[code]
    plan = plan_of(name="g01-cooperage") if code == "READ-PHASE" else plan
    assert code not in {f.code for f in stand(plan, answered(check, inside), NOW).findings}
    spoken = [f for f in stand(plan, answered(check, beyond), NOW).findings if f.code == code]
    assert [f.where for f in spoken] == [check]
    assert spoken[0].level == RULES[code].level
    assert spoken[0] in stand(plan, answered(check, beyond), NOW).at(spoken[0].station)


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_every_check_has_a_rule_of_its_weight(house: str) -> None:
    for check in plan_of(name=house).all_checks():
        assert (RULES[check.code].level == "stop") == check.life, check.id


def without(plan: Plan, *kinds: str) -> list[AnyRecord]:
    """All records but some kinds."""
    return [r for r in everything(plan) if not is_kind(r, *kinds)]


def test_first_step_waits_for_the_dead_measurements(plan: Plan) -> None:
    held = step_holds(plan, [], "start-dead")
    assert len(held) == 13
    assert "Rung out: Rapid-shutdown loop of inverter" in held
    dead = [r for r in everything(plan, TODAY) if not is_kind(r, "done")]
    assert step_holds(plan, dead, "start-dead") == ()
    assert step_holds(plan, dead, "on-bat-1") == ("the step before: Everything open, locked and proved dead",)


@pytest.mark.parametrize(
    ("kind", "step", "words"),
    [
        ("torque", "on-bat-1", "terminations without a good record"),
        ("torque", "inverter-on", "terminations without a good record"),
        ("torque", "sub-main", "terminations without a good record"),
        ("torque", "grid-breaker", "terminations without a good record"),
        ("torque", "pv-switch", "terminations without a good record"),
        ("link", "on-bat-1", "links: every battery breaker off"),
        ("setting", "grid-breaker", "settings as left"),
        ("setting", "pv-switch", "settings as left"),
        ("ct", "pv-switch", "meter test with PV off is not recorded"),
        ("ct", "export", "meter test with PV off is not recorded"),
    ],
)
def test_each_step_waits_for_what_it_makes_live(plan: Plan, kind: str, step: str, words: str) -> None:
    assert step_holds(plan, everything(plan), step) == ()
    assert any(words in held for held in step_holds(plan, without(plan, kind), step))


def test_one_open_termination_holds_the_step_that_makes_it_live_and_names_it(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.name != "inverter.grid.l1.grid"]
    assert step_holds(plan, records, "on-bat-1") == ()
    assert step_holds(plan, records, "grid-breaker") == ("inverter GRID L1 without a good record",)


@pytest.mark.parametrize("step", ["on-bat-1", "sub-main", "grid-breaker", "export"])
@pytest.mark.parametrize(
    ("check", "value"),
    [("dead-dc", {"value": 52.0}), ("pack-bat-1", {"value": 40.0}), ("bus-pair", {"value": 118.0}), ("look-joints", {"ok": False})],
)
def test_a_reading_that_turns_bad_holds_whatever_step_is_next(plan: Plan, step: str, check: str, value: dict[str, Any]) -> None:
    records = [*everything(plan), record("measurement", check, value)]
    assert any(held.startswith("failed reading") for held in step_holds(plan, records, step))
    assert stand(plan, records, NOW).stations["power-up"].state == "held"


def test_a_stop_of_the_plan_holds_every_step_at_once() -> None:
    bad = plan_of({"settings.charge_a": 250.0})
    standing = stand(bad, everything(bad), NOW)
    assert all(any(h.startswith("stop:") for h in holds) for holds in standing.step_holds.values())


def test_a_meter_test_that_is_wrong_holds_pv_and_export(plan: Plan) -> None:
    value = {"before": {"CT1": 0.0, "CT2": 0.0}, "readings": {"CT1": -600.0, "CT2": -1500.0}, "test_l1_w": 1500, "test_l2_w": 600}
    records = [*everything(plan), record("ct", "ct-test", value)]
    for step in ("pv-switch", "export"):
        assert any("meter test: CT1 sits on L2" in held for held in step_holds(plan, records, step))
    assert step_holds(plan, records, "grid-breaker") == ()


def test_a_bad_dead_measurement_holds_until_a_licence_holder_clears_it(plan: Plan) -> None:
    records = [r for r in everything(plan, TODAY) if r.name != "dead-dc" and not is_kind(r, "done")]
    records.append(record("measurement", "dead-dc", {"value": 12.0}))
    assert step_holds(plan, records, "start-dead") == ("failed reading: DC busbars, positive to negative: 12 V is above 5 V",)
    records.append(record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}))
    assert step_holds(plan, records, "start-dead") == ()


def test_a_bad_reading_that_guards_life_holds_its_station(plan: Plan) -> None:
    bad = record("measurement", "dead-dc", {"value": 5.1})
    assert stand(plan, [bad], NOW).stations["prove"].state == "held"
    assert stand(plan, [record("measurement", "dead-dc", {"value": 5.0})], NOW).stations["prove"].state == "part"
    cleared = record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1))
    assert stand(plan, [bad, cleared], NOW).stations["prove"].state == "part"


def test_a_clearance_does_not_cover_a_later_reading(plan: Plan) -> None:
    records = [r for r in everything(plan, TODAY) if not is_kind(r, "done") and r.name != "dead-dc"]
    records += [
        record("measurement", "dead-dc", {"value": 12.0}),
        record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1)),
    ]
    assert step_holds(plan, records, "start-dead") == ()
    records.append(record("measurement", "dead-dc", {"value": 40.0}, NOW + timedelta(minutes=2)))
    assert step_holds(plan, records, "start-dead") == ("failed reading: DC busbars, positive to negative: 40 V is above 5 V",)


def test_a_cleared_hold_does_not_stand_in_the_way_of_signing(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.name != "dead-dc"]
    records += [
        record("measurement", "dead-dc", {"value": 12.0}),
        record("hold-cleared", "check:dead-dc", {"reason": "meter lead swapped"}, NOW + timedelta(minutes=1)),
    ]
    assert stand(plan, records, NOW).missing == ()


def test_island_output_is_measured_before_the_house_is_fed(plan: Plan) -> None:
    records = [r for r in everything(plan) if r.name != "island-volts"]
    assert any("Island output" in h for h in step_holds(plan, records, "island-volts"))
    assert any("Island output" in h for h in step_holds(plan, records, "sub-main"))


def setting_left(plan: Plan, key: str, as_left: str, reason: str = "", *more: AnyRecord) -> Any:
    one = record("setting", key, {"as_left": as_left, "reason": reason}, name="one")
    return stand(plan, [one, *more], NOW + timedelta(hours=1)).settings[key]


@pytest.mark.parametrize(
    ("key", "as_left", "same"),
    [
        ("protocol", "7", True),
        ("protocol", "7 Quern CAN 2", True),
        ("protocol", "6", False),
        ("protocol", "2", False),  # a number within the name "Quern CAN 2" is not the protocol's number
        ("protocol", "Quern CAN 2", True),
        ("protocol", "7 CAN", True),
        ("protocol", "CAN", False),
        ("grid_type", "240 V", False),
        ("absorb_v", "56,4 V", True),
        ("absorb_v", "56.4", True),
        ("absorb_v", "56.6", False),
        ("absorb_v", "56400 mV", True),
        ("export_w", "5 kW", True),
        ("export_w", "5000 W", True),
        ("export_w", "5.1 kW", False),
        ("export_w", "-5 kW", False),
        ("charge_a", "120 A", True),
        ("charge_a", "120,0", True),
        ("charge_a", "110", False),
        ("charge_a", "120 V", False),
        ("password", "Changed.", True),
        ("password", "default", False),
        ("grid_type", "120/240 V split phase", True),
        ("grid_type", "split phase", True),
        ("grid_type", "phase", False),
        ("grid_type", "single phase", False),
        ("comms", "closed", True),
        ("comms", "loop", False),
        ("comms", "open loop", False),
        ("work_mode", "Self-Use", True),
        ("work_mode", "backup", False),
        ("bond", "on", True),
        ("bond", "Enabled", True),
        ("bond", "none", False),
        ("clock", "local", True),
        ("clock", "nonsense", False),
    ],
)
def test_settings_are_compared_as_quantities_and_choices(plan: Plan, key: str, as_left: str, same: bool) -> None:
    assert setting_left(plan, key, as_left).same is same


@pytest.mark.parametrize(
    ("shown", "same"), [("07:05", True), ("7:09 am", True), ("07:11", False), ("08:04", True), ("12:00", False), ("7:05 pm", False)]
)
def test_a_clock_is_compared_with_the_moment_it_was_read(shown: str, same: bool) -> None:
    # Noon UTC is seven in the morning at UTC-5; an hour more in summer.
    assert setting_left(plan_of({"site.utc_offset_h": -5}), "clock", shown).same is same


def test_a_difference_with_a_reason_counts_where_it_guards_nothing(plan: Plan) -> None:
    assert not setting_left(plan, "reserve_pct", "40").good
    assert setting_left(plan, "reserve_pct", "40", "the owner wishes more").good


def test_a_difference_that_guards_life_wants_a_licence_holder(plan: Plan) -> None:
    row = next(r for r in plan.settings.sheet if r.key == "charge_a")
    agreed = record("setting-agreed", "charge_a", {"record": "one", "asked": asked_text(row)})
    assert not setting_left(plan, "charge_a", "110", "ten ampere below the sheet").good
    assert setting_left(plan, "charge_a", "110", "ten ampere below the sheet", agreed).good
    # An agreement speaks of one record and of what was asked then.
    assert not setting_left(
        plan, "charge_a", "110", "ten ampere below the sheet", record("setting-agreed", "charge_a", {"record": "two"})
    ).good
    other = record("setting-agreed", "charge_a", {"record": "one", "asked": "90 A"})
    assert not setting_left(plan, "charge_a", "110", "ten ampere below the sheet", other).good
    assert not setting_left(plan, "charge_a", "110", "", agreed).good


@pytest.mark.parametrize(
    ("check", "value", "words"),
    [
        ("dead-dc", {"value": -48.2}, "-48.2 V, whatever its sign, is above 5 V"),
        ("dead-grid", {"value": -230.0}, "whatever its sign"),
        ("voc-PV1", {"value": -421.0}, "reversed: -421 V is the wrong way round"),
        ("pack-bat-1", {"value": -52.0}, "reversed"),
        ("export", {"value": -9000.0}, "whatever its sign, is above 5000 W"),
        ("soc-agree", {"value": 30.0, "shown": [41.0, 71.0]}, "above 1 %"),
        ("soc-agree", {"value": 0.0, "shown": [0.0, 0.0]}, "no link"),
        ("soc-agree", {"value": 0.2}, "both displays are read"),
        ("earth-grid", {"value": None, "over": True}, "beyond the instrument's range"),
        ("earth-grid", {"value": 999.0, "over": True}, "above 999 ohm is above 1 ohm"),
        ("iso-PV1", {"value": 0.4, "over": True}, "does not prove at least 1 Mohm"),
    ],
)
def test_a_band_knows_what_it_measures(plan: Plan, check: str, value: dict[str, Any], words: str) -> None:
    assert words in stand(plan, [record("measurement", check, value)], NOW).checks[check].faults[0]


@pytest.mark.parametrize(
    ("apart_s", "words"), [(None, ""), (120.0, ""), (120.5, "read 2 min apart: read both within 2 min"), (1500.0, "25 min apart")]
)
def test_two_displays_are_read_within_two_minutes_of_each_other(plan: Plan, apart_s: float | None, words: str) -> None:
    """Whichever of them was read first; rows that do not say when are judged by what they show."""
    for sign in (1, -1):
        at = None if apart_s is None else (NOW, NOW + timedelta(seconds=sign * apart_s))
        said = record("measurement", "soc-agree", {"value": 0.0, "shown": [41.0, 41.0]}).model_copy(update={"shown_at": at})
        judged = stand(plan, [said], NOW).checks["soc-agree"]
        assert judged.good == (not words)
        assert words in " ".join(judged.faults)


@pytest.mark.parametrize("value", [{"value": None, "over": True}, {"value": 999.0, "over": True}])
def test_insulation_beyond_the_range_is_good(plan: Plan, value: dict[str, Any]) -> None:
    assert stand(plan, [record("measurement", "iso-PV1", value)], NOW).checks["iso-PV1"].good


def test_a_negative_resistance_is_no_reading(plan: Plan) -> None:
    check = next(c for c in plan.checks if c.id == "earth-grid")
    assert "null the test leads" in check.refuses(-0.1)
    assert check.refuses(0.0) == ""


def test_a_reading_keeps_the_temperature_it_was_taken_at() -> None:
    cold = plan_of({"site.cell_today_c": 18.0})
    expected = cold.figures["strings.PV1.today_v"].value
    kept = [record("measurement", "voc-PV1", {"value": expected, "cell_c": 18.0})]
    assert stand(cold, kept, NOW).checks["voc-PV1"].good
    hot = plan_of({"site.cell_today_c": 50.0})
    assert hot.figures["strings.PV1.today_v"].value < 0.95 * expected
    assert stand(hot, kept, NOW).checks["voc-PV1"].good
    # Another count of modules is another string, whatever the weather was.
    assert not stand(plan_of({"site.cell_today_c": 50.0, "strings.S1.modules": 10}), kept, NOW).checks["voc-PV1"].good


@pytest.mark.parametrize("cell_c", [-10.0, 60.0])
def test_both_ends_of_a_band_move_with_the_cells(plan: Plan, cell_c: float) -> None:
    check = next(c for c in plan.checks if c.id == "voc-PV1")
    assert check.cell is not None
    assert check.low is not None
    assert check.high is not None
    # Linear in the cells' temperature from its value at 25 °C.
    moved = (1 + check.per_k * (cell_c - 25)) / (1 + check.per_k * (check.cell.value - 25))
    assert (moved > 1) is (cell_c < check.cell.value)
    read = check.read(300.0, cell_c=cell_c)
    assert read.low == pytest.approx(moved * check.low.value)
    assert read.high == pytest.approx(moved * check.high.value)


@pytest.mark.parametrize(("done", "waits"), [(False, True), (True, False)])
def test_live_checks_wait_for_their_step(plan: Plan, done: bool, waits: bool) -> None:
    standing = stand(plan, everything(plan) if done else without(plan, "done"), NOW)
    assert [check in standing.waiting for check in ("soc-agree", "outage", "export", "ct-test", "island-volts")] == [waits] * 5
    assert "serials" not in standing.waiting


@pytest.mark.parametrize(("house", "after"), [("d2-schoolhouse", "on-m1"), ("k07-ridge", "inverter-on"), ("k09-terrace", "inverter-on")])
def test_what_can_only_be_read_when_on_comes_after_it_is_on(house: str, after: str) -> None:
    plan = plan_of(name=house)
    order = [s.id for s in plan.power_up.steps]
    step = next(s for s in plan.power_up.steps if s.measure and s.measure.id == "pack-stack")
    assert order[order.index(step.id) - 1].split("-")[0] == after.split("-", maxsplit=1)[0]
    assert "pack-stack" not in {c.id for c in plan.checks}


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_a_house_without_a_bus_has_no_programming_and_nothing_that_blocks_for_it(house: str) -> None:
    plan = plan_of(name=house)
    ritual = [act for act in acts(plan).values() if act.kind is Kind.RITUAL]
    assert bool(ritual) == bool(plan.links.wired or plan.links.groups)
    if not ritual and not any(act.station == "links" for act in acts(plan).values()):
        assert not any("link tasks" in words for words in stand(plan, [], NOW).missing)
        assert not any("links" in step.needs for step in plan.power_up.steps)


def test_a_spring_terminal_is_held_and_pressed_home() -> None:
    plan = plan_of(name="d2-schoolhouse")
    spring = next(t for t in plan.terminations if t.torque is None)
    for value, good in (({"tug": True, "pressed": True}, True), ({"tug": True}, False), ({"pressed": True}, False)):
        one = record("torque", spring.id, {**value, "size": spring.size})
        assert stand(plan, [one], NOW).torques[spring.id].good is good


def test_an_order_that_is_not_planned_has_no_steps_and_stops() -> None:
    for order in ("grid first", "pv first"):
        plan = plan_of(cards=with_card("plover-6s", {"start_order": order}))
        assert plan.power_up.steps == ()
        assert "follow the maker" in plan.power_up.unplanned
        assert {f.code for f in plan.stops} == {"POWER-ORDER"}
        assert "soc-agree" in stand(plan, [], NOW).waiting


GOOD_HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses() if "mistakes" not in path.name]
GOOD_HOUSES += ["g01-cooperage", "g02-dairy"]


@pytest.mark.parametrize("house", GOOD_HOUSES)
def test_every_house_can_be_brought_to_its_end(house: str) -> None:
    plan = plan_of(name=house)
    standing = stand(plan, everything(plan), NOW)
    assert standing.missing == ()
    assert not any(standing.step_holds.values())
    assert standing.waiting == {}


@pytest.mark.parametrize("house", GOOD_HOUSES)
def test_in_every_house_no_step_is_open_before_anything_is_recorded(house: str) -> None:
    plan = plan_of(name=house)
    assert all(stand(plan, [], NOW).step_holds[step.id] for step in plan.power_up.steps)


@pytest.mark.parametrize("house", GOOD_HOUSES)
def test_every_live_end_is_landed_before_a_step_lets_a_source_onto_it(house: str) -> None:
    """Every circuit of the house is made live by some step, which then waits for its terminations."""
    plan = plan_of(name=house)
    waited = {circuit for step in plan.power_up.steps for circuit in step.lands}
    assert {t.circuit for t in plan.terminations} <= waited


@pytest.mark.parametrize(("volts", "missing"), [(228.0, False), (170.0, True)])
def test_nobody_signs_over_a_reading_of_a_done_step_that_turned_bad(plan: Plan, volts: float, missing: bool) -> None:
    records = [*everything(plan), record("measurement", "island-volts", {"value": volts})]
    assert any("Island output" in words for words in stand(plan, records, NOW).missing) is missing


def test_a_screw_without_a_known_torque_is_never_good_by_a_tug() -> None:
    held = {"tug": True, "pressed": True, "size": "6 AWG"}
    term = next(t for t in plan_of().terminations if t.torque is not None and t.size == "6 AWG")
    assert term.tightened_by == "maker"
    bare = term.but(torque=None, torque_low=None, torque_high=None)
    tugged = record("torque", term.id, held)
    assert judge_torque(bare, tugged).faults == ("no torque is known for this screw: ask the maker before landing it",)
    spring = bare.but(terminal=bare.terminal.model_copy(update={"end": "spring"}))
    assert (bare.tightened_by, spring.tightened_by) == ("unknown", "spring")
    assert judge_torque(spring, tugged).good

"""Until when an act is true, what ends that, and whether a signature stands."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.acts import State
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.recording import may_record
from gumboot.core.standing import Standing, stand
from tests.crew import IVO, LENA, record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
PLAN = plan_of()


def all_of(plan: Plan, *words: str, at: datetime = NOW) -> list[AnyRecord]:
    """Good records of acts, each as it is kept, by the words that their ids begin with."""
    empty, found = stand(plan, [], at, 1), list[AnyRecord]()
    for act in empty.acts.values():
        if act.id.partition(":")[0] in words and not act.is_derived:
            record = record_of(plan, empty, act, at)
            kept = may_record(plan, empty, record, IVO, at + timedelta(hours=1), sure=True).record
            found.append(kept.model_copy(update={"defects": ()}) if kept else record)
    return found


def one(act: str, at: datetime = NOW, **more: Any) -> AnyRecord:
    return parse_record({**said(act, at), **more})


def state(act: str, *records: AnyRecord, plan: Plan = PLAN, now: datetime = NOW) -> tuple[State, str]:
    found = stand(plan, records, now, 1).stands[act]
    return found.state, found.why


@pytest.mark.parametrize(("hours", "expected"), [(12, State.GOOD), (12.01, State.USED)])
def test_a_bus_that_was_dead_is_dead_for_a_working_day(hours: float, expected: State) -> None:
    read = one("check:dead-dc", kind="reading", value=0.2)
    assert state("check:dead-dc", read, now=NOW + timedelta(hours=hours))[0] is expected


def test_a_switch_that_is_moved_ends_what_was_proved_dead_and_not_what_was_proved_of_a_string() -> None:
    dead, string = one("check:dead-dc", kind="reading", value=0.2), one("check:polarity-PV1", kind="answer", yes=True)
    moved = one("step:on-bat-1", NOW + timedelta(seconds=1), kind="done")
    assert state("check:dead-dc", dead, moved) == (State.USED, "a switch was moved since")
    assert state("check:polarity-PV1", string, moved)[0] is State.GOOD
    # A step that moves none ends nothing.
    assert state("check:dead-dc", dead, one("step:start-dead", NOW + timedelta(seconds=1), kind="done"))[0] is State.GOOD


def test_a_run_that_is_landed_anew_is_proved_again_its_earth_and_its_poles_apart() -> None:
    landings = {r.act: r for r in all_of(PLAN, "torque", at=NOW - timedelta(hours=1))}
    earth, string = one("check:earth-grid", kind="reading", value=0.1), one("check:polarity-PV1", kind="answer", yes=True)
    assert state("check:earth-grid", *landings.values(), earth)[0] is State.GOOD
    later = {"done_at": NOW + timedelta(seconds=1)}
    line = landings["torque:inverter.grid.l1.grid"].model_copy(update={"id": "again", **later})
    assert state("check:earth-grid", *landings.values(), earth, line)[0] is State.GOOD
    bar = next(r for r in landings.values() if r.act.endswith(".grid") and ".earth." in r.act).model_copy(update={"id": "again", **later})
    assert state("check:earth-grid", *landings.values(), earth, bar) == (State.LAPSED, "earth of grid was landed anew since")
    pole = landings["torque:inverter.pv1.pos.pv-pv1"].model_copy(update={"id": "again", **later})
    assert state("check:polarity-PV1", *landings.values(), string, pole)[0] is State.LAPSED


def test_a_string_that_is_another_now_is_measured_again_whatever_it_showed() -> None:
    read = next(r for r in all_of(PLAN, "check") if r.act == "check:voc-PV1")
    longer = plan_of({"strings.S1.modules": 10})
    found, why = state("check:voc-PV1", read, plan=longer)
    assert found is State.LAPSED
    assert why.startswith("done for 11 ×")
    assert "the plan is now 10 ×" in why
    # Another temperature today is no other string: a reading is judged by its own.
    assert state("check:voc-PV1", read, plan=plan_of({"site.cell_today_c": 60}))[0] is State.GOOD


def test_a_label_of_other_words_is_made_again() -> None:
    label = next(r for r in all_of(PLAN, "label") if r.stood and "V DC" in r.stood.words)
    assert state(label.act, label)[0] is State.GOOD
    assert state(label.act, label, plan=plan_of({"strings.S1.modules": 10, "strings.W1.modules": 8}))[0] is State.LAPSED


EXCHANGED = {
    # Where another card stands now: what was done there, what the house does with it, and what it has nothing to do with.
    ("things.sub-board.card", "larder-12"): (
        ("hole:sub-board", "lift:sub-board", "check:earth-backup", "cover:sub-board"),
        ("torque:inverter.battery.pos.bat-main", "lift:inverter", "step:on-bat-1", "setting:charge_a", "check:dead-dc"),
    ),
    ("things.inverter.card", "plover-6p"): (
        ("torque:inverter.battery.pos.bat-main", "serial:inverter", "firmware:inverter", "setting:charge_a", "meter:ct-test", "step:on-bat-1", "ritual:off"),
        ("serial:bat-1", "lift:busbar", "check:pack-bat-1", "label:service-disconnect"),
    ),
}  # fmt: skip


@pytest.mark.parametrize("exchange", EXCHANGED)
def test_what_was_done_on_equipment_that_was_exchanged_is_done_again(exchange: tuple[str, str]) -> None:
    path, card = exchange
    other, (again, still) = plan_of({path: card}), EXCHANGED[exchange]
    words = {act.partition(":")[0] for act in (*again, *still)}
    done = all_of(PLAN, *words)
    before, after = stand(PLAN, done, NOW, 1).stands, stand(other, done, NOW, 1).stands
    for act in again:
        assert before[act].holds, act
        assert after[act].state is State.LAPSED, act
    for act in still:
        assert before[act].state is after[act].state, act
    place = path.split(".")[1]
    was = next(thing.card for thing in PLAN.job.things if thing.id == place)
    assert after[again[0]].why == f"done with {was} at {place}; {card} stands there now"


def test_equipment_that_is_added_ends_nothing_and_a_row_that_names_none_stays() -> None:
    lift = next(r for r in all_of(PLAN, "lift") if r.act == "lift:inverter")
    assert lift.stood is not None
    assert lift.stood.cards == {"inverter": "plover-6s"}
    bare = lift.model_copy(update={"stood": None})
    assert state("lift:inverter", bare, plan=plan_of({"things.inverter.card": "plover-6p"}))[0] is State.GOOD
    step = next(r for r in all_of(PLAN, "step") if r.act == "step:on-bat-1")
    assert step.stood is not None
    assert set(step.stood.cards) == {"inverter", "bat-1", "bat-2", "bat-3"}
    fewer = step.model_copy(update={"stood": step.stood.model_copy(update={"cards": {"inverter": "plover-6s"}})})
    assert state("step:on-bat-1", fewer)[0] is State.GOOD


def test_what_was_switched_off_is_done_again_with_all_that_stood_on_it() -> None:
    steps = all_of(PLAN, "step")
    opened = one("off:grid-breaker", NOW + timedelta(seconds=1), kind="done")
    stands = stand(PLAN, [*steps, opened], NOW, 1)
    assert [a.name for a in stands.acts.of("power-up") if a.id.startswith("step:") and not stands.stands[a.id].holds] == [
        "grid-breaker",
        "pv-switch",
        "export",
    ]
    assert stands.steps["grid-breaker"].record is None
    assert stands.steps["sub-main"].record is not None
    again = one("step:grid-breaker", NOW + timedelta(seconds=2), kind="done")
    assert state("step:grid-breaker", *steps, opened, again)[0] is State.GOOD
    assert state("step:pv-switch", *steps, opened, again) == (State.LAPSED, "switched off since")


def test_a_stop_of_the_plan_fails_the_plan() -> None:
    stopped = plan_of({"backup.bypass": "breaker without interlock"})
    assert state("plan:clear", plan=stopped) == (State.FAILED, stopped.stops[0].text)
    assert state("plan:clear")[0] is State.GOOD
    assert state("plan:answered", plan=plan_of({"site.record_low_c": None}))[0] is State.OPEN


def test_firmware_that_is_older_than_the_link_needs_is_told() -> None:
    least = next(a for a in stand(PLAN, [], NOW, 1).acts.values() if a.id == "firmware:inverter").band.words
    assert least
    assert state("firmware:inverter", one("firmware:inverter", kind="words", text=least))[0] is State.GOOD
    found, why = state("firmware:inverter", one("firmware:inverter", kind="words", text="0.1"))
    assert (found, f"0.1 is older than {least}" in why) == (State.FAILED, True)


def signed(at: int, *before: AnyRecord, revision: int = 1) -> AnyRecord:
    return parse_record(
        {**said("sign-off:job", NOW + timedelta(seconds=at), LENA), "kind": "sign-off", "licence": "L-1", "revision": revision}
    )


def standing(records: list[AnyRecord], revision: int = 1) -> Standing:
    return stand(PLAN, records, NOW, revision)


def test_a_signature_stands_for_its_revision_and_its_records() -> None:
    label = one("label:service-disconnect", kind="answer", yes=True)
    assert standing([label, signed(1)]).ended == ""
    assert standing([label, signed(1)], 2).ended == "the plan is at revision 2; signed was revision 1"
    assert standing([signed(1), label]).ended == "1 record came in since"
    assert standing([signed(1), label, one("off:all.switches", kind="done")]).ended == "2 records came in since"
    assert standing([signed(1), label, signed(3)]).ended == ""
    # What the next crew should know of a card changes nothing of this house, and says nothing of its act.
    note = one("lift:inverter", kind="card-note", card="plover-6s", text="Its bracket has two left screws")
    assert standing([label, signed(1), note]).ended == ""
    assert standing([note]).stands["lift:inverter"].state is State.OPEN
    assert standing([label]).signed is None
    back = parse_record({**said("sign-off:job", NOW, LENA), "kind": "taken-back", "of": (first := signed(1)).id})
    assert standing([first, back]).signed is None
    assert standing([label, signed(1)]).stations["hand-over"].word == "signed"
    assert "signed before" in standing([signed(1), label]).stations["hand-over"].word


def test_other_firmware_ends_the_settings_that_were_read_before_it() -> None:
    left = next(r for r in all_of(PLAN, "setting") if r.act == "setting:charge_a")
    first = one("firmware:inverter", NOW - timedelta(minutes=5), kind="words", text="9.1")
    again = one("firmware:inverter", NOW + timedelta(minutes=5), kind="words", text="9.1")
    other = again.model_copy(update={"text": "9.2"})
    assert state("setting:charge_a", first, left, again)[0] is State.GOOD
    assert state("setting:charge_a", first, left, other) == (State.LAPSED, "the firmware is another since: read it again")
    later = left.model_copy(update={"id": "later", "done_at": NOW + timedelta(minutes=6)})
    assert state("setting:charge_a", first, left, other, later)[0] is State.GOOD


@pytest.mark.parametrize(
    ("key", "left", "word"),
    [
        ("charge_a", "110 A", "differs from the sheet, on the safe side"),
        ("charge_a", "130 A", "differs from the sheet: give"),
        ("export_w", "4 kW", "differs from the sheet, on the safe side"),
        ("absorb_v", "56.0", "on the safe side"),
        ("absorb_v", "56600 mV", "differs from the sheet: give"),
        ("cut_off_v", "48.9", "on the safe side"),
        ("reserve_pct", "80 %", "on the safe side"),
        ("work_mode", "backup", "differs from the sheet: give"),
    ],
)
def test_a_setting_on_the_careful_side_is_said_as_such(key: str, left: str, word: str) -> None:
    found = stand(PLAN, [one(f"setting:{key}", kind="left", as_left=left)], NOW, 1).settings[key]
    assert not found.same
    assert word in found.word


@pytest.mark.parametrize(("day", "expected"), [("2026-11-27", State.GOOD), ("2026-11-26", State.FAILED), (None, State.FAILED)])
def test_a_reading_by_an_instrument_out_of_calibration_proves_nothing(day: str | None, expected: State) -> None:
    tool = {"id": "M-1", "title": "Meter", "calibrated_to": day}
    assert state("check:dead-dc", one("check:dead-dc", kind="reading", value=0.2, tool=tool))[0] is expected
    assert state("check:dead-dc", one("check:dead-dc", kind="reading", value=0.2))[0] is State.GOOD


@pytest.mark.parametrize(("power_factor", "expected"), [(1.0, State.FAILED), (0.0, State.OPEN), (1.01, State.OPEN)])
def test_a_meter_test_of_a_load_that_is_none_tells_nothing(power_factor: float, expected: State) -> None:
    # A record is there for ever: one that says the impossible must not take the house down with it.
    shown = {"CT1": 310.0, "CT2": 310.0}
    tested = one("meter:ct-test", kind="meter", before=shown, after=shown, loads={"L1": 1500.0}, power_factor=power_factor)
    assert state("meter:ct-test", tested)[0] is expected


@pytest.mark.parametrize(("cell_c", "expected"), [(-16.59, State.GOOD), (-16.8, State.LAPSED), (40, State.GOOD)])
def test_a_string_that_colder_cells_would_take_above_its_input_is_measured_again(cell_c: float, expected: State) -> None:
    # Twelve in series of 37.6 V, 0.26 %/K: 500 V of the input are reached at 25 - (500 / 451.2 - 1) / 0.0026 = -16.593 °C.
    twelve = {"strings.S1.modules": 12}
    warm = plan_of({**twelve, "site.cell_today_c": 18})
    read = one("check:voc-PV1", kind="reading", value=12 * 37.6 * (1 + 0.0026 * 7), cell_c=18.0, unit="V")
    assert state("check:voc-PV1", read, plan=warm)[0] is State.GOOD
    stood, why = state("check:voc-PV1", read, plan=plan_of({**twelve, "site.cell_today_c": cell_c}))
    assert stood is expected
    assert ("at -16.8 °C it is 500.2 V, above 500 V" in why) is (expected is State.LAPSED), why
    lasts = warm.checks[0].lasts.below
    assert lasts is None
    assert "until colder cells would take it above 500 V" in stand(warm, [], NOW, 1).acts["check:voc-PV1"].lasts.words

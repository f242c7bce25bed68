"""What comes due and when, in the standing and in a calendar."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from icalendar import Calendar
from pydantic import ValidationError

from gumboot.catalogue import shelf
from gumboot.core.card.inverter import InverterCard
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.standing import stand
from gumboot.core.standing.due import due_of, overdue
from gumboot.documents.calendar import calendar
from tests.crew import IVO, LENA, record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, 20, tzinfo=UTC)
LUG = "inverter.battery.pos.bat-main"
TOOLS = [{"id": "TW-2", "title": "Wrench", "calibrated_to": "2027-03-31"}]
PLAN = plan_of({"tools": TOOLS})


def terminals(**more: Any) -> Plan:
    """The house with more said of the inverter's terminals."""
    document = shelf()["plover-6s"].model_dump(mode="json")
    for port in document["ports"]:
        port["terminals"] = [{**t, **more} for t in port["terminals"]]
    return plan_of({"tools": []}, {**shelf(), "plover-6s": InverterCard.model_validate(document)})


def landed(plan: Plan, name: str, at: datetime = NOW) -> AnyRecord:
    empty = stand(plan, [], at, 1)
    return record_of(plan, empty, empty.acts[f"torque:{name}"], at)


def rows(plan: Plan, *records: AnyRecord) -> list[tuple[datetime, str]]:
    return [(due.at, due.title) for due in due_of(plan, stand(plan, records, NOW, 1))]


def test_a_tool_is_due_when_its_last_day_is_over() -> None:
    assert rows(PLAN) == [(datetime(2027, 4, 1, tzinfo=UTC), "Calibration of Wrench ends")]
    standing = stand(PLAN, [], NOW, 1)
    assert overdue(PLAN, standing, datetime(2027, 3, 31, 23, 59, tzinfo=UTC)) == ()
    assert len(overdue(PLAN, standing, datetime(2027, 4, 1, 0, 1, tzinfo=UTC))) == 1


def test_marks_of_one_hour_come_due_together_at_the_last_of_them() -> None:
    other = "inverter.battery.neg.bat-main"
    both = rows(PLAN, landed(PLAN, LUG), landed(PLAN, other, NOW + timedelta(minutes=30)))
    assert both[0] == (NOW + timedelta(hours=24, minutes=30), "Marks on 2 lugs a day later")
    apart = rows(PLAN, landed(PLAN, LUG), landed(PLAN, other, NOW + timedelta(minutes=41)))
    assert len(apart) == 3
    assert apart[0][1].startswith("Mark on Plover 6S hybrid inverter BATTERY")


def test_a_mark_that_was_looked_at_is_due_no_more_and_one_that_failed_is_no_due_either() -> None:
    looked = parse_record({**said(f"recheck:{LUG}", NOW + timedelta(hours=25)), "kind": "answer", "yes": True})
    assert len(rows(PLAN, landed(PLAN, LUG), looked)) == 1
    moved = looked.model_copy(update={"yes": False})
    # The lug itself is open again: it is tightened first.
    assert len(rows(PLAN, landed(PLAN, LUG), moved)) == 1
    assert len(rows(PLAN, landed(PLAN, LUG))) == 2


def test_a_card_may_ask_for_a_yearly_look_which_comes_again() -> None:
    plan = terminals(recheck_24h=False, recheck_yearly=True)
    first = landed(plan, LUG)
    assert [title for _, title in rows(plan, first)] == [f"Mark on {plan.termination(LUG).place_title} BATTERY + once a year"]  # type: ignore[union-attr]
    assert rows(plan, first)[0][0] == NOW + timedelta(days=365)
    looked = parse_record({**said(f"yearly:{LUG}", NOW + timedelta(days=370)), "kind": "answer", "yes": True})
    assert rows(plan, first, looked)[0][0] == NOW + timedelta(days=735)
    moved = looked.model_copy(update={"yes": False})
    assert not stand(plan, [first, moved], NOW, 1).stands[f"torque:{LUG}"].holds


def test_what_is_never_disturbed_says_so_and_has_no_look() -> None:
    plan = terminals(recheck_24h=False, never_disturb=True)
    acts = stand(plan, [], NOW, 1).acts
    assert "never disturbed" in acts[f"torque:{LUG}"].caution
    assert f"recheck:{LUG}" not in acts
    with pytest.raises(ValidationError, match="never_disturb with a re-check says both"):
        terminals(recheck_24h=True, never_disturb=True)


def test_the_house_is_visited_a_year_after_it_was_signed_and_stays_signed() -> None:
    signed = parse_record({**said("sign-off:job", NOW, LENA), "kind": "sign-off", "licence": "L-1"})
    assert (NOW + timedelta(days=365), "Yearly look: marks, dust, fans, alarm list, spread of the batteries") in rows(PLAN, signed)
    visit = parse_record({**said("yearly:house", NOW + timedelta(days=366), IVO), "kind": "answer", "yes": True})
    assert stand(PLAN, [signed, visit], NOW, 1).ended == ""


@pytest.mark.parametrize(("hours", "state", "word"), [(24, "part", "0 of 18 marks looked at"), (24.01, "held", "18 of 18 marks overdue")])
def test_the_wire_station_tells_of_marks_that_are_due(hours: float, state: str, word: str) -> None:
    empty = stand(PLAN, [], NOW, 1)
    records = [record_of(PLAN, empty, a, NOW) for a in empty.acts.of("wire") if a.kind != "recheck"]
    wire = stand(PLAN, records, NOW + timedelta(hours=hours), 1).stations["wire"]
    assert (wire.state, wire.word) == (state, word)


def test_the_calendar_holds_each_and_its_names_stay() -> None:
    due = due_of(with_tools := PLAN, stand(with_tools, [landed(PLAN, LUG)], NOW, 1))
    made = Calendar.from_ical(calendar([("d1", "Cottage, the; old", due)], NOW))
    events = list(made.walk("VEVENT"))
    assert [str(e["summary"]) for e in events] == [f"Cottage, the; old: {d.title}" for d in due]
    assert [e.decoded("dtstart") for e in events] == [d.at for d in due]
    assert [str(e["uid"]) for e in events] == ["d1-recheck-inverter.battery.pos.bat-main-1@gumboot.invalid", "d1-tool-TW-2@gumboot.invalid"]

"""Every failure stays in sight, with what became of it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.recording import may_record
from gumboot.core.standing import asked_text, stand
from gumboot.core.standing.history import failures
from tests.crew import IVO, LENA, TOOL, person_of, record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
PLAN = plan_of()
ACTS = stand(PLAN, [], NOW, 1).acts
LUG = "torque:inverter.battery.pos.bat-main"


def one(act: str, minutes: int = 0, **more: Any) -> AnyRecord:
    return parse_record({**said(act, NOW + timedelta(minutes=minutes), LENA if act.startswith("clear") else IVO), **more})


BAD = one("check:dead-dc", kind="reading", value=48.0)


@pytest.mark.parametrize(
    ("records", "told"),
    [
        ([BAD], [("48 V is above 5 V", "stands")]),
        ([BAD, one("check:dead-dc", 1, kind="reading", value=0.2)], [("48 V is above 5 V", "good since 2026-11-27 12:01, Ivo Installer")]),
        ([BAD, one("clear:dead-dc", 1, kind="clearance", reason="leads were swapped", of=BAD.id)],
         [("48 V is above 5 V", "cleared by Lena Licence: leads were swapped")]),
        ([BAD, one("clear:dead-dc", 1, kind="clearance", reason="of another reading", of="another")], [("48 V is above 5 V", "stands")]),
        ([BAD, one("check:dead-dc", 1, kind="taken-back", of=BAD.id)], [("48 V is above 5 V", "taken back by Ivo Installer")]),
        ([one("check:look-open", kind="answer", yes=False)], [("answered no", "stands")]),
        ([one("label:service-disconnect", kind="answer", yes=False)], [("answered no", "stands")]),
        ([one(LUG, kind="could-not", what="snug only"), one(LUG, 2, kind="landing", reached_nm=11.0, tool=TOOL, tug=True)],
         [("snug only", "good since 2026-11-27 12:02, Ivo Installer")]),
        ([one(LUG, kind="landing", reached_nm=5.0, tool=TOOL, tug=True)], [("5.00 N m is outside 10.45 to 11.55 N m", "stands")]),
        ([one("step:export", kind="done").model_copy(update={"defects": ("out of order: x",)})], [("out of order: x", "stands")]),
        ([one("check:dead-dc", kind="reading", value=0.2)], []),
    ],
)  # fmt: skip
def test_a_failure_and_what_became_of_it(records: list[AnyRecord], told: list[tuple[str, str]]) -> None:
    assert [(f.why, f.then) for f in failures(PLAN, ACTS, records)] == told


def test_they_are_told_in_the_order_in_which_they_were_read() -> None:
    later, earlier = one("check:dead-grid", 5, kind="reading", value=9.0), BAD
    assert [f.record.id for f in failures(PLAN, ACTS, [later, earlier])] == [earlier.id, later.id]
    assert failures(PLAN, ACTS, [BAD])[0].title == "DC busbars, positive to negative"


def kept(record: AnyRecord, *before: AnyRecord) -> AnyRecord:
    verdict = may_record(PLAN, stand(PLAN, before, NOW, 1), record, person_of(record), NOW + timedelta(hours=2), sure=True)
    assert verdict.record is not None, verdict.text
    return verdict.record.model_copy(update={"defects": ()})


def told(*records: AnyRecord, **edits: Any) -> list[tuple[str, str, str]]:
    plan = plan_of(edits.get("edits"))
    return [(f.title, f.why, f.then) for f in failures(plan, stand(plan, [], NOW, 1).acts, records)]


def test_what_was_wrong_stays_wrong_whatever_becomes_of_the_plan() -> None:
    loose = kept(one(LUG, kind="landing", reached_nm=5.0, tool=TOOL, tug=True))
    reversed_ = kept(one("check:voc-PV2", 1, kind="reading", value=-300.0, cell_c=18.0))
    was = [
        ("Plover 6S hybrid inverter BATTERY +", "5.00 N m is outside 10.45 to 11.55 N m", "stands"),
        ("Open-circuit voltage of PV2", "reversed: -300 V is the wrong way round", "stands"),
    ]
    assert told(loose, reversed_) == was
    # Of one string less, and with other equipment, neither check nor screw is there any more.
    fewer = [s for s in PLAN.job.model_dump(mode="json")["strings"] if s["tracker"] != "PV2"]
    assert told(loose, reversed_, edits={"strings": fewer, "things.inverter.card": "plover-6p"}) == was
    good = kept(one(LUG, kind="landing", reached_nm=11.0, tool=TOOL, tug=True, size="2/0 AWG"))
    assert told(good, edits={"runs.bat-main.installed_size": "4/0 AWG"}) == []


def test_a_meter_test_that_failed_stays_in_sight() -> None:
    acts = stand(PLAN, [], NOW, 1)
    bad = record_of(PLAN, acts, ACTS["meter:ct-test"], NOW, bad=True)
    assert told(bad)[0][0] == "Meter test, PV off"
    assert told(bad)[0][1] == "CT1 is on L1 but its arrow points the other way."
    good = record_of(PLAN, acts, ACTS["meter:ct-test"], NOW + timedelta(minutes=3))
    assert told(bad, good)[0][2] == "good since 2026-11-27 12:03, Ivo Installer"


def test_a_setting_that_differs_is_told_where_it_guards_something_until_somebody_agrees() -> None:
    row = next(r for r in PLAN.settings.sheet if r.key == "charge_a")
    left = kept(one("setting:charge_a", kind="left", as_left="1 A", reason="for the first week"))
    assert told(left) == [("Charge limit", f"left at 1 A, asked was {asked_text(row)}: for the first week", "stands")]
    agreed = one("setting:charge_a", 1, kind="agreement", of=left.id, asked=asked_text(row), as_left="1 A")
    assert told(left, agreed)[0][2] == "agreed to by Ivo Installer"
    free = next(r for r in PLAN.settings.sheet if not r.guards and r.figure is not None)
    assert told(kept(one(f"setting:{free.key}", kind="left", as_left="1", reason="as the owner wishes"))) == []
    assert told(kept(one(f"setting:{free.key}", kind="left", as_left="1")))[0][1].startswith("left at 1, asked was ")

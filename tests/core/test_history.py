"""Every failure stays in sight, with what became of it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.record import AnyRecord, parse_record
from gumboot.core.standing import stand
from gumboot.core.standing.history import failures
from tests.crew import IVO, LENA, TOOL, said
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

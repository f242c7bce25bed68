"""A missing answer is an explained gap, holds up what rests on it, and never crashes."""

from __future__ import annotations

import pytest

from gumboot.core.plan.survey import questions_of
from tests.helpers import edited, plan_of

ALWAYS = ("site.neutral_bond", "backup.bypass", "walls.wall.room", "site.supply", "site.connection", "site.earthing")
OPTIONAL = [q.path for q in questions_of(edited({})) if q.path not in ALWAYS]


@pytest.mark.parametrize("path", [*OPTIONAL, "runs.grid.length_m", "runs.bat-main.ambient_c", "site.cell_today_c"])
def test_one_missing_answer_is_one_gap(path: str) -> None:
    plan = plan_of({path: None})
    assert [g.path for g in plan.gaps] == [path]
    assert plan.gaps[0].question.endswith("?")
    assert plan.gaps[0].holds_up


def test_all_missing_at_once_still_derives() -> None:
    plan = plan_of(dict.fromkeys(OPTIONAL))
    assert {g.path for g in plan.gaps} == set(OPTIONAL)
    assert plan.strings is None
    assert plan.walls == ()


def test_no_cold_temperature_no_voltage() -> None:
    plan = plan_of({"site.record_low_c": None})
    assert "strings.PV1.cold_v" not in plan.figures
    assert "pv-pv1" not in plan.circuits.sized
    assert "bat-main" in plan.circuits.sized

"""What acts ask for: every act of every house makes a record out of the answers that it asks for, and of nothing else."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.acts import Act, Kind
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.record import AnyRecord
from gumboot.core.recording import Draft, Input, Refused, could_not_inputs, drafted, inputs_of
from gumboot.core.standing import Standing, stand
from tests.crew import record_of, said
from tests.helpers import plan_of

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)
HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
ANSWERS = {"text": "something in words", "tick": "yes", "seen": "1", "moment": "1790000000000"}


def answered(plan: Plan, asks: tuple[Input, ...]) -> dict[str, str]:
    """Something typed for every answer, as its declaration takes it."""
    typed: dict[str, str] = {}
    for i in asks:
        tools = [t.id for t in plan.job.tools if t.kind in i.choices] or [""]
        by_kind = {"quantity": f"5 {i.unit}" if not i.units else "5", "choice": next(iter(i.choices), ""), "tool": tools[0], **ANSWERS}
        typed[i.name] = i.stands or by_kind[i.takes]
        if i.units:
            typed["unit"] = i.units[0]
    return typed


def draft(plan: Plan, standing: Standing, act: Act, typed: dict[str, str]) -> AnyRecord | Refused:
    return drafted(Draft(plan, standing, act, typed, "SI", said(act.id, NOW)))


@pytest.mark.parametrize("name", HOUSES)
def test_every_act_makes_a_record_of_what_it_asks_for(name: str) -> None:
    plan = derive(demo_house(name), shelf())
    standing = stand(plan, [], NOW, 1, head="a" * 64)
    for act in standing.acts.values():
        asks = inputs_of(plan, standing, act)
        if act.is_derived or (act.kind is Kind.TORQUE and not asks):
            continue
        typed = answered(plan, asks)
        made = draft(plan, standing, act, typed)
        assert not isinstance(made, Refused), f"{act.id}: {made}"
        assert len({i.name for i in asks}) == len(asks)
        for i in asks:
            if i.required and i.takes in ("quantity", "text") and act.kind not in (Kind.CLEARANCE,) and not i.stands:
                without: Any = draft(plan, standing, act, {**typed, i.name: ""})
                assert isinstance(without, Refused), f"{act.id} makes a record without {i.name}"
        could_not = draft(plan, standing, act, answered(plan, could_not_inputs(act)))
        assert getattr(could_not, "kind", "") == "could-not"


def test_what_is_asked_follows_the_act_and_how_it_stands() -> None:
    plan = plan_of()
    standing = stand(plan, [], NOW, 1)

    def names(act: str, by: Standing = standing) -> list[str]:
        return [i.name for i in inputs_of(plan, by, by.acts[act])]

    lug = next(t for t in plan.terminations if t.torque and t.tightened_by == "maker")
    assert names(f"torque:{lug.id}") == ["reached", "tool", "tug", "note"]
    assert names("check:dead-dc") == ["value", "tool"]
    assert names("step:start-dead") == []
    assert names("sign-off:job") == ["head", "revision", "number"]
    assert names("setting:charge_a") == ["value"]
    differs = stand(plan, [record_of(plan, standing, standing.acts["setting:charge_a"], NOW, bad=True)], NOW, 1)
    assert names("setting:charge_a", differs) == ["value", "reason"]
    snug = [i.choices for i in could_not_inputs(standing.acts[f"torque:{lug.id}"]) if i.takes == "choice"]
    assert "snug only" in snug[0]
    assert "snug only" not in could_not_inputs(standing.acts["check:dead-dc"])[0].choices

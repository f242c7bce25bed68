"""What holds an act back, in the words of a page: many of one kind in one line."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from gumboot.core.acts import PLAN, Act, Gates, Kind, State, Trouble
from gumboot.core.plan.derive import Plan
from gumboot.core.wording import within


def _landings(plan: Plan, troubles: Sequence[Trouble]) -> list[str]:
    if not troubles:
        return []
    first = next(t for t in plan.terminations if t.id == troubles[0].act.name)
    if len(troubles) == 1:
        return [f"{first.place} {first.title} without a good record"]
    return [f"{len(troubles)} terminations without a good record, the first {first.place} {first.title}"]


def _settings(troubles: Sequence[Trouble]) -> list[str]:
    left = [t.act.title.lower() for t in troubles]
    return [f"settings as left: {', '.join(left[:3])}{f' and {len(left) - 3} more' if len(left) > 3 else ''}"] if left else []


def _said(trouble: Trouble, step: Act) -> str:
    act = trouble.act
    if act.kind is Kind.METER:
        found = within(act.title)
        return (
            f"{found.partition(', PV off')[0]}: {trouble.why}"
            if trouble.why
            else f"the {found.replace(', PV off', '')} with PV off is not recorded"
        )
    if trouble.state is State.FAILED:
        return f"failed reading: {act.title}: {trouble.why}" if act.id.startswith("check:") else f"failed: {act.title}: {trouble.why}"
    if trouble.state is not State.OPEN:
        return f"{act.title}: {trouble.why}"
    if act.kind is Kind.STEP:
        return f"the step before: {act.title}"
    if act.kind is Kind.RITUAL:
        title = within(act.title)
        return f"the task before: {title}" if step.kind is Kind.RITUAL else f"links: {title}"
    if act.station == "power-up" and act.id in step.needs:
        return f"record the reading: {act.title}"
    return act.title if not trouble.why else f"{act.title}: {trouble.why}"


def told(plan: Plan, act: Act, troubles: Iterable[Trouble]) -> tuple[str, ...]:
    """Everything that holds an act back, in words; landings and settings in one line each."""
    found = list(troubles)
    held = [f"stop: {f.text}" for f in plan.stops] if any(t.act.id == PLAN for t in found) else []
    rest = [t for t in found if t.act.id != PLAN]
    held += [_said(t, act) for t in rest if t.act.kind not in (Kind.TORQUE, Kind.SETTING)]
    held += _landings(plan, [t for t in rest if t.act.kind is Kind.TORQUE])
    held += _settings([t for t in rest if t.act.kind is Kind.SETTING])
    return tuple(held)


def step_holds(plan: Plan, gates: Gates) -> dict[str, tuple[str, ...]]:
    """By step of first power: everything that holds it back; nothing where it may be done."""
    found = {}
    for step in plan.power_up.steps:
        act = gates.acts[f"step:{step.id}"]
        found[step.id] = told(plan, act, gates.held_by(act.id))
    return found

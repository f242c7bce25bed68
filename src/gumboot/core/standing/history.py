"""Every failure that was ever read, and what became of it: the next technician sees them all."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.acts import Acts
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Answer, AnyRecord, Clearance, CouldNot, Landing, Reading, TakenBack
from gumboot.core.standing.judged import could_not, judge_check, judge_torque
from gumboot.core.standing.records import in_order


class Failure(NamedTuple):
    """A record that says that something was not as it should be: which act, what was wrong, and what became of it."""

    record: AnyRecord
    title: str
    why: str
    then: str


def wrong_with(plan: Plan, record: AnyRecord) -> str:
    """What a record says is wrong, by the conditions that it was made under; empty where nothing is."""
    if isinstance(record, CouldNot):
        return could_not(record)
    if record.defects:
        return record.defects[0]
    if not isinstance(record, (Landing, Reading, Answer)):
        return ""
    word, _, name = record.act.partition(":")
    if word == "check":
        check = next((c for c in plan.all_checks() if c.id == name), None)
        return "; ".join(judge_check(check, record).faults) if check is not None else ""
    if word == "torque":
        term = plan.termination(name)
        return "; ".join(judge_torque(term, record).faults) if term is not None else ""
    return "answered no" if isinstance(record, Answer) and not record.yes else ""


def _then(record: AnyRecord, later: Sequence[AnyRecord], plan: Plan) -> str:
    """What became of a failure, by the records that came after it."""
    for other in later:
        if isinstance(other, TakenBack) and other.of == record.id:
            return f"taken back by {other.by}"
        cleared = isinstance(other, Clearance) and other.name == record.name and other.of in (None, record.id)
        if cleared and record.act.startswith("check:"):
            return f"cleared by {other.by}: {other.reason}"
        if other.act == record.act and other.kind != "taken-back" and not wrong_with(plan, other):
            return f"good since {other.at.strftime('%Y-%m-%d %H:%M')}, {other.by}"
    return "stands"


def failures(plan: Plan, acts: Acts, records: Sequence[AnyRecord]) -> tuple[Failure, ...]:
    """All of them, the oldest first."""
    rows, found = in_order(records), list[Failure]()
    for at, record in enumerate(rows):
        why = wrong_with(plan, record)
        if why:
            act = acts.get(record.act)
            found.append(Failure(record, act.title if act is not None else record.name, why, _then(record, rows[at + 1 :], plan)))
    return tuple(found)

"""Every failure that was ever read, and what became of it: the next technician sees them all."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from gumboot.core.acts import Acts
from gumboot.core.as_left import as_asked
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Agreement, Answer, AnyRecord, Clearance, CouldNot, Landing, Left, MeterReading, Reading, SetAside, TakenBack
from gumboot.core.standing.judged import could_not, judge_check, judge_torque
from gumboot.core.standing.left import asked_text
from gumboot.core.standing.meter import meter_verdicts
from gumboot.core.standing.records import counted, in_order

STANDS = "stands"


class Failure(NamedTuple):
    """A record that says that something was not as it should be: which act, what was wrong, and what became of it."""

    record: AnyRecord
    title: str
    why: str
    then: str

    @property
    def is_open(self) -> bool:
        """Whether nothing has become of it yet."""
        return self.then == STANDS


def _reading(plan: Plan, record: AnyRecord, _: Sequence[AnyRecord]) -> str:
    check = next((c for c in plan.all_checks() if c.id == record.name), None)
    return "; ".join(judge_check(check, record).faults) if check is not None else ""


def _landing(plan: Plan, record: AnyRecord, _: Sequence[AnyRecord]) -> str:
    term = plan.termination(record.name)
    return "; ".join(judge_torque(term, record).faults) if term is not None else ""


def _meter(plan: Plan, record: AnyRecord, before: Sequence[AnyRecord]) -> str:
    """Of the tests before it, those from which on nothing was moved tell with it."""
    found = meter_verdicts(plan, counted([*before, record])).get(record.name)
    return next((v.text for v in found.channels if v.verdict != "right"), "") if found is not None else ""


def _left(plan: Plan, record: AnyRecord, _: Sequence[AnyRecord]) -> str:
    row = next((row for row in plan.settings.sheet if row.key == record.name), None)
    if row is None or not isinstance(record, Left) or as_asked(row, record.as_left, record.at, plan.job.site.utc_offset_h):
        return ""
    if record.reason and not row.guards:
        return ""  # a difference with its reason, which touches nothing
    return f"left at {record.as_left}, asked was {asked_text(row)}{f': {record.reason}' if record.reason else ''}"


_WRONG: Mapping[str, Callable[[Plan, AnyRecord, Sequence[AnyRecord]], str]] = {
    "check": _reading,
    "torque": _landing,
    "meter": _meter,
    "setting": _left,
}


def wrong_with(plan: Plan, record: AnyRecord, before: Sequence[AnyRecord] = ()) -> str:
    """What a record says is wrong, by the conditions that it was made under; empty where nothing is.

    A record says itself what was found as it was made; one of an earlier version is judged by the plan as it is.
    """
    if record.stood is not None and record.stood.wrong is not None:
        return record.stood.wrong
    if isinstance(record, CouldNot):
        return could_not(record)
    if isinstance(record, SetAside):
        return f"not filed: {record.refused or record.said}"
    if record.defects:
        return record.defects[0]
    if not isinstance(record, (Landing, Reading, Answer, MeterReading, Left)):
        return ""
    wrong = _WRONG.get(record.act.partition(":")[0])
    if wrong is not None:
        return wrong(plan, record, before)
    return "answered no" if isinstance(record, Answer) and not record.yes else ""


def _then(record: AnyRecord, later: Sequence[AnyRecord], plan: Plan) -> str:
    """What became of a failure, by the records that came after it."""
    if isinstance(record, SetAside):
        return f"set aside by {record.by}: {record.reason}"
    for other in later:
        if isinstance(other, TakenBack) and other.of == record.id:
            return f"taken back by {other.by}"
        cleared = isinstance(other, Clearance) and other.name == record.name and other.of in (None, record.id)
        if cleared and record.act.startswith("check:"):
            return f"cleared by {other.by}: {other.reason}"
        if isinstance(other, Agreement) and other.of == record.id:
            return f"agreed to by {other.by}"
        if other.act == record.act and other.kind not in ("taken-back", "photo", "set-aside", "card-note") and not wrong_with(plan, other):
            return f"good since {other.at.strftime('%Y-%m-%d %H:%M')}, {other.by}"
    return STANDS


def title_of(acts: Acts, record: AnyRecord) -> str:
    """What the act of a record was called as it was made; where no record says, what it is called now."""
    act = acts.get(record.act)
    return (record.stood.title if record.stood is not None else "") or (act.title if act is not None else record.name)


def failures(plan: Plan, acts: Acts, records: Sequence[AnyRecord]) -> tuple[Failure, ...]:
    """All of them, the oldest first."""
    rows, found = in_order(records), list[Failure]()
    for at, record in enumerate(rows):
        why = wrong_with(plan, record, rows[:at] if isinstance(record, MeterReading) else ())
        if why:
            found.append(Failure(record, title_of(acts, record), why, _then(record, rows[at + 1 :], plan)))
    return tuple(found)

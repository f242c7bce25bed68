"""What comes due, and when: marks a day and a year after, the yearly visit, the calibration of tools."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from gumboot.core.acts import Act
from gumboot.core.plan.derive import Plan
from gumboot.core.standing.records import Standing

# How long before its day a calibration is told of.
AHEAD = timedelta(days=30)


class Due(NamedTuple):
    """Something that comes due at a moment: several alike in one, such as the marks of one bank. ``acts`` are none for a tool."""

    at: datetime
    title: str
    station: str
    acts: tuple[str, ...] = ()
    tool: str = ""

    def is_over(self, now: datetime) -> bool:
        """Whether its moment has passed."""
        return self.at < now

    @property
    def name(self) -> str:
        """What it is called in calendars: the same as long as it is the same thing."""
        return f"tool-{self.tool}" if self.tool else f"{self.acts[0].replace(':', '-')}-{len(self.acts)}"


def _of_act(standing: Standing, act: Act) -> datetime | None:
    """When an act comes due; None while what it follows is not done, and once it is done for good."""
    first, own = standing.last.get(act.needs[0]), standing.last.get(act.id)
    if first is None or not standing.stands[act.needs[0]].holds:
        return None
    again = act.id.startswith("yearly:")
    if standing.stands[act.id].holds and not again:
        return None
    since = max(first.done_at, own.done_at) if own is not None and again else first.done_at
    return since + timedelta(hours=act.hours_after)


def _hour(at: datetime) -> datetime:
    return at.replace(minute=0, second=0, microsecond=0)


def due_of(plan: Plan, standing: Standing) -> tuple[Due, ...]:
    """Everything that comes due, the soonest first; marks that come due within one hour together, at the last of them."""
    together: dict[tuple[str, datetime], list[tuple[datetime, Act]]] = {}
    for act in standing.acts.values():
        at = _of_act(standing, act) if act.hours_after else None
        if at is not None:
            together.setdefault((act.id.partition(":")[0], _hour(at)), []).append((at, act))
    found = []
    for (word, _), rows in together.items():
        few = len(rows) == 1
        title = rows[0][1].title if few else f"Marks on {len(rows)} lugs{' a day later' if word == 'recheck' else ', once a year'}"
        found.append(Due(max(at for at, _ in rows), title, rows[0][1].station, tuple(act.id for _, act in rows)))
    for tool in plan.job.tools:
        until = datetime.fromisoformat(tool.calibrated_to).replace(tzinfo=UTC) + timedelta(days=1)
        found.append(Due(until, f"Calibration of {tool.title} ends", "wire", tool=tool.id))
    return tuple(sorted(found))


def together(houses: Iterable[tuple[str, str, Iterable[Due]]]) -> list[tuple[Due, list[tuple[str, str]]]]:
    """What comes due at houses, each with its id and title, the soonest first: a tool that several of them name stands once."""
    found: dict[tuple[object, ...], tuple[Due, list[tuple[str, str]]]] = {}
    for job_id, title, rows in houses:
        for due in rows:
            key = (due.at, due.title) if due.tool else (due.at, due.title, job_id)
            found.setdefault(key, (due, []))[1].append((job_id, title))
    return sorted(found.values(), key=lambda row: (row[0].at, row[0].title))


def overdue(plan: Plan, standing: Standing, now: datetime) -> tuple[Due, ...]:
    """What is over its time and not done; a tool only where it is so still."""
    return tuple(due for due in due_of(plan, standing) if due.is_over(now))

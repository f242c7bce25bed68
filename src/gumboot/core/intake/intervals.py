"""Readings of a meter in their order: daylight-saving steps, repeats and holes."""

from __future__ import annotations

import itertools
from collections import Counter
from datetime import UTC, datetime, timedelta

Reading = tuple[datetime, float]


def wall_clock(at: datetime) -> datetime:
    """Wall-clock time without its zone: loads follow the clock on the wall."""
    return at.replace(tzinfo=None)


def steps_and_gaps(rows: list[Reading], minutes: int) -> tuple[list[str], list[Reading]]:
    """Name daylight-saving steps, repeats and holes; a reading given twice at one moment counts once, the last."""
    step, zoned = timedelta(minutes=minutes), rows[0][0].tzinfo is not None
    notes, ordered, holes = _with_offsets(rows, step) if zoned else _by_the_wall_clock(rows, step)
    missing = sum(count for _, count in holes)
    if missing:
        first = ", ".join(f"{wall_clock(at).isoformat(sep=' ', timespec='minutes')} ({count})" for at, count in holes[:4])
        more = f" and {len(holes) - 4} more" if len(holes) > 4 else ""
        notes.append(f"{missing} intervals are missing in {len(holes)} gaps, from {first}{more}. Nothing is filled in for them.")
    return notes, ordered


SORTED = "The lines were out of order and were sorted."


Put = tuple[list[str], list[Reading], list[tuple[datetime, int]]]


def _with_offsets(rows: list[Reading], step: timedelta) -> Put:
    """Readings whose times carry an offset, in the order of the moments they mean: notes, readings, holes."""
    moments = [at.astimezone(UTC) for at, _ in rows]
    notes = [SORTED] if any(a > b for a, b in itertools.pairwise(moments)) else []
    kept = dict(zip(moments, rows, strict=True))
    ordered = [kept[k] for k in sorted(kept)]
    if len(kept) < len(rows):
        notes.append(f"{len(rows) - len(kept)} readings came twice; the last of each counts.")
    steps = [b[0] for a, b in itertools.pairwise(ordered) if a[0].utcoffset() != b[0].utcoffset()]
    notes += [f"Daylight saving steps on {wall_clock(at).date().isoformat()}." for at in steps]
    return notes, ordered, _holes(sorted(kept), step)


def _by_the_wall_clock(rows: list[Reading], step: timedelta) -> Put:
    """Readings by the clock on the wall, which goes back in autumn and forward in spring: notes, readings, holes."""
    repeats = Counter(at for at, _ in rows)
    doubled = [at for at, count in repeats.items() if count > 1]
    autumn = [at for at in doubled if at.hour in (0, 1, 2, 3) and at.month in (4, 9, 10, 11)]
    disorder = any(a[0] > b[0] for a, b in itertools.pairwise(rows))
    notes = [SORTED] if disorder and not autumn else []
    others = len([at for at in doubled if at not in autumn])
    if others:
        notes.append(f"{others} readings came twice; both count.")
    notes += [
        f"The clock went back on {day.isoformat()}: that hour is there twice and both count."
        for day in sorted({at.date() for at in autumn})
    ]
    holes = []
    for at, count in _holes(sorted(repeats), step):
        if count * step == timedelta(hours=1) and at.hour in (1, 2, 3) and at.month in (3, 4, 9, 10):
            notes.append(f"The clock went forward on {at.date().isoformat()}: no hour is missing there.")
        else:
            holes.append((at, count))
    return notes, sorted(rows, key=lambda r: r[0]), holes


def _holes(times: list[datetime], step: timedelta) -> list[tuple[datetime, int]]:
    """Gaps as the first missing moment and how many intervals are missing."""
    found = []
    for a, b in itertools.pairwise(times):
        count = round((b - a) / step) - 1
        if count > 0:
            found.append((a + step, count))
    return found

"""Interval consumption from a CSV file of 15, 30 or 60 min: gaps and daylight-saving steps handled and reported."""

from __future__ import annotations

import itertools
from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from gumboot.core.intake.intervals import Reading, steps_and_gaps, wall_clock
from gumboot.core.intake.loads_csv import BadLine, data_lines, dialect, number, rows_of
from gumboot.core.job.model import Consumption

STEPS = (15, 30, 60)


MOST_LINES = 200_000


TIME_NAMES = ("time", "start", "timestamp", "datetime", "interval_start")


# Unit of a value by its column's name: the factor that makes it mean W in an interval of h hours.
VALUE_NAMES = ("kwh", "wh", "w", "kw")


SHAPES = ("%Y-%m-%d %H:%M", "%Y-%m-%d %H:%M:%S", "%Y-%m-%dT%H:%M", "%Y-%m-%dT%H:%M:%S", "%d.%m.%Y %H:%M", "%d/%m/%Y %H:%M")


@dataclass(frozen=True)
class ConsumptionRead:
    """What was read: the typical days, the step in minutes, and every line that could not be used; None when nothing could."""

    consumption: Consumption | None
    minutes: int
    bad: tuple[BadLine, ...]


def _time(text: str) -> datetime:
    cleaned = text.strip()
    try:
        return datetime.fromisoformat(cleaned)
    except ValueError:
        pass
    for shape in SHAPES:
        try:
            return datetime.strptime(cleaned, shape)  # noqa: DTZ007 - local standing time, as meters write it
        except ValueError:
            continue
    raise ValueError(f"'{cleaned}' is no time. Write 2025-03-30 14:15")


def _columns(header: list[str]) -> tuple[int, int, str] | str:
    names = [c.strip().lower() for c in header]
    time = next((k for k, c in enumerate(names) if c in TIME_NAMES), None)
    value = next(
        (
            (k, unit)
            for unit in VALUE_NAMES
            for k, c in enumerate(names)
            if c == unit or c.endswith((f"_{unit}", f" {unit}", f"({unit})", f"[{unit}]"))
        ),
        None,
    )
    if time is None or value is None:
        lacking = [
            w
            for w, there in (
                (f"a time column ({', '.join(TIME_NAMES)})", time),
                ("a value column that ends in its unit (kWh, Wh, kW or W)", value),
            )
            if there is None
        ]
        return f"The first line names no {' and no '.join(w.removeprefix('a ') for w in lacking)}."
    return time, value[0], value[1]


def _step(times: list[datetime]) -> int:
    gaps = Counter(round((b - a).total_seconds() / 60) for a, b in itertools.pairwise(times))
    return gaps.most_common(1)[0][0] if gaps else 0


def _mean(values: list[float]) -> float | None:
    return round(sum(values) / len(values), 1) if values else None


class Unusable(ValueError):
    """Why nothing of a file can be used; ``minutes`` is the step that was found."""

    def __init__(self, why: str, minutes: int = 0) -> None:
        super().__init__(why)
        self.minutes = minutes


def read_consumption(text: str, source: str = "") -> ConsumptionRead:
    """Typical days by month from interval readings.

    Times are local, or carry an offset; they mark the beginning of an interval. An hour that occurs twice in autumn is averaged, one
    that is missing in spring is no gap; every other hole is counted and named. Values in kWh or Wh of an interval, or in kW or W.
    """
    bad: list[BadLine] = []
    try:
        rows, unit = _used(text, bad)
        minutes = _even_step(rows)
        factor = {"kwh": 60_000 / minutes, "wh": 60 / minutes, "kw": 1000.0, "w": 1.0}[unit]
        notes, rows = steps_and_gaps(rows, minutes)
        days = _typical_days(rows, factor)
        if too_much := _beyond_a_house(rows, factor, days):
            raise Unusable(too_much, minutes)
    except Unusable as refused:
        return ConsumptionRead(None, refused.minutes, (*bad, BadLine(1, str(refused))))
    if bad:
        notes.append(f"{len(bad)} lines could not be used.")
    consumption = Consumption(
        source=source[:120],
        first=wall_clock(rows[0][0]).isoformat(sep=" ", timespec="minutes"),
        last=wall_clock(rows[-1][0]).isoformat(sep=" ", timespec="minutes"),
        intervals=len(rows),
        kwh=round(sum(value * factor for _, value in rows) * minutes / 60_000, 2),
        month_hour_w=[list(day) for day in days],
        notes=notes,
    )
    return ConsumptionRead(consumption, minutes, tuple(bad))


def _used(text: str, bad: list[BadLine]) -> tuple[list[Reading], str]:
    """The readings that can be used with their unit; the lines that cannot are added to ``bad``. Raises Unusable."""
    separator = dialect(text)
    lines = rows_of(text, separator)
    if not lines or not any(c.strip() for c in lines[0]):
        raise Unusable("The file is empty.")
    columns = _columns(lines[0])
    if isinstance(columns, str):
        raise Unusable(columns)
    time_at, value_at, unit = columns
    rows, unread = _readings(lines, time_at, value_at, unit, separator)
    bad += unread
    if len(rows) < 2:
        raise Unusable("Fewer than two readings could be used.")
    return rows, unit


def _even_step(rows: list[Reading]) -> int:
    """Minutes between readings. Raises Unusable where times are of two kinds, or the step is none that is read."""
    whole = [at for at, _ in rows]
    if len({at.tzinfo is None for at in whole}) > 1:
        raise Unusable("Some times carry an offset and some do not. Export them alike.")
    minutes = _step(whole)
    if minutes not in STEPS:
        raise Unusable(f"The readings stand {minutes} min apart; 15, 30 or 60 are read.", minutes)
    return minutes


def _typical_days(rows: list[Reading], factor: float) -> list[list[float | None]]:
    """Mean power in W of each hour of each month; None where nothing was read."""
    sums: dict[tuple[int, int], list[float]] = {}
    for at, value in rows:
        clock = wall_clock(at)
        sums.setdefault((clock.month - 1, clock.hour), []).append(value * factor)
    return [[_mean(sums.get((m, h), [])) for h in range(24)] for m in range(12)]


# More than any dwelling draws as a mean of an hour.
MOST_MEAN_W = 200_000.0


def _beyond_a_house(rows: list[Reading], factor: float, days: list[list[float | None]]) -> str:
    """What is wrong with means that no house draws: usually a register that counts up and was read as consumption. Empty when all is well."""
    highest = max((w for day in days for w in day if w is not None), default=0.0)
    if highest <= MOST_MEAN_W:
        return ""
    values = [value for _, value in rows]
    rising = all(a <= b for a, b in itertools.pairwise(values))
    said = f"The values make a mean of {highest / 1000:.0f} kW in one hour, which no house draws."
    if rising:
        return f"{said} They only ever rise: this is a register that counts up. Export the consumption of each interval instead."
    return f"{said} Look at the unit in the value column's name ({values[0]:g} is read times {factor:g} W)."


def _readings(lines: list[list[str]], time_at: int, value_at: int, unit: str, separator: str) -> tuple[list[Reading], list[BadLine]]:
    rows: list[Reading] = []
    bad: list[BadLine] = []
    for n, cells in data_lines(lines, MOST_LINES, bad):
        if len(cells) <= max(time_at, value_at):
            bad.append(BadLine(n, "The line has too few cells."))
            continue
        try:
            at = _time(cells[time_at])
        except ValueError as refused:
            bad.append(BadLine(n, f"{refused}."))
            continue
        try:
            value = number(cells[value_at], separator)
        except ValueError:
            bad.append(BadLine(n, f"'{cells[value_at].strip()}' is no number of {unit}."))
            continue
        if value < 0:
            bad.append(BadLine(n, "Consumption below nothing: export belongs in another column."))
            continue
        rows.append((at, value))
    return rows, bad

"""What a study of a year gives."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.sim.sun import Series
from gumboot.core.sim.year import Year


@dataclass(frozen=True)
class More:
    """What one more of something buys: hours carried in the worst tenth, and the share of the load served without the grid."""

    title: str
    hours: Figure
    own: Figure


@dataclass(frozen=True, eq=False)
class YearStudy:
    """A year of operation and the outages in it; ``waits_for`` names what must be answered first and is empty when all is there."""

    waits_for: tuple[str, ...]
    figures: dict[str, Figure]
    year: Year | None = None
    pv_month_kwh: Series | None = None
    load_month_kwh: Series | None = None
    import_month_kwh: Series | None = None
    carried: Series | None = None
    field_low: Series | None = None
    percentiles: tuple[Figure, ...] = ()
    share: Figure | None = None
    reserves: tuple[Figure, ...] = ()
    buys: tuple[More, ...] = ()
    notes: tuple[str, ...] = ()


MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")


def field_figure(study: YearStudy, hour: int, month: int) -> Figure | None:
    """One place of the field as a figure; ``month`` counts from 0. None while there is no field."""
    if study.field_low is None:
        return None
    return Figure(
        f"outage.field.{hour}.{month + 1}",
        "t_10",
        f"Outage from {hour:02d}:00 in {MONTHS[month]}: nine days in ten carry it longer",
        float(study.field_low[hour, month]),
        "h",
        source="sun.outage",
        limits="The tenth part of that month's days, shortest first; 240 h is the most counted.",
    )

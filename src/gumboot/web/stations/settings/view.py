"""What the station Settings is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.acts import Act
from gumboot.core.job.settings import TariffWindow
from gumboot.core.plan.settings import ORDER
from gumboot.core.plan.settings.line import Setting
from gumboot.core.standing import SettingStands
from gumboot.drawing import settings
from gumboot.web.act_words import to_agree
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Ruler:
    """The charge voltages of a bank on one scale."""

    title: str
    note: str
    drawing: Markup


@dataclass(frozen=True, slots=True)
class SheetRow:
    """A line of the sheet: what is set and why, what it was left at, and whose agreement it waits for."""

    row: Setting
    act: Act
    stands: SettingStands
    # The record that waits for the licence holder's agreement, to who may give it.
    to_agree: str


@dataclass(frozen=True, slots=True)
class SettingsView:
    """The station Settings."""

    rulers: list[Ruler]
    day_note: str
    day: Markup
    has_grid: bool
    thresholds: tuple[tuple[str, str], ...]
    windows: list[TariffWindow]
    sheet: list[SheetRow]


def _rulers(b: Bench) -> list[Ruler]:
    found = []
    for ruler in b.plan.settings.rulers:
        works = "these stand by when the battery stops talking" if ruler.linked else "the inverter works by these"
        title = f"{'Fallback voltages' if ruler.linked else 'Charge voltages'}{ruler.of}"
        found.append(Ruler(title, f"{b.job.settings.comms}; {works}", settings.ruler_of(b.plan, ruler)))
    return found


def _row(b: Bench, row: Setting) -> SheetRow:
    stands = b.standing.settings[row.key]
    return SheetRow(row, b.standing.acts[f"setting:{row.key}"], stands, to_agree(b, row))


def view_of(b: Bench) -> SettingsView:
    """The station as its page needs it."""
    windows = b.job.settings.tariff
    seasonal = any(w.days != "every day" or w.from_month != 1 or w.to_month != 12 for w in windows)
    note = "a weekday in January; other days and seasons are judged and not drawn, and the year runs by windows that hold every day"
    return SettingsView(
        rulers=_rulers(b),
        day_note=note if seasonal else "",
        day=settings.day_strip(b.plan),
        has_grid=b.job.site.supply != "none",
        thresholds=tuple(ORDER),
        windows=list(windows),
        sheet=[_row(b, row) for row in b.plan.settings.sheet],
    )

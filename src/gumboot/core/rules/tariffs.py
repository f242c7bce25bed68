"""Do tariff, work mode and control come out: one price an hour, none left out, none at the peak, and something to go by?"""

from __future__ import annotations

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Overlap(Facts):
    """Tariff windows that share an hour, none where each hour has one price."""

    titles: tuple[str, ...]
    field: str = ""


@rule("SET-TARIFF-OVERLAP")
def one_price_an_hour(o: Overlap) -> Breach | None:
    """No hour has two prices."""
    if len(o.titles) < 2:
        return None
    both = " and ".join(o.titles)
    return Breach(both, f"{both} overlap: one hour has two prices.", "End one where the other begins.", field=o.field)


class Unpriced(Facts):
    """The first kind of day, month and half hour that no tariff window covers; None where each has a price, or there is no tariff."""

    at: tuple[str, int, int] | None


@rule("SET-TARIFF-GAP")
def a_price_at_every_hour(u: Unpriced) -> Breach | None:
    """Where there is a tariff, every hour has a price."""
    if u.at is None:
        return None
    day, month, half = u.at
    text = f"No price stands at {half // 2:02d}:{half % 2 * 30:02d} on {day} in month {month}."
    return Breach("tariff", text, "Give these hours a window, or stretch one.", field="settings.tariff")


class Control(Facts):
    """How the battery is controlled, against whether it is linked and whether its card gives voltages; and the mode with its windows."""

    comms: str
    bank: str
    linked: bool
    has_volts: bool
    mode: str = "self-use"
    windows: int = 0


@rule("SET-CONTROL")
def controlled_by_what_is_there(c: Control) -> Breach | None:
    """Closed loop has a link to the battery, open loop has voltages to work by."""
    if c.comms == "closed loop" and not c.linked:
        text = f"Closed loop is chosen for {c.bank}, and no link leads to its battery."
        return Breach("control", text, "Choose open loop, or a battery and an inverter that talk.", field="settings.comms")
    if c.comms == "open loop" and not c.has_volts:
        text = f"Open loop is chosen for {c.bank}, whose battery's card gives no voltages for it: it is commanded by its link alone."
        return Breach("control", text, "Choose closed loop.", field="settings.comms")
    return None


@rule("SET-TIMED")
def timed_by_windows(c: Control) -> Breach | None:
    """Timed working has windows to go by."""
    if c.mode != "timed" or c.windows:
        return None
    text = "The work mode is timed, and no window says when to charge or to discharge."
    return Breach("work mode", text, "Enter the tariff's windows, or choose another mode.", field="settings.work_mode")


class Window(Facts):
    """A tariff window: its kind, and whether the grid charges in it."""

    id: str
    title: str
    kind: str
    grid_charge: bool


@rule("SET-TARIFF-PEAK")
def not_at_the_peak(w: Window) -> Breach | None:
    """The grid charges at no peak price."""
    if not (w.grid_charge and w.kind == "peak"):
        return None
    text = f"{w.title} charges from the grid at the dearest price."
    return Breach(w.title, text, "Charge off-peak.", field=f"settings.tariff.{w.id}.grid_charge")

"""Do the devices of the bank break its fault current, stand its voltage, and stand where they must?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

AC_SAYS_NOTHING = "An AC rating says nothing about DC."


class Broken(Facts):
    """A device in the battery circuit against the fault current at its place; ``breaks`` is None where its card does not say."""

    where: str
    device: str
    fault: Figure
    breaks: Figure | None
    field: str = ""


@rule("FUSE-INTERRUPT")
def fuse_breaks(d: Broken) -> Breach | None:
    """The fuse breaks what the bank can push into a fault."""
    if d.breaks is not None and d.breaks.value >= d.fault.value:
        return None
    breaks = f"breaks {d.breaks.value:.0f} A" if d.breaks else "gives no interrupting rating"
    text = f"The bank can push {d.fault.value:.0f} A into a fault; the {d.device} {breaks}."
    return Breach(d.where, text, "Choose a fuse with a higher DC interrupting rating.", d.fault, d.breaks, d.field)


@rule("BANK-BREAKER-INTERRUPT")
def breaker_breaks(d: Broken) -> Breach | None:
    """A battery's own breaker breaks the largest fault at its place: from its own cells, or from the others beside it."""
    if d.breaks is not None and d.breaks.value >= d.fault.value:
        return None
    text = (
        f"{d.fault.value:.0f} A may flow at a battery's own breaker; it breaks {d.breaks.value:.0f} A."
        if d.breaks
        else f"{d.device} does not say what its breaker breaks; {d.fault.value:.0f} A may flow there."
    )
    act = "Fit a fuse for each battery at the busbar, or ask the maker for the breaker's DC interrupting rating."
    return Breach(d.where, text, act, d.fault, d.breaks, d.field)


class Stands(Facts):
    """A device or bars against the highest battery voltage; ``rated`` is None where the card is silent about DC."""

    where: str
    thing: str
    title: str
    top: Figure
    rated: Figure | None
    field: str = ""


@rule("DC-VOLTAGE")
def dc_voltage(s: Stands) -> Breach | None:
    """The DC rating is given, and covers the battery's highest voltage."""
    if s.rated is not None and s.rated.value >= s.top.value:
        return None
    text = (
        f"The battery reaches {s.top.value:g} V; the {s.thing} rated {s.rated.value:g} V DC."
        if s.rated
        else f"{s.title} gives no DC rating; the battery reaches {s.top.value:g} V."
    )
    chosen = "a device" if s.thing.startswith("device") else "bars"
    act = f"Choose {chosen} with a DC rating above the battery's voltage. {AC_SAYS_NOTHING}"
    return Breach(s.where, text, act, s.top, s.rated, s.field)


class Guarded(Facts):
    """The overcurrent device between bank and inverter, or none."""

    where: str
    device: Figure | None


@rule("BANK-DEVICE")
def device_between(g: Guarded) -> Breach | None:
    """An overcurrent device stands between bank and inverter."""
    if g.device is not None:
        return None
    text = "No overcurrent device stands between the bank and the inverter."
    return Breach(g.where, text, "Fit a DC fuse or breaker at the bank.", field="things.switch-fuse.card")


class HighVolts(Facts):
    """The highest voltage of a bank in a dwelling against the one above which live parts may not be reached, and the most of all."""

    where: str
    title: str
    top: Figure
    open_most: Figure
    most: Figure
    covered: bool | None


@rule("BANK-DWELLING-V")
def dwelling_voltage(h: HighVolts) -> Breach | None:
    """Above 100 V DC in a dwelling nobody reaches a live part in routine maintenance; above 600 V no bank stands there."""
    if h.top.value <= h.open_most.value or (h.covered is True and h.top.value <= h.most.value):
        return None
    if h.top.value > h.most.value:
        text = f"The bank reaches {h.top.value:.0f} V; in a dwelling {h.most.value:g} V is the most."
        return Breach(h.where, text, "Choose fewer units in series, or another battery.", h.top, h.most, ".units")
    why = "its card says that live parts can be reached" if h.covered is False else "its card does not say that no live part can be reached"
    text = f"The bank reaches {h.top.value:.0f} V in a dwelling, and {why} during routine maintenance."
    act = "Take a newer revision of the card, complete it from the maker's listing, or choose a battery below 100 V."
    return Breach(h.where, text, act, h.top, h.open_most, ".card")

"""Does the bank suit its inverter: count, window, chemistry, list, cabling, cold, and the weakest link?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.storage import BatteryCard
from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


# A daisy chain shares badly from the third battery on; taken off diagonally, from the fourth.
MOST_DAISY, MOST_DIAGONAL = 2, 3


LEAD_SPREAD = 0.1


class Window(Facts):
    """The bank's voltages against the inverter's battery port."""

    bottom: Figure
    top: Figure
    low: Figure
    high: Figure


@rule("BANK-WINDOW")
def window(w: Window) -> Breach | None:
    """The battery lives within the inverter's window."""
    if w.low.value <= w.bottom.value and w.top.value <= w.high.value:
        return None
    above = w.top.value > w.high.value
    text = f"The battery works from {w.bottom.value:g} to {w.top.value:g} V; the inverter takes {w.low.value:g} to {w.high.value:g} V."
    act = "Choose a battery inside the inverter's window."
    return Breach("bank", text, act, w.top if above else w.bottom, w.high if above else w.low, ".card")


class Pair(Facts):
    """A battery and the inverter it is to stand beside."""

    battery: BatteryCard
    inverter: InverterCard


@rule("BANK-CHEMISTRY")
def chemistry(p: Pair) -> Breach | None:
    """The inverter has settings for the battery's chemistry."""
    if p.battery.chemistry in p.inverter.battery.chemistries:
        return None
    text = f"The battery is {p.battery.chemistry}; the inverter has settings for {', '.join(p.inverter.battery.chemistries)}."
    return Breach("bank", text, "Choose a battery whose chemistry the inverter can be set for.", field=".card")


@rule("BANK-LIST")
def listed(p: Pair) -> Breach | None:
    """The battery is on the maker's list where there is one; what docks is joined by the maker's own plug, and only the list tells."""
    names = p.inverter.battery.accepts
    if p.battery.id in names or not (names or p.inverter.bank_internal):
        return None
    text = f"{p.battery.title} is not on the battery list of {p.inverter.title}."
    act = f"Choose one of: {', '.join(names) or 'none is listed; ask the maker'}."
    return Breach("bank", text, act, field=".card")


@rule("BANK-DOCK")
def docks(p: Pair) -> Breach | None:
    """What docks inside belongs into a unit that takes docked modules, and the other way round."""
    if p.inverter.bank_internal == (p.battery.arrangement == "docked"):
        return None
    text = (
        f"{p.battery.title} docks inside a unit of its maker; {p.inverter.title} takes none inside."
        if p.battery.arrangement == "docked"
        else f"{p.inverter.title} takes only its own modules inside; {p.battery.title} stands outside."
    )
    return Breach("bank", text, "Choose a battery and an inverter that belong together.", field=".card")


class Cabling(Facts):
    """How the batteries of a parallel bank are joined, and the lengths of their leads."""

    batteries: int
    style: str
    lengths_m: Sequence[float]
    first: str


@rule("BANK-DAISY")
def daisy(c: Cabling) -> Breach | None:
    """Above two batteries busbars, or a diagonal take-off to three."""
    if c.style == "busbar" or c.batteries <= (MOST_DIAGONAL if c.style == "diagonal" else MOST_DAISY):
        return None
    text = f"{c.batteries} batteries are daisy-chained: the nearest one works hardest."
    act = "Use busbars with equal leads, or take off diagonally."
    return Breach("bank", text, act, field=".cabling", level="stop" if c.batteries > MOST_DIAGONAL else "caution")


@rule("BANK-LEADS")
def equal_leads(c: Cabling) -> Breach | None:
    """The leads to the busbar are alike within a tenth of the longest."""
    lengths = c.lengths_m
    if not lengths or max(lengths) - min(lengths) <= LEAD_SPREAD * max(lengths) + HAIR:
        return None
    text = "The leads to the busbar differ by more than a tenth: the shortest one carries the most."
    return Breach("bank", text, "Make all leads of one length.", field=f"runs.{c.first}.length_m")


class Unlike(Facts):
    """Leads to the busbar of unlike size, material or number: how far their resistances lie apart, and which has the least."""

    apart: Figure
    most: Figure
    lowest: str
    field: str


@rule("BANK-LEAD-OHM")
def alike_in_resistance(u: Unlike) -> Breach | None:
    """The leads to the busbar are alike in resistance, whatever they are made of."""
    if u.apart.value <= u.most.value + HAIR:
        return None
    text = f"The leads to the busbar differ by {u.apart.value:.0f} % in resistance: {u.lowest} has the least and carries the most."
    return Breach("bank", text, "Make all leads of one size, material and length.", u.apart, u.most, u.field)


class Precharge(Facts):
    """Whether a pre-charge path is fitted."""

    fitted: bool


@rule("BANK-PRECHARGE")
def precharge(p: Precharge) -> Breach | None:
    """A pre-charge path is fitted."""
    if p.fitted:
        return None
    text = "No pre-charge: closing the battery switch onto empty capacitors welds contacts and trips the BMS."
    return Breach("bank", text, "Fit the pre-charge path named by the inverter's card.", field=".precharge")


class Cold(Facts):
    """The coldest air of the place against the coldest cell that may be charged."""

    coldest: Figure
    least: Figure
    field: str


@rule("BANK-COLD")
def cold_charging(c: Cold) -> Breach | None:
    """The place does not fall below what the cells may be charged at."""
    if c.coldest.value >= c.least.value:
        return None
    text = f"The place falls to {c.coldest.value:g} °C; the cells may be charged from {c.least.value:g} °C."
    act = "Choose a warmer place, a heated battery, or set the charge limit to zero when cold."
    return Breach("bank", text, act, c.coldest, c.least, c.field)


class Hot(Facts):
    """The hottest air of the place against the hottest cell that may be charged."""

    hottest: Figure
    most: Figure
    field: str


@rule("BANK-HOT")
def hot_charging(h: Hot) -> Breach | None:
    """The place does not get hotter than what the cells may be charged at."""
    if h.hottest.value <= h.most.value:
        return None
    text = f"The place reaches {h.hottest.value:g} °C; the cells may be charged up to {h.most.value:g} °C, and are warmer than the air."
    return Breach(
        "bank",
        text,
        "Choose a cooler place or shade and air it: hot cells age fast and the BMS stops charging.",
        h.hottest,
        h.most,
        h.field,
    )


class Share(Facts):
    """What the hardest-working battery of a bank carries."""

    name: str
    share: Figure
    whole: Figure | None
    one: Figure


@rule("BANK-SHARE")
def share(s: Share) -> Breach | None:
    """No battery carries more than its own continuous current."""
    if s.share.value <= s.one.value + HAIR:
        return None
    of_all = f" of {s.whole.value:.1f} A" if s.whole else ""
    text = f"{s.name} would carry {s.share.value:.1f} A{of_all}; one battery gives {s.one.value:g} A."
    act = "Make the leads alike, use busbars, add a battery, or lower the inverter's battery current."
    return Breach("bank", text, act, s.share, s.one, ".cabling")


class Weakest(Facts):
    """The weakest link between cells and inverter against the design current."""

    title: str
    amps: Figure
    design: Figure


@rule("BANK-WEAK")
def weakest_link(w: Weakest) -> Breach | None:
    """Every link carries the design current."""
    if w.amps.value >= w.design.value:
        return None
    text = f"Full output draws {w.design.value:.1f} A at the lowest voltage; {w.title} carries {w.amps.value:.1f} A."
    return Breach(w.title, text, "Strengthen that link, or lower the inverter's battery current.", w.design, w.amps)


class Cable(Facts):
    """Length of the battery cable against the maker's longest."""

    length: Figure
    most: Figure
    circuit: str = "bat-main"


@rule("BANK-LENGTH")
def cable_length(c: Cable) -> Breach | None:
    """The battery cable is no longer than the inverter's maker allows."""
    if c.length.value <= c.most.value:
        return None
    text = f"The battery cable is {c.length.value:g} m long; the inverter's maker allows {c.most.value:g} m."
    return Breach(c.circuit, text, "Stand the battery nearer to the inverter.", c.length, c.most, f"runs.{c.circuit}.length_m")


PAIRED = (chemistry, listed, docks)

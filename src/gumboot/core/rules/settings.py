"""Does each setting stand within battery, inverter, device and cable, in the right order, at a sensible hour?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Wanted(Facts):
    """A current that is asked for against the most that every link allows."""

    what: str
    asked: Figure
    most: Figure
    field: str


def _within(w: Wanted) -> Breach | None:
    if w.asked.value <= w.most.value + HAIR:
        return None
    text = f"{w.asked.value:g} A is asked; the weakest link allows {w.most.value:.1f} A."
    return Breach(w.what, text, f"Set {w.most.value:.0f} A or less.", w.asked, w.most, w.field)


@rule("SET-CHARGE-OVER")
def charge_within(w: Wanted) -> Breach | None:
    """The charge limit stays within bank, inverter, device and cable."""
    return _within(w)


@rule("SET-DISCHARGE-OVER")
def discharge_within(w: Wanted) -> Breach | None:
    """The discharge limit stays within bank, inverter, device and cable."""
    return _within(w)


class GridCharge(Facts):
    """Charge current from the grid against the charge limit."""

    amps: Figure
    limit: Figure


@rule("SET-GRID-CHARGE")
def grid_charge_within(g: GridCharge) -> Breach | None:
    """Charging from the grid stays within the charge limit."""
    if g.amps.value <= g.limit.value:
        return None
    text = f"{g.amps.value:g} A from the grid is above the charge limit of {g.limit.value:.0f} A."
    return Breach("grid charge", text, "Lower it.", g.amps, g.limit, "settings.grid_charge_a")


class Equalised(Facts):
    """Whether equalising is switched on, and for which chemistry."""

    on: bool
    chemistry: str


@rule("SET-EQUALISE")
def no_equalising(e: Equalised) -> Breach | None:
    """Only a flooded lead-acid bank is equalised."""
    if not e.on or e.chemistry == "lead-acid flooded":
        return None
    text = f"Equalising is switched on for a {e.chemistry} battery: it overcharges cells that cannot vent."
    return Breach("equalise", text, "Switch equalising off.", field="settings.equalise")


class Equalise(Facts):
    """The equalise voltage of a bank against the least of what battery and inverter stand."""

    volts: Figure
    most: Figure


@rule("SET-EQUALISE-OVER")
def equalise_within(e: Equalise) -> Breach | None:
    """Battery and inverter stand the equalise voltage."""
    if e.volts.value <= e.most.value + HAIR:
        return None
    text = f"Equalising asks {e.volts.value:.1f} V; battery and inverter stand {e.most.value:g} V."
    act = "Switch equalising off, or choose an inverter that stands it."
    return Breach("equalise", text, act, e.volts, e.most, "settings.equalise")


class ByAir(Facts):
    """A charge voltage at the coldest or hottest air against what it must not pass."""

    title: str
    volts: Figure
    bound: Figure
    field: str


@rule("SET-CHARGE-COLD")
def reached_when_cold(b: ByAir) -> Breach | None:
    """The inverter reaches the charge voltage that cold cells want."""
    if b.volts.value <= b.bound.value + HAIR:
        return None
    text = f"{b.title} wants {b.volts.value:.1f} V on the coldest day; the inverter reaches {b.bound.value:g} V: the bank is never full."
    return Breach(b.title, text, "Warm the place, or choose an inverter that charges higher.", b.volts, b.bound, b.field)


@rule("SET-CHARGE-HOT")
def released_when_hot(b: ByAir) -> Breach | None:
    """On the hottest day float still stands above the voltage at which grid or generator is released."""
    if b.volts.value > b.bound.value:
        return None
    text = f"{b.title} falls to {b.volts.value:.1f} V on the hottest day; the grid is released at {b.bound.value:g} V: it never would be."
    return Breach(b.title, text, "Release it at a lower voltage.", b.volts, b.bound, b.field)


class Neighbours(Facts):
    """Two thresholds that must rise in this order; ``may_equal`` where both may be one value."""

    titles: tuple[str, str]
    below: Figure
    above: Figure
    may_equal: bool
    field: str


@rule("SET-ORDER")
def thresholds_rise(n: Neighbours) -> Breach | None:
    """Thresholds rise in their order."""
    if n.below.value < n.above.value or (n.may_equal and n.below.value == n.above.value):
        return None
    text = f"{n.titles[0]} is {n.below.value:g} V and {n.titles[1]} {n.above.value:g} V: they must rise in this order."
    act = "Use the card's value for the one that was changed."
    return Breach(f"{n.titles[0]} and {n.titles[1]}", text, act, n.below, n.above, n.field)


class Gap(Facts):
    """How far two thresholds stand apart against the least that can be told apart, or that does not hunt."""

    titles: tuple[str, str]
    apart: Figure
    least: Figure
    field: str


@rule("SET-GAP")
def thresholds_stand_apart(g: Gap) -> Breach | None:
    """Two thresholds stand farther apart than the inverter reads them; one that is not above the other is told of by its order."""
    if g.apart.value <= 0 or g.apart.value >= g.least.value - HAIR:
        return None
    unit = g.apart.unit
    text = f"{g.titles[0]} and {g.titles[1]} stand {g.apart.value:.2g} {unit} apart; less than {g.least.value:.2g} {unit} cannot be told apart."
    return Breach(f"{g.titles[0]} and {g.titles[1]}", text, "Set them farther apart.", g.apart, g.least, g.field)


@rule("SET-HUNT")
def does_not_hunt(g: Gap) -> Breach | None:
    """Between switching off and on again lies more than the battery's voltage springs back when the load goes."""
    if g.apart.value <= 0 or g.apart.value >= g.least.value - HAIR:
        return None
    text = (
        f"Between {g.titles[0].lower()} and {g.titles[1].lower()} lie {g.apart.value:.2f} V; "
        f"the battery springs back by {g.least.value:.2f} V when the load goes: it would switch to and fro."
    )
    return Breach(f"{g.titles[0]} and {g.titles[1]}", text, "Set them farther apart.", g.apart, g.least, g.field)


class Depth(Facts):
    """A state of charge at which something is cut off, against the one at which the battery itself stops."""

    title: str
    at: Figure
    floor: Figure
    field: str


@rule("SET-DEPTH")
def above_the_floor(d: Depth) -> Breach | None:
    """The inverter cuts off before the battery does: one that stops by itself may not wake again."""
    if d.at.value >= d.floor.value:
        return None
    text = f"{d.title} stands at {d.at.value:g} %; the battery stops by itself at {d.floor.value:g} %."
    return Breach(d.title, text, f"Set {d.floor.value:g} % or more.", d.at, d.floor, d.field)


class Threshold(Facts):
    """A threshold against the voltages between which the battery lives."""

    title: str
    volts: Figure
    low: Figure
    high: Figure
    field: str


@rule("SET-VOLTAGE-RANGE")
def within_the_battery(t: Threshold) -> Breach | None:
    """A threshold lies between the battery's lowest and highest voltage."""
    if t.low.value <= t.volts.value <= t.high.value:
        return None
    text = f"{t.title} is {t.volts.value:g} V; the battery lives between {t.low.value:g} and {t.high.value:g} V."
    return Breach(t.title, text, "Use the card's value.", t.volts, t.high, t.field)


class Accepted(Facts):
    """A value against what the inverter accepts."""

    title: str
    value: Figure
    low: float
    high: float
    unit: str


@rule("SET-RANGE")
def inverter_accepts(a: Accepted) -> Breach | None:
    """The inverter accepts the value."""
    if a.low <= a.value.value <= a.high:
        return None
    text = f"{a.title} is {a.value.value:g} {a.unit}; the inverter accepts {a.low:g} to {a.high:g}."
    return Breach(a.title, text, "Choose a value the inverter accepts.", a.value)


class Reserve(Facts):
    """Hours that the reserve carries against those that are wished."""

    hours: Figure
    wish: Figure


@rule("SET-RESERVE-SHORT")
def reserve_carries(r: Reserve) -> Breach | None:
    """The reserve carries the outage that is wished."""
    if r.hours.value >= r.wish.value:
        return None
    text = f"The reserve carries {r.hours.value:.1f} h; {r.wish.value:g} h are wished."
    act = "Raise the reserve, back up less, or add a battery."
    return Breach("reserve", text, act, r.hours, r.wish, "settings.reserve_pct")

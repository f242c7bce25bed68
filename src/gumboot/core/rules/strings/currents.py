"""Do tracker, terminals, fuses and isolators bear the currents of their strings?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule
from gumboot.core.rules.strings.voltages import HAIR


class Amps(Facts):
    """Currents of one input. ``others`` are strings that land on the terminal which a bridge would take."""

    place: str
    operating: Figure
    maximum: Figure
    operating_most: Figure
    maximum_most: Figure
    terminal: Figure
    bridge: Figure | None
    bridged: bool
    bridge_with: str = ""
    others: tuple[str, ...] = ()
    held: bool = False
    field: str = ""


@rule("PV-TRACKER-CURRENT")
def tracker_current(a: Amps) -> Breach | None:
    """The operating current stays within what the tracker uses."""
    if a.held or a.operating.value <= a.operating_most.value:
        return None
    text = f"{a.place} would work at {a.operating.value:.1f} A; above {a.operating_most.value:g} A the tracker only clips."
    return Breach(a.place, text, "Put fewer strings in parallel on this tracker.", a.operating, a.operating_most)


@rule("PV-TRACKER-ISC")
def tracker_short_circuit(a: Amps) -> Breach | None:
    """The maximum circuit current stays within what the input is built for."""
    if a.held or a.maximum.value <= a.maximum_most.value:
        return None
    text = f"{a.place} may see {a.maximum.value:.1f} A; the input is built for {a.maximum_most.value:g} A of short-circuit current."
    act = "Put fewer strings in parallel on this tracker or choose another module."
    return Breach(a.place, text, act, a.maximum, a.maximum_most)


@rule("PV-BRIDGE")
def bridge(a: Amps) -> Breach | None:
    """A bridge is the maker's own, is needed, and takes no terminal on which a string lands."""
    if not a.bridged:
        return None
    if a.bridge is not None and a.maximum.value > a.terminal.value and not a.others:
        return None
    if a.bridge is None:
        words = "and its maker has none."
    elif a.others:
        words = f"and it takes the terminal of {a.bridge_with}, on which {', '.join(a.others)} lands."
    else:
        words = f"and one terminal carries its {a.maximum.value:.1f} A already."
    act = f"Leave {a.bridge_with} free, or take the bridge out." if a.others else "Take the bridge out."
    return Breach(a.place, f"A bridge is set on {a.place}, {words}", act, a.maximum, a.terminal, a.field)


@rule("PV-TERMINAL-CURRENT")
def terminal_current(a: Amps) -> Breach | None:
    """One terminal, or two under the maker's own bridge, carry the maximum circuit current."""
    carries = a.bridge if a.bridged and a.bridge is not None else a.terminal
    if a.maximum.value <= carries.value:
        return None
    how = "two bridged terminals carry" if a.bridged else "one terminal carries"
    act = (
        "Use the maker's bridge over two terminals."
        if a.bridge is not None and not a.bridged
        else "Land the strings on separate terminals or use a module of less current."
    )
    text = f"{a.place} may see {a.maximum.value:.1f} A; {how} {carries.value:g} A."
    return Breach(a.place, text, act, a.maximum, carries, a.field)


class Fuse(Facts):
    """String fuses of one input: whether they are needed, which is chosen, and between which ratings it must lie."""

    place: str
    parallel: int
    needed: bool
    chosen: Figure | None
    least: Figure
    most: Figure
    bears: Figure
    back: Figure | None = None


def _with(back: Figure | None) -> str:
    return "" if back is None else f"with {back.value:.1f} A, "


@rule("PV-FUSE")
def string_fuse(f: Fuse) -> Breach | None:
    """Where other strings could feed a fault beyond what a module bears, a fuse of the right range is chosen."""
    if f.chosen is None and not f.needed:
        return None
    if f.chosen is not None and f.least.value - HAIR <= f.chosen.value <= f.most.value + HAIR:
        return None
    words = (
        f"the others can feed a fault {_with(f.back)}above the {f.bears.value:g} A that a module bears, and no fuse is chosen."
        if f.chosen is None
        else f"a {f.chosen.value:g} A string fuse lies outside {f.least.value:.1f} to {f.most.value:.1f} A."
    )
    act = f"Fit a string fuse of {f.least.value:.1f} to {f.most.value:.1f} A in each string."
    return Breach(f.place, f"{f.parallel} strings meet on {f.place}: {words}", act, f.chosen or f.back or f.least, f.bears, "string_fuse_a")


class FuseBreaks(Facts):
    """What the other strings of an input push through one's fuse, against what the fuses of its box break."""

    place: str
    title: str
    fault: Figure
    breaks: Figure
    field: str = ".card"


@rule("PV-FUSE-BREAKS")
def fuse_breaks(f: FuseBreaks) -> Breach | None:
    """A string fuse breaks what the others can feed into a fault of its string."""
    if f.fault.value <= f.breaks.value:
        return None
    text = f"The other strings of {f.place} push {f.fault.value:.1f} A through a fuse of {f.title}; it breaks {f.breaks.value:g} A DC."
    return Breach(f.place, text, "Choose a box whose fuses break more on DC.", f.fault, f.breaks, f.field)


class Isolator(Facts):
    """The box or isolator at the roof against what one input brings through it. A card that is silent about DC has no ``volts``."""

    place: str
    title: str
    cold: Figure
    maximum: Figure
    volts: Figure | None
    amps: Figure


@rule("PV-ISOLATOR")
def isolator(i: Isolator) -> Breach | None:
    """The isolator's DC rating covers the coldest voltage and the maximum current; an AC rating says nothing."""
    if i.volts is None:
        return Breach(
            i.place,
            f"{i.title} at the roof gives no DC rating; {i.place} reaches {i.cold.value:.0f} V DC.",
            "Choose a box or isolator with a DC rating. An AC rating says nothing about DC.",
            i.cold,
            field=".card",
        )
    by_volts = i.cold.value > i.volts.value
    if not by_volts and i.maximum.value <= i.amps.value:
        return None
    return Breach(
        i.place,
        f"{i.place} reaches {i.cold.value:.0f} V and {i.maximum.value:.1f} A; "
        f"the isolator is rated {i.volts.value:g} V and {i.amps.value:g} A DC.",
        "Choose an isolator with the DC rating.",
        i.cold if by_volts else i.maximum,
        i.volts if by_volts else i.amps,
        ".card",
    )


CURRENTS = (tracker_current, tracker_short_circuit, bridge, terminal_current)

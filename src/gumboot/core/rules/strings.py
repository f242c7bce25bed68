"""May these modules hang on this input? Voltage, current, terminals, fuses, isolator, and what the inputs and the roof allow."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.figure import Figure
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Volts(NamedTuple):
    """Voltages of one input. ``held`` where optimisers keep it at one voltage; then only the limit is judged."""

    place: str
    cold: Figure
    limit: Figure
    hot: Figure
    low: Figure
    start: Figure
    most: Figure | None = None
    fewest: Figure | None = None
    held: bool = False
    field: str = ""


def _fewer(v: Volts) -> str:
    if v.held:
        return "Choose other optimisers."
    return f"Take it to {v.most.value:.0f} modules or fewer, or split the string." if v.most else "Take modules off, or split the string."


def _longer(v: Volts) -> str:
    return f"Give it at least {v.fewest.value:.0f} modules." if v.fewest else "Lengthen the string."


@rule("PV-COLD-VOC")
def cold_voltage(v: Volts) -> Breach | None:
    """The open-circuit voltage of the coldest morning stays at or below the limit."""
    if v.cold.value <= v.limit.value:
        return None
    reached = f"is held at {v.cold.value:g} V" if v.held else f"reaches {v.cold.value:.1f} V on the coldest morning"
    return Breach(v.place, f"{v.place} {reached}; the limit is {v.limit.value:g} V.", _fewer(v), v.cold, v.limit, v.field)


@rule("PV-HOT-LOW")
def hot_voltage(v: Volts) -> Breach | None:
    """The operating voltage of a hot day stays within the tracker's window."""
    if v.held or v.hot.value >= v.low.value:
        return None
    text = f"{v.place} falls to {v.hot.value:.1f} V on a hot day; its window begins at {v.low.value:g} V."
    return Breach(v.place, text, _longer(v), v.hot, v.low, v.field)


@rule("PV-START")
def start_voltage(v: Volts) -> Breach | None:
    """A hot string still starts its tracker."""
    if v.held or v.hot.value >= v.start.value:
        return None
    text = f"{v.place} works at {v.hot.value:.1f} V when hot; the tracker starts at {v.start.value:g} V, so a hot restart may fail."
    return Breach(v.place, text, _longer(v), v.hot, v.start, v.field)


class Counts(NamedTuple):
    """Fewest and most modules in series that an input allows."""

    fewest: Figure
    most: Figure


@rule("PV-NO-COUNT")
def some_string(c: Counts) -> Breach | None:
    """Some number of modules fits between the window and the limit."""
    if c.fewest.value <= c.most.value:
        return None
    text = (
        f"No string works: it needs at least {c.fewest.value:.0f} modules to reach the window, "
        f"and {c.most.value:.0f} are the most in the cold."
    )
    return Breach("string", text, "Choose another module, or an input with a wider window.", c.most, c.fewest)


class Amps(NamedTuple):
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


class Fuse(NamedTuple):
    """String fuses of one input: whether they are needed, which is chosen, and between which ratings it must lie."""

    place: str
    parallel: int
    needed: bool
    chosen: Figure | None
    least: Figure
    most: Figure
    bears: Figure


@rule("PV-FUSE")
def string_fuse(f: Fuse) -> Breach | None:
    """Where other strings could feed a fault beyond what a module bears, a fuse of the right range is chosen."""
    if f.chosen is None and not f.needed:
        return None
    if f.chosen is not None and f.least.value - HAIR <= f.chosen.value <= f.most.value + HAIR:
        return None
    words = (
        f"the others can feed a fault above the {f.bears.value:g} A that a module bears, and no fuse is chosen."
        if f.chosen is None
        else f"a {f.chosen.value:g} A string fuse lies outside {f.least.value:.1f} to {f.most.value:.1f} A."
    )
    act = f"Fit a string fuse of {f.least.value:.1f} to {f.most.value:.1f} A in each string."
    return Breach(f.place, f"{f.parallel} strings meet on {f.place}: {words}", act, f.chosen or f.least, f.bears, "string_fuse_a")


class Isolator(NamedTuple):
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
            field="things.roof.card",
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
        "things.roof.card",
    )


class Laid(NamedTuple):
    """Strings that share an input or a setting: length and face of each."""

    place: str
    lays: Sequence[tuple[int, str]]
    field: str = ""

    @property
    def alike(self) -> bool:
        """Whether all have one length and one face."""
        return len(set(self.lays)) <= 1


@rule("PV-UNLIKE")
def alike(laid: Laid) -> Breach | None:
    """Strings on one tracker have one length and one face."""
    if laid.alike:
        return None
    text = f"{laid.place} carries strings of unlike length or face."
    return Breach(laid.place, text, "Give each its own tracker, or make them alike.", field=laid.field)


class Mode(NamedTuple):
    """How the inputs of an inverter are set, which settings it has, and what lies on its inputs."""

    mode: str
    modes: Sequence[str]
    laid: Laid


@rule("PV-MODE")
def input_mode(m: Mode) -> Breach | None:
    """The inputs can be set so, and parallel inputs join identical strings only."""
    if m.mode in m.modes and (m.mode == "independent" or m.laid.alike):
        return None
    words = (
        "parallel inputs join strings of unlike length or face"
        if m.mode in m.modes
        else f"this inverter's inputs cannot be set to {m.mode}"
    )
    act = "Set the inputs to independent, or make the strings identical."
    return Breach(m.laid.place, f"The PV inputs: {words}.", act, field="pv_mode")


class OnFace(NamedTuple):
    """Modules wanted on a roof face against the places it has."""

    title: str
    wanted: int
    places: Figure
    field: str = ""


@rule("PV-FACE-FULL")
def face_holds(f: OnFace) -> Breach | None:
    """A face has a place for each module."""
    if f.wanted <= f.places.value:
        return None
    text = f"{f.title} has {f.places.value:.0f} places; {f.wanted} modules are planned on it."
    return Breach(f.title, text, "Move modules to another face or make room.", limit=f.places, field=f.field)


class Optimised(NamedTuple):
    """A string whose modules each have an optimiser."""

    place: str
    modules: Figure
    fewest: Figure
    most: Figure
    power: Figure
    power_most: Figure
    field: str = ""


@rule("PV-OPTIMISER-COUNT")
def optimiser_count(o: Optimised) -> Breach | None:
    """As many modules as the optimisers can hold at their voltage."""
    if o.fewest.value <= o.modules.value <= o.most.value:
        return None
    text = f"{o.place} has {o.modules.value:.0f} optimised modules; {o.fewest.value:.0f} to {o.most.value:.0f} are allowed."
    limit = o.most if o.modules.value > o.most.value else o.fewest
    return Breach(o.place, text, "Lengthen or split the string.", o.modules, limit, o.field)


@rule("PV-OPTIMISER-POWER")
def optimiser_power(o: Optimised) -> Breach | None:
    """No more power than an optimised string may have."""
    if o.power.value <= o.power_most.value:
        return None
    text = f"{o.place} has {o.power.value:.0f} W; an optimised string may have {o.power_most.value:.0f} W."
    return Breach(o.place, text, "Take modules off or split the string.", o.power, o.power_most, o.field)


class Array(NamedTuple):
    """All modules against what the inverters accept."""

    power: Figure
    most: Figure
    where: str = "array"


@rule("PV-POWER")
def array_power(a: Array) -> Breach | None:
    """No more module power than the inverters accept."""
    if a.power.value <= a.most.value:
        return None
    text = f"{a.power.value:.0f} W of modules; the inverter accepts {a.most.value:.0f} W."
    return Breach(a.where, text, "Take modules off or choose a larger inverter.", a.power, a.most)


class Lands(NamedTuple):
    """A string and the inputs there are."""

    string: str
    tracker: str
    known: frozenset[str]


@rule("PV-NO-TRACKER")
def tracker_exists(s: Lands) -> Breach | None:
    """A string lands on an input that the inverter has."""
    if s.tracker in s.known:
        return None
    text = f"{s.string} is on {s.tracker}, which this inverter does not have."
    return Breach(s.string, text, "Choose a tracker of this inverter.", field=f"strings.{s.string}.tracker")


class Labels(NamedTuple):
    """Labels of an input's strings, at the roof and at the inverter."""

    place: str
    pairs: Sequence[tuple[str, str]]
    field: str


@rule("PV-LABEL")
def labelled_alike(s: Labels) -> Breach | None:
    """A string has one label at both ends."""
    if all(top and top == bottom for top, bottom in s.pairs):
        return None
    text = f"A string on {s.place} is not labelled alike at both ends."
    return Breach(s.place, text, "Write the same label at the roof and at the inverter.", field=s.field)


class Shutdown(NamedTuple):
    """Rapid shutdown of an array on a building; None where nobody has answered."""

    fitted: bool | None


@rule("PV-SHUTDOWN")
def rapid_shutdown(s: Shutdown) -> Breach | None:
    """The array of a building can be made dead by a fire crew; an open question is a gap, not a breach."""
    if s.fitted is not False:
        return None
    return Breach(
        "array",
        "The array on this building has no rapid shutdown.",
        "Fit listed shutdown equipment at the modules and its initiator outside; take the factory bridge out.",
        field="site.rapid_shutdown",
    )


VOLTAGES = (cold_voltage, hot_voltage, start_voltage)
CURRENTS = (tracker_current, tracker_short_circuit, bridge, terminal_current)

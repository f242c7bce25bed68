"""Does a string keep within the voltages of its input, and its count?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Volts(Facts):
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


class Working(Facts):
    """Working voltage of the longest string of an input, coldest and with cells at 25 °C, against the top of the full-power window."""

    place: str
    cold: Figure
    usual: Figure
    top: Figure
    field: str = ""


@rule("PV-FULL-POWER")
def works_at_full_power(v: Working) -> Breach | None:
    """The string works within the voltages at which the inverter gives full power; above them in the cold alone is worth a note."""
    if max(v.cold.value, v.usual.value) <= v.top.value + HAIR:
        return None
    only_cold = v.usual.value <= v.top.value + HAIR
    when, worst = ("on the coldest morning", v.cold) if only_cold else ("with cells at 25 °C", v.usual)
    text = f"{v.place} works at {worst.value:.0f} V {when}; the inverter gives full power up to {v.top.value:g} V."
    act = "Accept it, or take modules off." if only_cold else "Take modules off or split the string: it gives less most of the year."
    return Breach(v.place, text, act, worst, v.top, v.field, level="note" if only_cold else "caution")


class Counts(Facts):
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


class Laid(Facts):
    """Strings that share an input or a setting: length, face and module of each; ``lost`` is what unlike sun on several faces costs."""

    place: str
    lays: Sequence[tuple[int, str, str]]
    field: str = ""
    lost: Figure | None = None

    @property
    def alike(self) -> bool:
        """Whether all have one length, one face and one module."""
        return len(set(self.lays)) <= 1


@rule("PV-UNLIKE")
def alike(laid: Laid) -> Breach | None:
    """Strings on one tracker have one length and one kind of module."""
    if len({(modules, module) for modules, _, module in laid.lays}) <= 1:
        return None
    text = f"{laid.place} carries strings of unlike length or module."
    return Breach(laid.place, text, "Give each its own tracker, or make them alike.", field=laid.field)


@rule("PV-FACES")
def one_face(laid: Laid) -> Breach | None:
    """Equal strings on one tracker lie on one face; on several they work, with a loss."""
    faces = [*dict.fromkeys(face for _, face, _ in laid.lays)]
    if len(faces) <= 1 or len({(modules, module) for modules, _, module in laid.lays}) > 1:
        return None
    cost = "" if laid.lost is None else f": up to {laid.lost.value:.1f} % is lost while one has full sun and the others little"
    text = f"{laid.place} carries equal strings on {' and '.join(faces)}{cost}."
    return Breach(laid.place, text, "Accept it, or give each face a tracker of its own.", laid.lost, field=laid.field)


class Mode(Facts):
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


VOLTAGES = (cold_voltage, hot_voltage, start_voltage)

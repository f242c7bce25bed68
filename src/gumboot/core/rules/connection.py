"""May these sources be joined to this supply, this board, this generator, and in what order of bonds?"""

from __future__ import annotations

from typing import Literal, NamedTuple

from gumboot.core.figure import Figure
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Through(NamedTuple):
    """What the grid feed carries against what the inverter passes."""

    design: Figure
    most: Figure
    where: str = "grid"


@rule("GRID-PASS-THROUGH")
def pass_through(t: Through) -> Breach | None:
    """The inverter passes what the grid feed carries."""
    if t.design.value <= t.most.value:
        return None
    text = f"The grid feed would carry {t.design.value:.1f} A; the inverter passes {t.most.value:g} A."
    act = "Back up fewer loads or charge more slowly from the grid."
    return Breach(t.where, text, act, t.design, t.most, "settings.grid_charge_a")


class Bar(NamedTuple):
    """Main device and sources on a busbar against what it may carry."""

    where: str
    total: Figure
    limit: Figure
    feeds: str = "Main device and inverter"
    bar: str = "the busbar"
    act: str = "Move the breaker to the far end, reduce the main device, or connect on the supply side."
    field: str = ""


@rule("BUS-120")
def busbar(b: Bar) -> Breach | None:
    """Main device and sources stay within what the book allows of the busbar."""
    if b.total.value <= b.limit.value + HAIR:
        return None
    text = f"{b.feeds} add to {b.total.value:.1f} A; {b.bar} allows {b.limit.value:.1f} A."
    return Breach(b.where, text, b.act, b.total, b.limit, b.field)


@rule("GRID-MAIN-SWITCH")
def main_switch(b: Bar) -> Breach | None:
    """Main device and sources stay within busbar and main switch."""
    if b.total.value <= b.limit.value + HAIR:
        return None
    text = f"{b.feeds} add to {b.total.value:.1f} A; {b.bar} carries {b.limit.value:.1f} A."
    return Breach(b.where, text, b.act, b.total, b.limit, b.field)


class Ahead(NamedTuple):
    """A bar or a switch behind the device ahead of it."""

    where: str
    rated: Figure
    device: Figure
    field: str


@rule("BUS-DEVICE")
def behind_its_device(a: Ahead) -> Breach | None:
    """A bar or transfer switch is rated for the device ahead of it."""
    if a.device.value <= a.rated.value + HAIR:
        return None
    text = f"{a.where.capitalize()}: rated {a.rated.value:g} A, behind a device of {a.device.value:g} A."
    act = "Choose a larger bar or switch, or a smaller device ahead of it."
    return Breach(a.where, text, act, a.device, a.rated, a.field)


class Against(NamedTuple):
    """One figure against the most that it may be."""

    found: Figure
    most: Figure
    where: str = "grid"


@rule("GRID-SUPPLY-SIDE")
def supply_side(a: Against) -> Breach | None:
    """On the supply side the sources stay within the service's rating."""
    if a.found.value <= a.most.value:
        return None
    text = f"The sources give {a.found.value:.1f} A; a supply-side connection may not exceed the service's {a.most.value:g} A."
    return Breach("main board", text, "Choose a smaller inverter or a larger service.", a.found, a.most, "site.connection")


@rule("GRID-CONTROLLED")
def controlled(a: Against) -> Breach | None:
    """A power control holds no more than the busbar's rating."""
    if a.found.value <= a.most.value:
        return None
    text = f"The power control is set to {a.found.value:g} A; the busbar is rated {a.most.value:g} A."
    act = "Lower the setting to the busbar's rating, and lock it."
    return Breach("main board", text, act, a.found, a.most, "site.control_setting_a")


@rule("DEVICE-OVER-MAKER")
def maker_allows_device(a: Against) -> Breach | None:
    """The grid breaker is no larger than the inverter's grid port allows."""
    if a.found.value <= a.most.value:
        return None
    text = f"The grid breaker is {a.found.value:.0f} A; the inverter's grid port allows {a.most.value:.0f} A."
    return Breach(a.where, text, f"Fit {a.most.value:.0f} A or less.", a.found, a.most, f"runs.{a.where}.device_a")


@rule("GEN-INPUT")
def generator_input(a: Against) -> Breach | None:
    """The generator's device is no larger than the input bears."""
    if a.found.value <= a.most.value:
        return None
    text = f"The generator's device is {a.found.value:g} A; the input bears {a.most.value:g} A."
    return Breach("generator", text, "Fit a smaller device in the generator feed.", a.found, a.most, "things.generator.card")


@rule("GEN-SMALL")
def generator_power(a: Against) -> Breach | None:
    """The generator carries the backed-up loads and the charger together."""
    if a.found.value <= a.most.value:
        return None
    text = f"Loads and charger ask {a.found.value:.0f} W; the generator gives {a.most.value:.0f} W."
    act = "Charge more slowly, back up less while it runs, or choose a larger generator."
    return Breach("generator", text, act, a.found, a.most, "settings.grid_charge_a")


@rule("TRANSFER-CAPACITY")
def transfer_capacity(a: Against) -> Breach | None:
    """The transfer equipment carries what passes through it."""
    if a.found.value <= a.most.value:
        return None
    text = f"{a.found.value:.1f} A pass through the transfer equipment; it is rated {a.most.value:g} A."
    return Breach("transfer", text, "Choose larger transfer equipment or back up less.", a.found, a.most, "things.transfer.card")


@rule("GRID-NOTIFY")
def notification(a: Against) -> Breach | None:
    """A source of the connect-and-tell class stays within it; above it the operator is asked first."""
    if a.found.value <= a.most.value + HAIR:
        return None
    text = f"The sources give {a.found.value:.1f} A per phase, above the {a.most.value:g} A that is only notified."
    return Breach("grid", text, "Ask the network operator before connecting.", a.found, a.most)


class Unbalanced(NamedTuple):
    """A single-phase source on three phases against the difference that the book allows, and where that stands."""

    source: Figure
    most: Figure
    clause: str


@rule("GRID-IMBALANCE")
def imbalance(u: Unbalanced) -> Breach | None:
    """A single-phase source unbalances the phases no more than the book allows."""
    if u.source.value <= u.most.value:
        return None
    text = f"A single-phase source of {u.source.value:.1f} A unbalances the three phases by more than {u.most.value:g} A."
    act = "Share the sources between phases, or choose a three-phase inverter."
    return Breach("grid", text, act, u.source, u.most, source=u.clause)


class Fault(NamedTuple):
    """Fault current at a board against what its breakers break, and whether a series rating is relied on."""

    fault: Figure
    breaks: Figure
    series: Literal["not used", "marked", "unmarked"]


@rule("GRID-INTERRUPT")
def board_breaks(f: Fault) -> Breach | None:
    """The breakers break what the grid can push; a series rating is judged by its own rule."""
    if f.fault.value <= f.breaks.value or f.series != "not used":
        return None
    text = f"The grid can push {f.fault.value:.0f} A; the breakers break {f.breaks.value:.0f} A."
    act = "Fit breakers of a higher interrupting rating."
    return Breach("main board", text, act, f.fault, f.breaks, "site.main_board_interrupting_a")


@rule("SERIES-RATING")
def series_marked(f: Fault) -> Breach | None:
    """A series rating that is relied on is marked for the pair of devices."""
    if f.series != "unmarked":
        return None
    text = "A series rating is relied on, and no marking names this pair of devices."
    act = "Fit devices that break the fault alone, or a pair that is tested and marked together."
    return Breach("main board", text, act, f.fault, f.breaks, "site.series_rating")


class Fastened(NamedTuple):
    """Whether a back-fed plug-in breaker is fastened; None where nobody has answered."""

    fastened: bool | None


@rule("DEVICE-BACKFED")
def backfed(f: Fastened) -> Breach | None:
    """A back-fed breaker is fastened and suitable; an open question is a gap, not a breach."""
    if f.fastened is not False:
        return None
    text = "The inverter back-feeds a plug-in breaker that is not fastened or not suitable for back-feed: pulled off, its stab is live."
    return Breach("main board", text, "Fit a breaker suitable for back-feed with its hold-down.", field="site.backfed_fastened")


class Warm(NamedTuple):
    """What flows for hours through a device in a closed box, against what it carries there."""

    circuit: str
    amps: Figure
    device: Figure
    cool: Figure
    field: str


@rule("DEVICE-HEAT")
def runs_cool(w: Warm) -> Breach | None:
    """A device in a closed box carries no more for hours than common practice loads it with."""
    if w.amps.value <= w.cool.value + HAIR:
        return None
    text = (
        f"{w.amps.value:.1f} A for hours through a {w.device.value:.0f} A device in a closed box: it runs hot above {w.cool.value:.1f} A."
    )
    act = "Fit the next rating with the conductor for it, leave a space beside it, or use the maker's derating table."
    return Breach(w.circuit, text, act, w.amps, w.cool, w.field)


class Export(NamedTuple):
    """What the inverter can export against the permit, and whether a limit can be set in it."""

    output: Figure
    permit: Figure
    settable: bool


@rule("GRID-EXPORT")
def export_held(e: Export) -> Breach | None:
    """What the network permits is held by the inverter's size, or by a limit that it can be set to."""
    if e.output.value <= e.permit.value or e.settable:
        return None
    text = (
        f"The inverter can export {e.output.value:.0f} W; {e.permit.value:.0f} W are permitted, and its card names no export limit to set."
    )
    act = "Choose an inverter that holds an export limit, or ask for a larger permit."
    return Breach("grid", text, act, e.output, e.permit, "site.export_limit_w")


class Bypass(NamedTuple):
    """How the backed-up board may be joined to the grid around the inverter."""

    kind: str


@rule("GRID-NO-INTERLOCK")
def interlocked(b: Bypass) -> Breach | None:
    """No bypass can join the grid to the board that the inverter feeds."""
    if b.kind != "breaker without interlock":
        return None
    text = (
        "A bypass breaker can close the grid onto the board that the inverter feeds: "
        "two sources meet out of step and the inverter is destroyed."
    )
    return Breach("backed-up board", text, "Take the bypass out, or fit an interlock or transfer switch.", field="backup.bypass")


class Supply(NamedTuple):
    """What the network brings, and what an inverter is made for."""

    title: str
    output: str
    brings: str


@rule("GRID-SUPPLY")
def supply_fits(s: Supply) -> Breach | None:
    """The network brings the live conductors that the inverter's grid terminals ask for."""
    if s.brings == s.output or (s.output, s.brings) == ("single phase", "three phase"):
        return None
    text = f"{s.title} is made for {s.output}; the network brings {s.brings}."
    return Breach("inverter", text, "Correct the survey's answer, or choose an inverter for this supply.", field="site.supply")

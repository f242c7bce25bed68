"""What the network asks: balance, fault current, export, kind of supply, and nothing that joins twice."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Unbalanced(Facts):
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


class Fault(Facts):
    """Fault current at the main board, of all sources, against what its breakers break; whether a series rating is relied on."""

    fault: Figure
    breaks: Figure
    series: Literal["not used", "marked", "unmarked"]


@rule("GRID-INTERRUPT")
def board_breaks(f: Fault) -> Breach | None:
    """The breakers break what grid and sources can push; a series rating is judged by its own rule."""
    if f.fault.value <= f.breaks.value or f.series != "not used":
        return None
    text = f"Grid and sources together can push {f.fault.value:.0f} A; the breakers break {f.breaks.value:.0f} A."
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


class Fastened(Facts):
    """Whether a back-fed plug-in breaker is fastened; None where nobody has answered."""

    fastened: bool | None


@rule("DEVICE-BACKFED")
def backfed(f: Fastened) -> Breach | None:
    """A back-fed breaker is fastened and suitable; an open question is a gap, not a breach."""
    if f.fastened is not False:
        return None
    text = "The inverter back-feeds a plug-in breaker that is not fastened or not suitable for back-feed: pulled off, its stab is live."
    return Breach("main board", text, "Fit a breaker suitable for back-feed with its hold-down.", field="site.backfed_fastened")


class Warm(Facts):
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


class Export(Facts):
    """What can be exported against the permit, whether a limit can be set, and the inverter that does not see the supply by CTs."""

    output: Figure
    permit: Figure
    settable: bool
    blind: str = ""


@rule("GRID-EXPORT")
def export_held(e: Export) -> Breach | None:
    """What the network permits is held by the inverter's size, or by a limit that it can be set to."""
    if e.output.value <= e.permit.value or (e.settable and not e.blind):
        return None
    why = f"{e.blind} has no CTs to hold a limit by" if e.blind else "its card names no export limit to set"
    text = f"The house can export {e.output.value:.0f} W; {e.permit.value:.0f} W are permitted, and {why}."
    act = "Choose an inverter that holds an export limit, or ask for a larger permit."
    return Breach("grid", text, act, e.output, e.permit, "site.export_limit_w")


class Unthrottled(Facts):
    """AC-coupled PV beside the grid, which runs by the sun alone, against the permit."""

    output: Figure
    permit: Figure
    names: Sequence[str]


@rule("GRID-PV-EXPORT")
def pv_within_the_permit(u: Unthrottled) -> Breach | None:
    """What nobody throttles beside the grid stays within the permit: with the bank full and the house asleep it all goes out."""
    if u.output.value <= u.permit.value:
        return None
    text = f"{' and '.join(u.names)} give {u.output.value:.0f} W by the sun alone; {u.permit.value:.0f} W are permitted, and nothing throttles them."
    act = "Choose a smaller PV inverter or one that its own meter limits, or ask for a larger permit."
    return Breach("grid", text, act, u.output, u.permit, "site.export_limit_w")


class Bypass(Facts):
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


class Supply(Facts):
    """What the network brings, and what an inverter is made for."""

    title: str
    output: str
    brings: str
    where: str = "inverter"


@rule("GRID-SUPPLY")
def supply_fits(s: Supply) -> Breach | None:
    """The network brings the live conductors that the inverter's grid terminals ask for."""
    if s.brings == s.output or (s.output, s.brings) == ("single phase", "three phase"):
        return None
    text = f"{s.title} is made for {s.output}; the network brings {s.brings}."
    return Breach(s.where, text, "Correct the survey's answer, or choose an inverter for this supply.", field="site.supply")

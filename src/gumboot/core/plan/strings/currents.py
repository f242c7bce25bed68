"""Currents of one input: what flows, what the terminals and the isolator carry, and whether strings need fuses."""

from __future__ import annotations

from gumboot.core.card import ModuleCard
from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.inverter import Tracker
from gumboot.core.figure import Figure
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rules.connection import Silent
from gumboot.core.rules.strings import Amps, Fuse, FuseBreaks, Isolator
from gumboot.core.seats import Converter
from gumboot.core.workbook import Workbook


def parallel(w: Workbook, key: str, strings: int) -> Figure:
    """Strings in parallel on an input."""
    return w.work(f"{key}.parallel", "N", "Strings in parallel", float(strings), "", source="arith")


def of_modules(w: Workbook, key: str, module: ModuleCard, strings: Figure) -> tuple[Figure, Figure]:
    """Operating current and maximum circuit current of strings in parallel."""
    amps = strings * w.read(module, "imp_a")
    most = pv.maximum_circuit_current_a(w.read(module, "isc_a"), strings)
    return (
        w.work(f"{key}.operating_a", "I_op", "Operating current", amps, "A", source="physics"),
        w.work(f"{key}.maximum_a", "I_max", "Maximum circuit current", most, "A", source=w.book.strings.current_source),
    )


def amps(
    w: Workbook,
    place: str,
    converter: Converter,
    tracker: Tracker,
    flows: tuple[Figure, Figure],
    *,
    bridged: bool,
    others: tuple[str, ...] = (),
    held: bool = False,
    field: str = "",
) -> Amps:
    """What one input carries against its limits; ``flows`` are the operating and the maximum circuit current."""
    at = f"trackers.{tracker.id}"
    return Amps(
        place=place,
        operating=flows[0],
        maximum=flows[1],
        operating_most=w.read(converter, f"{at}.i_max_a"),
        maximum_most=w.read(converter, f"{at}.isc_max_a"),
        terminal=w.read(converter, f"{at}.terminal_max_a"),
        bridge=w.stated(converter, f"{at}.bridge_max_a"),
        bridged=bridged,
        bridge_with=tracker.bridge_with,
        others=others,
        held=held,
        field=field,
    )  # fmt: skip


def fuse(w: Workbook, key: str, place: str, module: ModuleCard, strings: Figure, *, chosen: Figure | None) -> Fuse:
    """String fuses: where the other strings together could feed a fault with more than the module bears."""
    clauses = w.book.strings
    bears, short = w.read(module, "fuse_max_a"), w.read(module, "isc_a")
    low, high = clauses.fuse_range(short, bears)
    back = None
    if strings.value > 1:
        fed, name = clauses.back_feed(strings, short), "What the other strings feed into a fault in one"
        back = w.work(f"{key}.back_a", "I_back", name, fed, "A", source=clauses.fuse_source)
    needed = back is not None and back.value > bears.value
    smallest = largest = bears
    if needed or chosen is not None:
        smallest = w.work(f"{key}.fuse_least", "I_f_min", "Smallest string fuse", low, "A", source=clauses.fuse_source)
        largest = w.work(f"{key}.fuse_most", "I_f_max", "Largest string fuse", high, "A", source=clauses.fuse_source)
    return Fuse(
        place=place, parallel=round(strings.value), needed=needed, chosen=chosen, least=smallest, most=largest, bears=bears, back=back
    )


def breaking(w: Workbook, where: str, box: BoardCard, strung: Fuse, field: str = "") -> tuple[Silent, FuseBreaks | None] | None:
    """Whether the card of a box says what its string fuses break, and if so whether that is enough; None where nothing feeds one."""
    if strung.chosen is None or strung.back is None:
        return None
    breaks, what = w.stated(box, "dc_interrupting_a"), "what DC fault current its string fuses break"
    says = Silent(
        stated=breaks, where=where, title=box.title, path="dc_interrupting_a", what=what, waits="whether a string fuse breaks", field=field
    )
    if breaks is None:
        return says, None
    return says, FuseBreaks(place=strung.place, title=box.title, fault=strung.back, breaks=breaks)


def isolator(w: Workbook, place: str, box: BoardCard, cold: Figure, maximum: Figure) -> Isolator:
    """The box or isolator at the roof against what this input brings through it."""
    volts, amps_ = w.stated(box, "dc_voltage"), w.read(box, "busbar_a")
    return Isolator(place=place, title=box.title, cold=cold, maximum=maximum, volts=volts, amps=amps_)

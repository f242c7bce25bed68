"""Every landing of every core: conductor, preparation, tool and torque."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Any

from gumboot.core.card import Terminal
from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure, card_value
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.topology import End, instances
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.rulebook.north_american.raceway import bending_space_mm
from gumboot.core.rulebook.north_american.terminations import screw_torque_nm
from gumboot.core.sizes import area_mm2

# Widest stud-to-hole play that still seats a lug on the whole of its palm (common practice).
LUG_PLAY_MM, STRIP_PLAY_MM = 1.0, 1.0


@dataclass(frozen=True)
class Termination:
    """One conductor end in one terminal. ``id`` is built from names only, so unrelated edits never change it."""

    id: str
    place: str
    place_title: str
    port: str
    port_title: str
    terminal: Terminal
    circuit: str
    circuit_title: str
    role: str
    size: str
    colour: str
    wire_class: str
    preparation: str
    torque: Figure | None
    torque_low: Figure | None
    torque_high: Figure | None
    live_method: str = ""

    @property
    def title(self) -> str:
        """What a person calls it: port and terminal."""
        return f"{self.port_title} {self.terminal.title}"


def termination_id(end: End, circuit: str) -> str:
    """Stable identity from place, port, terminal and circuit."""
    terminal = (
        end.terminal.replace("+", "pos").replace("-", "neg")
        if len(end.terminal) == 1
        else end.terminal.replace(" +", "-pos").replace(" -", "-neg")
    )
    return ".".join(part.lower().replace(" ", "-") for part in (end.place, end.port, terminal, circuit))


def _preparation(terminal: Terminal, size: str) -> str:
    strip = f"strip {terminal.strip_mm:g} mm"
    if terminal.end == "lug":
        return f"{strip} · crimp lug {terminal.lug_hole}, {size} barrel"
    if terminal.end == "ferrule":
        return f"{strip} · ferrule for {size}"
    if terminal.end == "spring":
        return f"{strip} · no ferrule, push to the stop"
    return f"{strip} · bare, open the clamp fully first"


def _check(ledger: Ledger, where: str, terminal: Terminal, size: str, wire_class: str, run_field: str) -> None:
    # Fifty landings in a house: the words are made only for one that is wrong.
    if not area_mm2(terminal.size_min) - 1e-9 <= area_mm2(size) <= area_mm2(terminal.size_max) + 1e-9:
        ledger.verdict(
            "TERM-RANGE",
            False,
            where,
            f"{size} does not fit {where}: it takes {terminal.size_min} to {terminal.size_max}.",
            "Use a size in range, or a listed pin adapter.",
            field=run_field,
        )
    if wire_class not in terminal.wire_classes:
        ledger.verdict(
            "TERM-CLASS",
            False,
            where,
            f"{where} takes {' or '.join(terminal.wire_classes)} wire; {wire_class} is planned.",
            f"Pull {terminal.wire_classes[0]} wire.",
            field=run_field.replace("installed_size", "wire_class"),
        )


def _check_prepared(ledger: Ledger, card: Any, where: str, end: End, terminal: Terminal, run: Run) -> None:
    """Strip length and lug hole as prepared, at the inverter's end of a run."""
    if end.place not in ("inverter", "pv-inverter"):
        return
    base = f"ports.{end.port}.{end.terminal}"
    if run.strip_mm is not None:
        strip = ledger.decided(f"runs.{run.id}.strip_mm", "l", "Strip length as prepared", "mm")
        wanted = ledger.keep(card_value(card.id, f"{base}.strip_mm", "l_card", f"Strip length, {where}", terminal.strip_mm, "mm"))
        ledger.verdict(
            "TERM-STRIP",
            abs(strip.value - wanted.value) <= STRIP_PLAY_MM + 1e-9,
            where,
            f"{strip.value:g} mm are stripped for {where}; its card asks {wanted.value:g} mm.",
            "Strip it to length: too short is a clamp on insulation, too long is bare metal outside.",
            found=strip,
            limit=wanted,
            field=f"runs.{run.id}.strip_mm",
        )
    if run.lug_hole_mm is not None and terminal.end == "lug" and terminal.lug_hole.startswith("M"):
        hole = ledger.decided(f"runs.{run.id}.lug_hole_mm", "d", "Hole of the lugs as bought", "mm")
        stud = ledger.keep(card_value(card.id, f"{base}.lug_hole", "d_stud", f"Stud, {where}", float(terminal.lug_hole[1:]), "mm"))
        ledger.verdict(
            "TERM-LUG",
            stud.value <= hole.value <= stud.value + LUG_PLAY_MM + 1e-9,
            where,
            f"The lug's hole is {hole.value:g} mm; {where} has an {terminal.lug_hole} stud.",
            f"Use a lug for {terminal.lug_hole}.",
            found=hole,
            limit=stud,
            field=f"runs.{run.id}.lug_hole_mm",
        )


def _check_bend(ledger: Ledger, card: Any, where: str, end: End, terminal: Terminal, size: str, cid: str) -> None:
    if ledger.book.family != "nec" or terminal.bend_mm is None:
        return
    least = ledger.work(
        f"bend.{size}",
        "b_min",
        f"Bending space for {size}",
        bending_space_mm(size),
        "mm",
        "nec.312.6",
        limits="One conductor, L or Z bend.",
    )
    room = ledger.keep(
        card_value(card.id, f"ports.{end.port}.{end.terminal}.bend_mm", "b", f"Room to bend at {where}", terminal.bend_mm, "mm")
    )
    ledger.verdict(
        "BEND-SPACE",
        room.value >= least.value - 1e-9,
        where,
        f"{size} needs {least.value:.0f} mm to bend; {where} has {room.value:g} mm.",
        "Bring the conductor in from another side, or use a smaller one in parallel.",
        found=room,
        limit=least,
        field=f"runs.{cid}.installed_size",
    )


def _fallback_nm(ledger: Ledger, where: str, terminal: Terminal, size: str) -> float | None:
    """Torque by NEC Annex I where the maker gives none, said aloud; None where the table is silent too."""
    if not terminal.screw:
        return None
    try:
        torque_nm = screw_torque_nm(size, terminal.screw)
    except NotInTable:
        torque_nm = None
    ledger.verdict(
        "TERM-FALLBACK",
        False,
        where,
        f"The maker gives no torque for {where}."
        + (f" Annex I gives {torque_nm:.1f} N m for {size} and this screw." if torque_nm else " Annex I has no value for it either."),
        "Ask the maker; use the fallback only if there is no answer, and record that it was used."
        if torque_nm
        else "Ask the maker before landing it.",
        level="caution" if torque_nm else "stop",
    )
    return torque_nm


def _torque(ledger: Ledger, card: Any, end: End, terminal: Terminal, torque_nm: float) -> tuple[Figure, Figure, Figure]:
    """Torque of a card's terminal with its band; alike terminals of alike boxes share their figures."""
    key, source = f"torque.{card.id}.{end.port}.{end.terminal}", f"card:{card.id}:ports.{end.port}.{end.terminal}"
    own = terminal.torque_nm is not None
    band_source = "nec.110.14d" if ledger.book.family == "nec" else "iec.51"
    if key in ledger.figures:
        return ledger.figures[key], ledger.figures[f"{key}.low"], ledger.figures[f"{key}.high"]
    name = f"{card.title}, {end.port} {end.terminal}"
    pct = terminal.torque_tolerance_pct
    torque = ledger.work(key, "M", f"Torque, {name}", torque_nm, "N m", f"{source}.torque_nm" if own else "nec.annex.i")
    band = ledger.work(f"torque.{card.id}.band.{pct:g}", "b", f"Band allowed, {card.title}", pct, "%", f"{source}.torque_tolerance_pct")
    low = ledger.work(
        f"{key}.low",
        "M_low",
        f"Lowest torque in band, {name}",
        torque_nm * (1 - pct / 100),
        "N m",
        band_source,
        "M * (1 - b / 100)",
        (torque, band),
    )
    high = ledger.work(
        f"{key}.high",
        "M_high",
        f"Highest torque in band, {name}",
        torque_nm * (1 + pct / 100),
        "N m",
        band_source,
        "M * (1 + b / 100)",
        (torque, band),
    )
    return torque, low, high


def _one(ledger: Ledger, sized: Sized, role: str, end: End, seen: Counter[str]) -> Termination:
    card = ledger.card(instances(ledger)[end.place])
    terminal: Terminal = card.terminal(end.port, end.terminal)
    port = next(p for p in card.ports if p.id == end.port)
    cid, run = sized.circuit.id, sized.run
    tid = termination_id(end, cid)
    size = sized.earth_size if role == "earth" else sized.size
    where = f"{end.place} {end.port} {end.terminal}"
    wire_class = "stranded" if role == "earth" else run.wire_class
    if run.material not in terminal.materials:
        ledger.verdict(
            "COND-MATERIAL",
            False,
            where,
            f"{where} is not marked for {run.material}.",
            "Use copper, or a listed adapter.",
            field=f"runs.{cid}.material",
        )
    if role != "earth":
        _check_prepared(ledger, card, where, end, terminal, run)
    _check_bend(ledger, card, where, end, terminal, size, cid)
    _check(ledger, where, terminal, size, wire_class, f"runs.{cid}.installed_{'earth' if role == 'earth' else 'size'}")
    seen[f"{end.place}/{end.port}/{end.terminal}"] += 1
    torque = low = high = None
    torque_nm = terminal.torque_nm if terminal.torque_nm is not None else _fallback_nm(ledger, where, terminal, size)
    if torque_nm is not None:
        torque, low, high = _torque(ledger, card, end, terminal, torque_nm)
    return Termination(
        tid,
        end.place,
        card.title,
        end.port,
        port.title,
        terminal,
        cid,
        sized.circuit.title,
        role,
        size,
        identification(ledger.book.identification, role).colour,
        wire_class,
        _preparation(terminal, size),
        torque,
        low,
        high,
        _live_method(card, end.place, role),
    )


# Common practice where a card says nothing: ends of cells and of strings in daylight cannot be switched off.
LIVE = (
    "This end cannot be switched off: no meter will read zero here. Land the other end first and prove the conductor dead there. "
    "One pole at a time, the other insulated; insulated tools, gloves, eye protection, no jewellery."
)


def _live_method(card: Any, place: str, role: str) -> str:
    """How an end is landed that nobody can switch off; nothing for one that is proved dead."""
    if role == "earth":
        return ""
    cells = card.kind == "battery" and card.breaker_a is None and card.arrangement != "stack"
    daylight = place == "roof" and role in ("positive", "negative")
    return (card.live_method or LIVE) if cells or daylight else ""


def _sources(ledger: Ledger) -> list[str]:
    """Places where something live stands, in the order they are landed: street, generator, roof, and the battery last."""
    places = list(instances(ledger))
    return [p for p in ("main-board", "generator", "roof") if p in places] + [u.id for u in ledger.job.bank.units if u.id in places]


def plan_terminations(ledger: Ledger, plan: CircuitsPlan) -> tuple[Termination, ...]:
    """All terminations, in landing order at the inverter and by enclosure elsewhere."""
    seen: Counter[str] = Counter()
    ends: list[Termination] = []
    for sized in plan.sized.values():
        for core in sized.circuit.cores:
            ends += [_one(ledger, sized, core.role, end, seen) for end in core.ends]
    for term in ends:
        count = seen[f"{term.place}/{term.port}/{term.terminal.id}"]
        if count <= term.terminal.max_conductors:
            continue
        ledger.verdict(
            "TERM-DOUBLE",
            False,
            f"{term.place} {term.port} {term.terminal.id}",
            f"{count} conductors under one clamp; it takes {term.terminal.max_conductors}.",
            "Use another terminal or a listed splice.",
        )
    order = {"earth": 0, **{port: i + 1 for i, port in enumerate(ledger.card("inverter").landing_order)}}
    # Of one conductor the end at a source comes after its other end: nobody then holds the far end of a live one.
    sources = _sources(ledger)
    place_order = [p for p in instances(ledger) if p not in sources] + sources
    return tuple(
        sorted(
            ends,
            key=lambda t: (
                place_order.index(t.place),
                0 if t.role == "earth" else order.get(t.port, 99),
                t.port,
                t.terminal.y,
                t.terminal.x,
            ),
        )
    )

"""Every landing of every core: conductor, preparation, tool and torque."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Any

from gumboot.core.card import Terminal
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.sizing import Sized
from gumboot.core.plan.topology import End, instances
from gumboot.core.rulebook.north_american.conductors import conductor

COLOURS = {"positive": "red", "negative": "black", "line1": "black", "line2": "red", "neutral": "white", "earth": "green"}


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
    low, high, this = (conductor(s).ordinal for s in (terminal.size_min, terminal.size_max, size))
    ledger.verdict(
        "TERM-RANGE",
        low <= this <= high,
        where,
        f"{size} does not fit {where}: it takes {terminal.size_min} to {terminal.size_max}.",
        "Use a size in range, or a listed pin adapter.",
        field=run_field,
    )
    ledger.verdict(
        "TERM-CLASS",
        wire_class in terminal.wire_classes,
        where,
        f"{where} takes {' or '.join(terminal.wire_classes)} wire; {wire_class} is planned.",
        f"Pull {terminal.wire_classes[0]} wire.",
        field=run_field.replace("installed_size", "wire_class"),
    )


def _torque(ledger: Ledger, card: Any, end: End, terminal: Terminal, torque_nm: float) -> tuple[Figure, Figure, Figure]:
    """Torque of a card's terminal with its band; alike terminals of alike boxes share their figures."""
    key, source = f"torque.{card.id}.{end.port}.{end.terminal}", f"card:{card.id}:ports.{end.port}.{end.terminal}"
    if key in ledger.figures:
        return ledger.figures[key], ledger.figures[f"{key}.low"], ledger.figures[f"{key}.high"]
    name = f"{card.title}, {end.port} {end.terminal}"
    pct = terminal.torque_tolerance_pct
    torque = ledger.work(key, "M", f"Torque, {name}", torque_nm, "N m", f"{source}.torque_nm")
    band = ledger.work(f"torque.{card.id}.band.{pct:g}", "b", f"Band allowed, {card.title}", pct, "%", f"{source}.torque_tolerance_pct")
    low = ledger.work(
        f"{key}.low",
        "M_low",
        f"Lowest torque in band, {name}",
        torque_nm * (1 - pct / 100),
        "N m",
        "nec.110.14d",
        "M * (1 - b / 100)",
        (torque, band),
    )
    high = ledger.work(
        f"{key}.high",
        "M_high",
        f"Highest torque in band, {name}",
        torque_nm * (1 + pct / 100),
        "N m",
        "nec.110.14d",
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
    _check(ledger, where, terminal, size, wire_class, f"runs.{cid}.installed_{'earth' if role == 'earth' else 'size'}")
    seen[f"{end.place}/{end.port}/{end.terminal}"] += 1
    torque = low = high = None
    if terminal.torque_nm is not None:
        torque, low, high = _torque(ledger, card, end, terminal, terminal.torque_nm)
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
        COLOURS[role],
        wire_class,
        _preparation(terminal, size),
        torque,
        low,
        high,
    )


def plan_terminations(ledger: Ledger, plan: CircuitsPlan) -> tuple[Termination, ...]:
    """All terminations, in landing order at the inverter and by enclosure elsewhere."""
    seen: Counter[str] = Counter()
    ends: list[Termination] = []
    for sized in plan.sized.values():
        for core in sized.circuit.cores:
            ends += [_one(ledger, sized, core.role, end, seen) for end in core.ends]
    for term in ends:
        count = seen[f"{term.place}/{term.port}/{term.terminal.id}"]
        ledger.verdict(
            "TERM-DOUBLE",
            count <= term.terminal.max_conductors,
            f"{term.place} {term.port} {term.terminal.id}",
            f"{count} conductors under one clamp; it takes {term.terminal.max_conductors}.",
            "Use another terminal or a listed splice.",
        )
    order = {"earth": 0, **{port: i + 1 for i, port in enumerate(ledger.card("inverter").landing_order)}}
    place_order = list(instances(ledger))
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

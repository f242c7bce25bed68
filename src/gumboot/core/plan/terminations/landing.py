"""One conductor end with the rules of its terminal."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from gumboot.core.card import Terminal
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit, End
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import Sized
from gumboot.core.plan.terminations.parts import Termination, dressed, live_method, port_title, preparation, termination_id
from gumboot.core.plan.terminations.torque import torque_of
from gumboot.core.rulebook.common.crimps import DIES, crimps
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.rulebook.north_american.raceway import bending_space_mm
from gumboot.core.rules import terminations as rules
from gumboot.core.seats import Enclosed
from gumboot.core.sizes import area_mm2

# How an end is made ready, the torque of its terminal with the band, and what people call its port.
Prepared = tuple[str, tuple[Figure, ...], str]


def _is_near(ledger: Ledger, end: End, circuit: Circuit) -> bool:
    """Whether an end is the one that a run's first answers speak of: the inverter's; where none has one, that of the thing fed."""
    makers = [place for place in (circuit.source, circuit.load) if ledger.house.cards[place].kind in ("inverter", "pv-inverter")]
    return end.place == (makers[0] if makers else circuit.load)


def check_prepared(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, run: Run, *, circuit: Circuit) -> None:
    """Strip length and lug hole as prepared, by the answers of the run that speak of this end."""
    far = "" if _is_near(ledger, end, circuit) else "far_"
    strip_field, lug_field = f"{far}strip_mm", f"{far}lug_hole_mm"
    where, path = f"{end.place} {end.port} {end.terminal}", f"ports.{end.port}.terminals.{end.terminal}"
    if getattr(run, strip_field) is not None:
        strip, wanted = ledger.decided_of(run, f"runs.{run.id}.{strip_field}"), ledger.read(card, f"{path}.strip_mm")
        facts = rules.Prepared(where=where, found=strip, wanted=wanted, field=f"runs.{run.id}.{strip_field}")
        ledger.ask(rules.stripped_to_length, facts)
    if getattr(run, lug_field) is not None and terminal.end == "lug" and terminal.lug_hole.startswith("M"):
        stud = ledger.from_card(card.id, f"{path}.lug_hole", "d_stud", f"Stud, {where}", float(terminal.lug_hole[1:]), unit="mm")
        hole, field = ledger.decided_of(run, f"runs.{run.id}.{lug_field}"), f"runs.{run.id}.{lug_field}"
        facts = rules.Prepared(where=where, found=hole, wanted=stud, stud=terminal.lug_hole, field=field)
        ledger.ask(rules.lug_fits, facts)


def _check_bend(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, size: str, *, circuit: str) -> None:
    """Room to bend, where the book has a table of it and the card gives the room."""
    source, key = ledger.book.bending_source, f"bend.{size}"
    if not source or terminal.bend_mm is None:
        return
    need = ledger.figures.get(key)
    if need is None:
        limits = "One conductor, L or Z bend."
        need = ledger.work(key, "b_min", f"Bending space for {size}", bending_space_mm(size), "mm", source=source, limits=limits)
    room = ledger.read(card, f"ports.{end.port}.terminals.{end.terminal}.bend_mm")
    ledger.ask(
        rules.room_to_bend, rules.Bend(where=f"{end.place} {end.port} {end.terminal}", size=size, room=room, need=need, circuit=circuit)
    )


def _asked(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, wire: tuple[str, str, str], *, cure: tuple[str, str]) -> Prepared:
    """How a conductor's end is made ready and tightened, its terminal asked whether it takes size, class and metal of ``wire``.

    Whether it does is the card's own matter: where it does and its maker gives the torque, each kind of end is asked about once.
    ``cure`` are circuit and answer of its run.
    """
    known, asked = card.read_so_far.prepared, (end.port, end.terminal, *wire, ledger.book.torque_source)
    found = known.get(asked)
    if found is not None:
        return found
    (cid, answer), where = cure, f"{end.place} {end.port} {end.terminal}"
    size, wire_class, metal = wire
    field = f"runs.{cid}.{answer}"
    facts = rules.Landing(where=where, terminal=terminal, size=size, wire_class=wire_class, material=metal, circuit=cid, field=field)
    answers = [ledger.ask(rule, facts) for rule in rules.LANDED]
    made = preparation(terminal, wire[0]), torque_of(ledger, card, end, terminal, wire[0]), port_title(card, end.port)
    if all(answers) and terminal.torque_nm is not None:
        known[asked] = made
    return made


class Pulled(NamedTuple):
    """A conductor as it is pulled: what both of its ends have in common. ``answer`` is the field of its run that cures its size."""

    sized: Sized
    role: str
    size: str
    wire_class: str
    colour: str
    answer: str


def pulled_of(ledger: Ledger, sized: Sized, role: str) -> Pulled:
    """The conductor of one role of a circuit."""
    colour = identification(ledger.book.identification, role).colour
    if role == "earth":
        return Pulled(sized, role, sized.earth_size, "stranded", colour, "installed_earth")
    return Pulled(sized, role, sized.size, sized.run.wire_class, colour, "installed_size")


def lug_of(ledger: Ledger, size: str) -> tuple[Figure, ...]:
    """How often the barrel of a lug is pressed, and by which die where a standard numbers it."""
    key = f"lug.{size.replace(' ', '-')}"
    known = [ledger.figures[name] for name in (f"{key}.crimps", f"{key}.die") if name in ledger.figures]
    if known:
        return tuple(known)
    count = float(crimps(area_mm2(size)))
    found = (
        ledger.work(
            f"{key}.crimps",
            "n_cr",
            f"Crimps of a lug for {size}",
            count,
            "",
            source="cp.crimp",
            limits="At least; what stands on the lug wins.",
        ),
    )
    if size not in DIES:
        return found
    die = ledger.work(
        f"{key}.die", "n_die", f"Die for a lug of {size}", float(DIES[size]), "", source="din.46235", limits="What stands on the lug wins."
    )
    return (*found, die)


def land(ledger: Ledger, pulled: Pulled, end: End, roof: Collection[str]) -> Termination:
    """One termination, checked; ``roof`` are the places in daylight."""
    card, (place, port, name, way) = ledger.house.cards[end.place], end
    sized, role, size, wire_class, colour, answer = pulled
    terminal, circuit, run = card.terminal(port, name), sized.circuit, sized.run
    cid = circuit.id
    if role != "earth":
        check_prepared(ledger, card, end, terminal, run, circuit=circuit)
    _check_bend(ledger, card, end, terminal, size, circuit=cid)
    ready, torques, called = _asked(ledger, card, end, terminal, (size, wire_class, run.material), cure=(cid, answer))
    if torques and torques[0].key not in ledger.figures:
        ledger.open(*torques)
    torque, low, high = torques[:3] or (None, None, None)
    return Termination(
        id=termination_id(end, cid),
        place=place,
        place_title=card.title,
        port=port,
        port_title=called,
        terminal=terminal,
        circuit=cid,
        circuit_title=circuit.title,
        role=role,
        size=size,
        colour=colour,
        wire_class=wire_class,
        way=way,
        preparation=ready,
        lug=lug_of(ledger, size) if terminal.end == "lug" else (),
        torque=torque,
        torque_low=low,
        torque_high=high,
        live_method=live_method(card, role, on_roof=place in roof),
        dress=dressed(card, terminal),
    )

"""One conductor end with the rules of its terminal."""

from __future__ import annotations

from collections.abc import Collection

from gumboot.core.card import Terminal
from gumboot.core.installation import End
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import Sized
from gumboot.core.plan.terminations.parts import Termination, live_method, preparation, termination_id
from gumboot.core.plan.terminations.torque import torque_of
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.rulebook.north_american.raceway import bending_space_mm
from gumboot.core.rules import terminations as rules
from gumboot.core.seats import Enclosed


def _check_prepared(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, run: Run) -> None:
    """Strip length and lug hole as prepared, at the inverter's end of a run: the end of which the run's answers speak."""
    if card.kind not in ("inverter", "pv-inverter"):
        return
    where, path = f"{end.place} {end.port} {end.terminal}", f"ports.{end.port}.terminals.{end.terminal}"
    if run.strip_mm is not None:
        strip, wanted = ledger.decided(f"runs.{run.id}.strip_mm"), ledger.read(card, f"{path}.strip_mm")
        facts = rules.Prepared(where=where, found=strip, wanted=wanted, field=f"runs.{run.id}.strip_mm")
        ledger.ask(rules.stripped_to_length, facts)
    if run.lug_hole_mm is not None and terminal.end == "lug" and terminal.lug_hole.startswith("M"):
        stud = ledger.from_card(card.id, f"{path}.lug_hole", "d_stud", f"Stud, {where}", float(terminal.lug_hole[1:]), "mm")
        hole, field = ledger.decided(f"runs.{run.id}.lug_hole_mm"), f"runs.{run.id}.lug_hole_mm"
        facts = rules.Prepared(where=where, found=hole, wanted=stud, stud=terminal.lug_hole, field=field)
        ledger.ask(rules.lug_fits, facts)


def _check_bend(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, size: str, circuit: str) -> None:
    """Room to bend, where the book has a table of it and the card gives the room."""
    if not ledger.book.bending_source or terminal.bend_mm is None:
        return
    limits = "One conductor, L or Z bend."
    need = ledger.work(
        f"bend.{size}", "b_min", f"Bending space for {size}", bending_space_mm(size), "mm", ledger.book.bending_source, limits=limits
    )
    room = ledger.read(card, f"ports.{end.port}.terminals.{end.terminal}.bend_mm")
    where = f"{end.place} {end.port} {end.terminal}"
    ledger.ask(rules.room_to_bend, rules.Bend(where=where, size=size, room=room, need=need, circuit=circuit))


def _made_ready(ledger: Ledger, card: Enclosed, end: End, terminal: Terminal, wire: tuple[str, str, str], cures: tuple[str, str]) -> str:
    """How a conductor's end is made ready, its terminal asked whether it takes size, class and metal of ``wire``.

    Whether it does is the card's own matter: where it does, each kind of end is asked about once. ``cures`` are circuit and field.
    """
    known, asked = card.remembered().prepared, (end.port, end.terminal, *wire)
    found = known.get(asked)
    if found is not None:
        return found
    facts = rules.Landing(f"{end.place} {end.port} {end.terminal}", terminal, *wire, *cures)
    words = preparation(terminal, wire[0])
    answers = [ledger.ask(rule, facts) for rule in rules.LANDED]
    if all(answers):
        known[asked] = words
    return words


def land(ledger: Ledger, sized: Sized, role: str, end: End, roof: Collection[str]) -> Termination:
    """One termination, checked; ``roof`` are the places in daylight."""
    card = ledger.house.card_at(end.place)
    terminal = card.terminal(end.port, end.terminal)
    earth, cid, run = role == "earth", sized.circuit.id, sized.run
    size = sized.earth_size if earth else sized.size
    wire_class = "stranded" if earth else run.wire_class
    if not earth:
        _check_prepared(ledger, card, end, terminal, run)
    _check_bend(ledger, card, end, terminal, size, cid)
    cures = cid, f"runs.{cid}.installed_earth" if earth else f"runs.{cid}.installed_size"
    ready = _made_ready(ledger, card, end, terminal, (size, wire_class, run.material), cures)
    torque, low, high = torque_of(ledger, card, end, terminal, size)
    return Termination(
        id=termination_id(end, cid),
        place=end.place,
        place_title=card.title,
        port=end.port,
        port_title=next(p for p in card.ports if p.id == end.port).title,
        terminal=terminal,
        circuit=cid,
        circuit_title=sized.circuit.title,
        role=role,
        size=size,
        colour=identification(ledger.book.identification, role).colour,
        wire_class=wire_class,
        way=end.way,
        preparation=ready,
        torque=torque,
        torque_low=low,
        torque_high=high,
        live_method=live_method(card, role, on_roof=end.place in roof),
    )

"""May the bank stand here: its room, its energy, its distance from doors, exits and between its units, and room to work?"""

from __future__ import annotations

from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Opening
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.supply import counts
from gumboot.core.plan.wall.parts import Box
from gumboot.core.plan.wall.stands import outline
from gumboot.core.rulebook.north_american.place import ROOM_LIMIT_WH, UNIT_LIMIT_WH, room_limit_wh
from gumboot.core.rules import place as rules
from gumboot.core.rules import wall as wall_rules

AWAY_FROM = ("door", "window", "appliance")


def _check_opening(ledger: Ledger, box: Box, opening: Opening) -> None:
    """Distance of a battery from doors, windows and appliances, and from exits, by the rule book."""
    book, exit_way = ledger.book, opening.kind == "exit"
    if not exit_way and opening.kind not in AWAY_FROM:
        return
    least = constant(
        "d_exit" if exit_way else "d_open",
        f"Battery from {'exits' if exit_way else 'openings and appliances'} at least",
        book.exit_mm if exit_way else book.opening_mm,
        "mm",
        book.opening_source,
    )
    apart, limits = box.rect.gap_to(outline(opening)), "Shortest distance between the two outlines."
    gap = ledger.work(f"wall.{box.id}.{opening.id}.gap", "d", f"{box.id} to {opening.title}", apart, "mm", "arith", limits=limits)
    facts = rules.Away(box=box.id, title=box.title, other=opening.id, other_title=opening.title, gap=gap, least=ledger.keep(least))
    ledger.ask(rules.from_exits if exit_way else rules.from_openings, facts)


def check_openings(ledger: Ledger, box: Box) -> None:
    """A box that holds batteries against every opening of the wall."""
    if box.holds_battery:
        for opening in ledger.job.walls[0].openings:
            _check_opening(ledger, box, opening)


def check_spacing(ledger: Ledger, boxes: list[Box]) -> None:
    """Units of the bank from each other: the fire-tested spacing of the card, else the book's."""
    between = ledger.book.place.between_units_mm
    units = [b for b in boxes if b.holds_battery and not b.is_inverter]
    if between is None or len(units) < 2:
        return
    least = ledger.stated(ledger.seats.battery, "spacing_mm")
    if least is None:
        least = ledger.keep(constant("d_s", "Batteries apart at least", between, "mm", "nfpa.855"))
    pairs = [(a.rect.gap_to(b.rect), a, b) for i, a in enumerate(units) for b in units[i + 1 :]]
    nearest, a, b = min(pairs, key=lambda p: p[0])
    gap = ledger.work("wall.spacing", "d", f"{a.id} to {b.id}, the nearest two batteries", nearest, "mm", "arith")
    facts = rules.Away(box=a.id, title=a.title, other=b.id, other_title=b.title, gap=gap, least=least)
    ledger.ask(rules.from_each_other, facts)


def _check_energy(ledger: Ledger) -> None:
    """Energy of one unit, and of all that stands in one place, where the book limits it."""
    limits, room = ledger.book.room_limits, ledger.job.walls[0].room
    if not limits:
        return
    card, units = ledger.seats.battery, counts(ledger)[0]
    one = ledger.read(card, "energy_wh")
    if room in ROOM_LIMIT_WH:
        total = ledger.work("wall.energy", "E", "Energy standing here", units * one, "Wh", "arith")
        most = ledger.keep(constant("E_max", f"Most energy in a {room}", room_limit_wh(room), "Wh", limits))
        ledger.ask(rules.energy_of_place, rules.Energy(energy=total, most=most))
    # A wall battery alone, or all modules that stand in one stack or cabinet.
    together = card.arrangement in ("stack", "docked")
    unit = ledger.work("wall.unit_energy", "E_u", "Energy of one unit", units * one if together else one, "Wh", "arith")
    most = ledger.keep(constant("E_umax", "Most energy of one unit", UNIT_LIMIT_WH, "Wh", "nfpa.855"))
    ledger.ask(rules.energy_of_unit, rules.Energy(energy=unit, most=most))


def _working_depth(ledger: Ledger) -> Figure:
    """Free depth in front of equipment, by the rule book; by voltage to ground and by what faces it where the book asks so."""
    book = ledger.book
    draft = book.place.working_depth(ledger.read(ledger.seats.inverter, "leg_v"), ledger.job.walls[0].condition)
    if draft is not None:
        return ledger.put("wall.working_depth", draft)
    return ledger.keep(constant("d_min", "Working space in front", book.working_mm, "mm", book.working_source))


def check_room(ledger: Ledger) -> None:
    """The room, its energy, and the space to work in front."""
    wall = ledger.job.walls[0]
    room = rules.Room(room=wall.room, habitable_behind=wall.habitable_behind, barrier=wall.barrier)
    ledger.ask(rules.not_habitable, room)
    ledger.ask(rules.barrier_between, room)
    _check_energy(ledger)
    depth = ledger.asked("walls.wall.free_depth_mm")
    if depth:
        ledger.ask(wall_rules.room_to_work, wall_rules.Space(free=depth, asked=_working_depth(ledger)))

"""May the bank stand here: its room, its energy, its distance from doors, exits and between its units, and room to work?"""

from __future__ import annotations

from gumboot.core.card.storage import BatteryCard
from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.job.model import Opening
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.group import summed
from gumboot.core.plan.wall.parts import At, Box
from gumboot.core.plan.wall.stands import outline
from gumboot.core.rulebook.north_american.place import ROOM_LIMIT_WH, UNIT_LIMIT_WH, room_limit_wh
from gumboot.core.rules import place as rules
from gumboot.core.rules import wall as wall_rules

AWAY_FROM = ("door", "window", "appliance", "gas")


def _check_opening(at: At, box: Box, opening: Opening) -> None:
    """Distance of a battery from doors, windows and appliances, and from exits, by the rule book."""
    ledger = at.ledger
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
    gap = ledger.work(f"wall.{box.id}.{opening.id}.gap", "d", f"{box.id} to {opening.title}", apart, "mm", source="arith", limits=limits)
    facts = rules.Away(box=box.id, title=box.title, other=opening.id, other_title=opening.title, gap=gap, least=ledger.keep(least))
    at.ask(rules.from_exits if exit_way else rules.from_openings, facts)
    _check_above(at, box, opening, gap)


def _check_above(at: At, box: Box, opening: Opening, gap: Figure) -> None:
    """What opens above a battery, where the book asks more there than beside it."""
    book, top = at.ledger.book, box.rect.y + box.rect.h
    beside = max(outline(opening).x - (box.rect.x + box.rect.w), box.rect.x - (opening.x_mm + opening.width_mm))
    if book.above_mm is None or opening.y_mm < top or beside >= book.opening_mm:
        return
    name = "Battery below openings and appliances at least"
    least = at.ledger.keep(constant("d_above", name, book.above_mm, "mm", book.opening_source))
    at.ask(
        rules.from_what_opens_above,
        rules.Away(box=box.id, title=box.title, other=opening.id, other_title=opening.title, gap=gap, least=least),
    )


def check_barrier(at: At, box: Box) -> None:
    """How far the barrier behind a battery reaches, where the book says; a masonry wall is one as wide as it is."""
    wall, ledger = at.wall, at.ledger
    reach = ledger.book.barrier_mm
    if reach is None or not box.holds_battery or not (wall.habitable_behind and wall.barrier) or wall.surface == "masonry":
        return
    board = wall.board if wall.board is not None and wall.board.material == "cement board" else None
    ends = (board.x_mm, board.x_mm + board.width_mm, board.y_mm + board.height_mm) if board else (box.rect.x, box.rect.x, box.rect.y)
    beside = min(box.rect.x - ends[0], ends[1] - (box.rect.x + box.rect.w))
    above = ends[2] - (box.rect.y + box.rect.h)
    for side, key, has, wants in (("beside", "side", beside, reach[0]), ("above", "top", above, reach[1])):
        figure = ledger.work(f"wall.{box.id}.barrier_{key}", "d", f"Barrier {side} {box.id}", has, "mm", source="arith")
        least = ledger.keep(constant(f"d_bar_{key}", f"Barrier {side} a battery at least", wants, "mm", ledger.book.opening_source))
        at.ask(
            rules.barrier_reaches,
            rules.Reach(box=box.id, title=box.title, side=side, reach=figure, least=least, has_board=wall.board is not None),
        )


def check_openings(at: At, box: Box) -> None:
    """A box that holds batteries against every opening of the wall."""
    if box.holds_battery:
        for opening in at.wall.openings:
            _check_opening(at, box, opening)


def _tested(at: At, box: Box) -> Figure | None:
    """The fire-tested spacing of a battery's card."""
    card = at.ledger.house.card_at(box.id)
    return at.ledger.stated(card, "spacing_mm") if isinstance(card, BatteryCard) else None


def check_spacing(at: At, boxes: list[Box]) -> None:
    """Units of the bank from each other: the fire-tested spacing of the card, else the book's."""
    ledger = at.ledger
    between = ledger.book.place.between_units_mm
    units = [b for b in boxes if b.holds_battery and not b.is_inverter]
    if between is None or len(units) < 2:
        return
    pairs = [(a.rect.gap_to(b.rect), a, b) for i, a in enumerate(units) for b in units[i + 1 :]]
    nearest, a, b = min(pairs, key=lambda p: p[0])
    tested = [f for box in (a, b) if (f := _tested(at, box)) is not None]
    least = max(tested, key=BY_VALUE) if len(tested) == 2 else None
    if least is None:
        least = ledger.keep(constant("d_s", "Batteries apart at least", between, "mm", "nfpa.855"))
    gap = ledger.work(f"{at.key}.spacing", "d", f"{a.id} to {b.id}, the nearest two batteries", nearest, "mm", source="arith")
    facts = rules.Away(box=a.id, title=a.title, other=b.id, other_title=b.title, gap=gap, least=least)
    at.ask(rules.from_each_other, facts)


def _here(at: At, bank: OneBank) -> Figure:
    """Units of a bank that stand in the place of this wall, one that stands nowhere yet among them; walls of one kind of place count as
    one place."""
    walls = at.ledger.job.walls
    placed = {p.id: wall.room for wall in walls for p in wall.placements}
    if len({wall.room for wall in walls}) == 1:
        return bank.counts()[0]
    here = sum(placed.get(unit.id, walls[0].room) == at.wall.room for unit in bank.units)
    return bank.work(f"{at.key}.units", "n_w", f"Batteries in the {at.wall.room}", float(here), "", source="arith")


def _in_one_stack(bank: OneBank) -> Figure:
    """Units of one stack or cabinet."""
    return bank.counts()[1 if bank.seat.thing.strings > 1 else 0]


def _check_energy(at: At) -> None:
    """Energy of one unit, and of all that stands in one place, where the book limits it."""
    ledger, room = at.ledger, at.wall.room
    limits, banks = ledger.book.room_limits, banks_of(ledger)
    if not limits or at.wall is not next(w for w in ledger.job.walls if w.room == room):
        return
    if room in ROOM_LIMIT_WH:
        parts = [
            bank.work(
                f"{at.key}.energy", "E", "Energy standing here", _here(at, bank) * ledger.read(bank.card, "energy_wh"), "Wh", source="arith"
            )
            for bank in banks
        ]
        total = summed(ledger, f"{at.key}.energy_all", "E_all", "Energy of all banks standing here", parts)
        most = ledger.keep(
            constant("E_max" if at.key == "wall" else f"E_max,{at.wall.id}", f"Most energy in a {room}", room_limit_wh(room), "Wh", limits)
        )
        at.ask(rules.energy_of_place, rules.Energy(energy=total, most=most, where=at.room))
    if at.wall is not ledger.job.walls[0]:
        return
    most = ledger.keep(constant("E_umax", "Most energy of one unit", UNIT_LIMIT_WH, "Wh", "nfpa.855"))
    for bank in banks:
        # A wall battery alone, or all modules that stand in one stack or cabinet.
        together, one = bank.card.arrangement in ("stack", "docked"), ledger.read(bank.card, "energy_wh")
        unit = bank.work(
            "wall.unit_energy", "E_u", "Energy of one unit", _in_one_stack(bank) * one if together else one, "Wh", source="arith"
        )
        ledger.ask(rules.energy_of_unit, rules.Energy(energy=unit, most=most, field=f"banks.{bank.id}.card"))


def _working_depth(at: At) -> Figure:
    """Free depth in front of equipment, by the rule book; by voltage to ground and by what faces it where the book asks so."""
    ledger, book = at.ledger, at.ledger.book
    draft = book.place.working_depth(ledger.read(ledger.seats.inverter, "leg_v"), at.wall.condition)
    if draft is not None:
        return ledger.put(f"{at.key}.working_depth", draft)
    return ledger.keep(constant("d_min", "Working space in front", book.working_mm, "mm", book.working_source))


def _holds_bank(at: At) -> bool:
    """Whether a bank stands at this wall, or may yet: at the first of all while one stands at none."""
    ledger = at.ledger
    for bank in banks_of(ledger):
        names = {unit.id for unit in bank.units} | ({i.id for i in bank.inverters} if bank.is_docked else set())
        walls = [wall for wall in ledger.job.walls if any(p.id in names for p in wall.placements)] or ledger.job.walls[:1]
        if any(wall is at.wall for wall in walls):
            return True
    return False


def check_room(at: At) -> None:
    """The room, its energy, and the space to work in front."""
    if _holds_bank(at):
        room = rules.Room(room=at.wall.room, habitable_behind=at.wall.habitable_behind, barrier=at.wall.barrier, where=at.room)
        at.ask(rules.not_habitable, room)
        at.ask(rules.barrier_between, room)
        _check_energy(at)
    depth = at.asked("free_depth_mm")
    if depth:
        at.ask(wall_rules.room_to_work, wall_rules.Space(free=depth, asked=_working_depth(at), where=at.room))

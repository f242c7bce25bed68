"""Has a box its clearances, its board, its eye level, and room for its conduits to sweep?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.parts import Body
from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Opening, Run
from gumboot.core.plan.wall.parts import At, Box
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rulebook.books.raceways import BOXES
from gumboot.core.rulebook.iec_family.raceway import bend_radius_mm as iec_sweep_mm
from gumboot.core.rulebook.north_american.raceway import bend_radius_mm
from gumboot.core.rules import site
from gumboot.core.rules import wall as rules

EYE_LOW = constant("y_min", "Lowest screen read without stooping", 1300, "mm", "cp.eye")
EYE_HIGH = constant("y_max", "Highest screen read without a stool", 1750, "mm", "cp.eye")


def outline(opening: Opening) -> Rect:
    """An opening as a rectangle on the wall."""
    return Rect(opening.x_mm, opening.y_mm, opening.width_mm, opening.height_mm)


def clearance_of(rect: Rect, body: Body) -> Rect:
    """What is kept free around a box, the box in it."""
    return Rect(
        rect.x - body.clear_left_mm,
        rect.y - body.clear_below_mm,
        rect.w + body.clear_left_mm + body.clear_right_mm,
        rect.h + body.clear_above_mm + body.clear_below_mm,
    )


def check_clearances(at: At, box: Box, others: list[Box], wall: Rect) -> None:
    """Other boxes, openings and the wall's edge against a box's clearance."""

    ledger, path, mine, called, free = at.ledger, at.path, box.id, box.title, box.clear

    def ask(other: str, title: str, kind: str, clear: bool) -> None:
        ledger.ask(rules.clearances, rules.Beside(box=mine, title=called, other=other, other_title=title, kind=kind, clear=clear), path)

    for other in others:
        ask(other.id, other.title, "box", not free.meets(other.rect))
    for opening in at.wall.openings:
        ask(opening.id, opening.title, "opening", not free.meets(outline(opening)))
    ask("the wall's edge", "", "edge", free.inside(wall))


def check_backing(at: At, box: Box) -> None:
    """Cement board behind a box on a timber surface."""
    wall, board = at.wall, at.wall.board
    covered = (
        board is not None
        and board.material == "cement board"
        and box.rect.inside(Rect(board.x_mm, board.y_mm, board.width_mm, board.height_mm))
    )
    facts = rules.Backed(box=box.id, title=box.title, surface=wall.surface or "", covered=covered, has_board=board is not None)
    at.ask(rules.board_behind, facts)


def check_screen(at: At, box: Box) -> None:
    """A screen at eye level."""
    if box.screen is not None:
        at.ask(rules.eye_level, rules.Screen(box=box.id, height=box.screen, low=EYE_LOW, high=EYE_HIGH))


SIDES = {"below": "below", "above": "above", "left": "left of", "right": "right of"}


def sweep_mm(run: Run) -> float | None:
    """Room that the sweep of a run's conduit takes below a box; None without a round conduit, or for a size no table holds."""
    if not run.raceway_size or run.raceway is None or run.raceway in BOXES:
        return None
    try:
        return iec_sweep_mm(float(run.raceway_size)) if run.raceway == "conduit" else bend_radius_mm(run.raceway_size)
    except (NotInTable, ValueError):
        return None


def _free_sides(box: Box, others: Sequence[Box], wall: Rect) -> dict[str, float]:
    """What is free at each side of a box, to the next box, the floor or the wall's edge, mm."""
    r, top, right = box.rect, box.rect.y + box.rect.h, box.rect.x + box.rect.w
    beside = [o.rect for o in others if o.rect.y < top and o.rect.y + o.rect.h > r.y]
    over = [o.rect for o in others if o.rect.x < right and o.rect.x + o.rect.w > r.x]
    return {
        "left": r.x - max([o.x + o.w for o in beside if o.x + o.w <= r.x], default=wall.x),
        "right": min([o.x for o in beside if o.x >= right], default=wall.x + wall.w) - right,
        "below": r.y - max([o.y + o.h for o in over if o.y + o.h <= r.y], default=wall.y),
        "above": min([o.y for o in over if o.y >= top], default=wall.y + wall.h) - top,
    }


def _entry(at: At, box: Box) -> str:
    """The side from which conduits come into a box, as decided; an inverter is entered from below where nothing is."""
    told = next((p.entry for p in at.wall.placements if p.id == box.id), "usual")
    return told if told != "usual" else "below" if box.is_inverter else "usual"


def _room(at: At, box: Box, boxes: Sequence[Box], wall: Rect) -> Figure:
    """Where a conduit may sweep into a box."""
    ledger, others, entry = at.ledger, [b for b in boxes if b is not box], _entry(at, box)
    sides = _free_sides(box, others, wall)
    if box.is_inverter and entry == "below":
        alone, limits = box.id == ledger.house.lead.id, "To the floor, or to the top of the box beneath."
        key, title = ("wall.sweep_room", "Room below the inverter") if alone else (f"wall.sweep_room_{box.id}", f"Room below {box.id}")
        # Whatever overlaps it leaves less than nothing.
        free = box.rect.y - max([b.rect.y + b.rect.h for b in others if b.rect.beneath(box.rect)], default=0.0)
        return ledger.work(key, "h_b", title, free, "mm", source="arith", limits=limits)
    free, where = (max(sides.values()), "at the freest side of") if entry == "usual" else (sides[entry], SIDES[entry])
    limits = "To the next box, the floor or the wall's edge."
    return ledger.work(f"wall.sweep_room_{box.id}", "h_b", f"Room {where} {box.id}", free, "mm", source="arith", limits=limits)


def check_sweeps(at: At, boxes: list[Box], wall: Rect) -> None:
    """Whether the widest conduit that comes into each box has room to sweep there."""
    ledger, by_id = at.ledger, at.ledger.house.whole.by_id
    sweeps = [(sweep, run) for run in ledger.job.runs if run.id in by_id and (sweep := sweep_mm(run)) is not None]
    for box in boxes:
        own = [(sweep, run) for sweep, run in sweeps if box.id in (by_id[run.id].source, by_id[run.id].load)]
        # A cabinet that stands on the floor with its batteries inside is entered from the side or the top.
        if not own or (box.is_inverter and box.holds_battery and box.rect.y == 0):
            continue
        most, run = max(own, key=lambda pair: pair[0])
        key, name = f"{at.key}.sweep_mm.{run.id}", f"Radius of the bend of {run.raceway} {run.raceway_size}, {run.id}"
        need = ledger.work(key, "r_b", name, most, "mm", source=ledger.book.raceways.bend_source)
        facts = rules.Sweep(box=box.id, run=run.id, room=_room(at, box, boxes, wall), need=need, side=_entry(at, box))
        at.ask(rules.conduit_sweeps, facts)


def check_weather(at: At, boxes: Sequence[Box]) -> None:
    """Every box of an outdoor wall; a main board that was there before is its owner's."""
    wall, ledger = at.wall, at.ledger
    if wall.room != "outdoor":
        return
    there = {seat.id for seat in ledger.seats.mains}
    for box in boxes:
        card = ledger.house.card_at(box.id)
        if box.id not in there and card.kind != "generator":
            outdoors = card.outdoors
            facts = site.Weathered(where=box.id, title=box.title, outdoors=outdoors, in_sun=wall.in_sun, field=f"{at.path}.room")
            ledger.ask(site.made_for_the_weather, facts)


def check_handles(at: At, boxes: Sequence[Box]) -> None:
    """Every box with a switch or breakers, where the book says how high a handle may stand."""
    ledger, most = at.ledger, at.ledger.book.place.handle_mm
    if most is None:
        return
    highest = ledger.keep(constant("y_max", "Highest place of a switch or breaker handle", most, "mm", "nec.404.8"))
    with_handles = (
        {seat.id for seat in (*ledger.seats.switch_fuses,)} | {b.id for b in ledger.seats.boards} | {t.id for t in ledger.seats.transfers}
    )
    for placement in at.wall.placements:
        box = next((b for b in boxes if b.id == placement.id and b.id in with_handles), None)
        if box is not None:
            height = at.placed(placement, "y_mm") + ledger.read(ledger.house.card_at(box.id), "body.height_mm")
            top = ledger.work(f"wall.{box.id}.top", "y_top", f"Top of {box.id} above floor", height, "mm", source="arith")
            at.ask(site.within_reach, site.Handle(box=box.id, title=box.title, top=top, most=highest))


def check_fronts(at: At, boxes: Sequence[Box]) -> None:
    """Free floor in front of every box against its card; alike boxes are asked about once."""
    ledger, free = at.ledger, at.asked("free_depth_mm")
    if free is None:
        return
    for box in {b.title: b for b in reversed(boxes)}.values():
        asked = ledger.read(ledger.house.card_at(box.id), "body.clear_front_mm")
        at.ask(site.front_is_free, site.Front(box=box.id, title=box.title, free=free, asked=asked))

"""The Wall station: every box of a wall with its holes, fixings and clearances."""

from __future__ import annotations

from gumboot.core.card.parts import Body
from gumboot.core.job.model import Placement
from gumboot.core.ledger import Ledger
from gumboot.core.plan.wall import batteries, stands
from gumboot.core.plan.wall.fixing import anchor_gaps, fixing_of
from gumboot.core.plan.wall.holes import holes_of, studs_of
from gumboot.core.plan.wall.parts import ONE_PERSON, Box, WallPlan
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rules import wall as rules


def _standing_units(ledger: Ledger) -> list[str]:
    """Units of the bank that stand by themselves: each battery, or the stack or bank as one."""
    card, units = ledger.seats.battery, ledger.job.banks[0].units
    if card.arrangement == "docked" or ledger.seats.inverter.bank_internal:
        return []
    return [u.id for u in units] if card.arrangement == "parallel" else [units[0].id]


def _outline(ledger: Ledger, place: str, body: Body) -> tuple[float, float]:
    """Width and height in mm of a box: a stack grows upward, blocks in series stand side by side."""
    card, count = ledger.house.card_at(place), len(ledger.job.banks[0].units)
    if card.kind != "battery":
        return body.width_mm, body.height_mm
    if card.arrangement == "blocks":
        return body.width_mm * count, body.height_mm
    return body.width_mm, body.height_mm + (count - 1) * card.stack_pitch_mm if card.arrangement == "stack" else body.height_mm


def _clear(rect: Rect, body: Body) -> Rect:
    return Rect(
        rect.x - body.clear_left_mm,
        rect.y - body.clear_below_mm,
        rect.w + body.clear_left_mm + body.clear_right_mm,
        rect.h + body.clear_above_mm + body.clear_below_mm,
    )


def _box(ledger: Ledger, placement: Placement, studs: tuple[float, ...]) -> Box | None:
    card, place = ledger.house.card_at(placement.id), placement.id
    if card.kind == "generator":
        return None
    body = card.body
    rect = Rect(placement.x_mm, placement.y_mm, *_outline(ledger, place, body))
    mass, holes = ledger.read(card, "body.mass_kg"), holes_of(ledger, place, body, studs)
    screen = None
    if (up := ledger.stated(card, "body.screen_up_mm")) is not None:
        height = ledger.decided(f"walls.wall.placements.{place}.y_mm") + up
        screen = ledger.work(f"wall.{place}.screen", "y", "Screen above floor", height, "mm", "arith")
    return Box(
        id=place,
        title=card.title,
        body=body,
        rect=rect,
        clear=_clear(rect, body),
        holes=holes,
        mass=mass,
        screw_ratio=fixing_of(ledger, place, body, holes, mass),
        screen=screen,
        holds_battery=card.kind == "battery" or (card.kind == "inverter" and card.bank_internal),
        is_inverter=card.kind == "inverter",
    )


def _check_boxes(ledger: Ledger, boxes: list[Box], wall: Rect) -> None:
    for box in boxes:
        stands.check_clearances(ledger, box, [b for b in boxes if b is not box], wall)
        batteries.check_openings(ledger, box)
        stands.check_backing(ledger, box)
        stands.check_screen(ledger, box)
    batteries.check_spacing(ledger, boxes)
    stands.check_sweeps(ledger, boxes)
    for title, mass in {b.title: b.mass for b in boxes}.items():
        ledger.ask(rules.one_person_lifts, rules.Lift(title=title, mass=mass, most=ONE_PERSON))
    boards = (b.id for b in ledger.seats.boards if b.thing.duty != "main")
    for needed in (*(i.id for i in ledger.seats.inverters), *boards, *_standing_units(ledger)):
        if needed not in {b.id for b in boxes}:
            ledger.gap("walls.wall.placements", "wall", f"Where does {needed} stand?", "Holes and clearances")


def plan_wall(ledger: Ledger) -> WallPlan | None:
    """Work out the Wall station; None until the wall is measured."""
    wall = ledger.job.walls[0]
    width, height = ledger.asked("walls.wall.width_mm"), ledger.asked("walls.wall.height_mm")
    if wall.surface is None:
        ledger.gap("walls.wall.surface", "survey", "What is the wall made of?", "Backing board and anchors")
    batteries.check_room(ledger)
    if width is None or height is None or wall.surface is None:
        return None
    if wall.surface == "masonry":
        anchor_gaps(ledger)
    studs, places = studs_of(ledger, width.value), ledger.house.cards
    boxes = [box for p in wall.placements if p.id in places and (box := _box(ledger, p, studs)) is not None]
    _check_boxes(ledger, boxes, Rect(0, 0, width.value, height.value))
    return WallPlan(width.value, height.value, studs, tuple(boxes), ledger.figures.get("wall.pull_allowable"))

"""The Wall station: every box of each wall with its holes, fixings and clearances."""

from __future__ import annotations

from functools import partial

from gumboot.core.card.parts import Body
from gumboot.core.job.model import Placement, Wall
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import banks_of
from gumboot.core.plan.wall import anchors, batteries, stands, way
from gumboot.core.plan.wall.air import check_air
from gumboot.core.plan.wall.fixing import anchor_gaps, fixing_of
from gumboot.core.plan.wall.fixings import fixings_of
from gumboot.core.plan.wall.growth import growth_of
from gumboot.core.plan.wall.holes import holes_of, studs_of
from gumboot.core.plan.wall.parts import ONE_PERSON, At, Box, WallPlan
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.plan.wall.spans import spans_of
from gumboot.core.rules import lifting


def standing_units(ledger: Ledger) -> list[str]:
    """Units of the banks that stand by themselves: each battery, or the stack or bank as one."""
    found: list[str] = []
    for bank in banks_of(ledger):
        if not bank.is_docked:
            found += [u.id for u in bank.heads]
    return found


def footprint(ledger: Ledger, place: str, body: Body) -> tuple[float, float]:
    """Width and height in mm of a box: a stack grows upward, blocks in series stand side by side."""
    card = ledger.house.card_at(place)
    if card.kind != "battery":
        return body.width_mm, body.height_mm
    count = next(len(bank.stacks()[0]) for bank in ledger.job.banks if any(unit.id == place for unit in bank.units))
    if card.arrangement == "blocks":
        return body.width_mm * count, body.height_mm
    return body.width_mm, body.height_mm + (count - 1) * card.stack_pitch_mm if card.arrangement == "stack" else body.height_mm


def _box(wall: Wall, key: str, placement: Placement, studs: tuple[float, ...], ledger: Ledger) -> Box | None:
    at = At.of(ledger, wall, key)
    card, place = ledger.house.card_at(placement.id), placement.id
    if card.kind == "generator":
        return None
    body = card.body
    rect = Rect(placement.x_mm, placement.y_mm, *footprint(ledger, place, body))
    mass, holes = ledger.read(card, "body.mass_kg"), holes_of(at, placement, body, studs)
    screen = None
    if (up := ledger.stated(card, "body.screen_up_mm")) is not None:
        height = at.placed(placement, "y_mm") + up
        screen = ledger.work(f"wall.{place}.screen", "y", "Screen above floor", height, "mm", source="arith")
    return Box(
        id=place,
        title=card.title,
        body=body,
        rect=rect,
        clear=stands.clearance_of(rect, body),
        holes=holes,
        mass=mass,
        screw_ratio=fixing_of(at, place, body, holes, mass),
        screen=screen,
        spans=spans_of(ledger, place, holes),
        holds_battery=card.kind == "battery" or (card.kind == "inverter" and card.bank_internal),
        is_inverter=card.kind == "inverter",
    )


def _check_boxes(at: At, boxes: list[Box], wall: Rect) -> None:
    for box in boxes:
        stands.check_clearances(at, box, [b for b in boxes if b is not box], wall)
        batteries.check_openings(at, box)
        batteries.check_barrier(at, box)
        stands.check_backing(at, box)
        stands.check_screen(at, box)
    batteries.check_spacing(at, boxes)
    anchors.check_anchors(at, boxes, wall)
    anchors.check_tipping(at, boxes)
    stands.check_weather(at, boxes)
    stands.check_fronts(at, boxes)
    stands.check_handles(at, boxes)
    stands.check_sweeps(at, boxes, wall)


def _wall(ledger: Ledger, wall: Wall, key: str) -> WallPlan | None:
    """One wall; None until it is measured."""
    at = At.of(ledger, wall, key)
    width, height = at.asked("width_mm"), at.asked("height_mm")
    if wall.surface is None:
        ledger.gap(f"{at.path}.surface", "survey", "What is the wall made of?", "Backing board and anchors")
    batteries.check_room(at)
    check_air(at)
    if width is None or height is None or wall.surface is None:
        return None
    if wall.surface == "masonry":
        anchor_gaps(at)
    studs, places = studs_of(at, width.value), ledger.house.cards
    rests = studs, key, wall.id
    made = [ledger.piece(p.id, rests, partial(_box, wall, key, p, studs)) for p in wall.placements if p.id in places]
    boxes = [box for box in made if box is not None]
    _check_boxes(at, boxes, Rect(0, 0, width.value, height.value))
    pull, pilot = ledger.figures.get(f"{key}.pull_allowable"), anchors.pilot_mm(at)
    return WallPlan(
        id=wall.id,
        title=wall.title,
        width_mm=width.value,
        height_mm=height.value,
        studs_mm=studs,
        boxes=tuple(boxes),
        withdrawal=pull,
        pilot=pilot,
        fixings=fixings_of(at, pilot, boxes),
        growth=growth_of(at, boxes, Rect(0, 0, width.value, height.value)),
    )


def plan_walls(ledger: Ledger) -> tuple[WallPlan, ...]:
    """Work out every wall that is measured, and ask for the boxes that stand nowhere yet."""
    walls = ledger.job.walls
    found = [_wall(ledger, wall, f"wall.{wall.id}" if n else "wall") for n, wall in enumerate(walls)]
    made = tuple(wall for wall in found if wall is not None)
    boxes = [box for wall in made for box in wall.boxes]
    for title, mass in {b.title: b.mass for b in boxes}.items():
        ledger.ask(lifting.one_person_lifts, lifting.Lift(title=title, mass=mass, most=ONE_PERSON))
    for wall, plan in ((next(w for w in walls if w.id == plan.id), plan) for plan in made):
        way.check_way(ledger, wall, plan)
    if len(made) < len(walls):
        return made
    boards = (b.id for b in ledger.seats.boards if b.thing.duty != "main")
    for needed in (*(i.id for i in ledger.seats.inverters), *boards, *standing_units(ledger)):
        if needed not in {b.id for b in boxes}:
            ledger.gap(f"walls.{walls[0].id}.placements", "wall", f"Where does {needed} stand?", "Holes and clearances")
    return made

"""Where anchors sit in masonry, what stands on the floor, and how wide a screw's pilot hole is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction

from gumboot.core.figure import Figure, constant
from gumboot.core.plan.wall.fixing import GRAVITY
from gumboot.core.plan.wall.parts import At, Box, DrillHole
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.plan.wall.stands import outline
from gumboot.core.rules import fixings as rules
from gumboot.core.units import MM_PER_INCH

# What is lower or stands higher than this off the floor does not tip: common practice.
TALL_MM, ON_FLOOR_MM = 800.0, 50.0
LEANED_ON = constant("F_push", "Push at its top that a thing withstands by itself", 250, "N", "cp.tip")
# Share of a lag screw's diameter by the timber's specific gravity (NDS 12.1.4.2): the middle of each range.
PILOT = ((0.5, 0.55), (0.6, 0.675), (9.9, 0.75))


def _edge(at: At, hole: DrillHole, wall: Rect) -> tuple[float, str]:
    """The nearest edge of the masonry to a hole: the wall's sides and top, and every opening in it."""
    x, y = hole.x_mm.value, hole.y_mm.value
    found = [(x - wall.x, "the wall's left edge"), (wall.x + wall.w - x, "the wall's right edge"), (wall.y + wall.h - y, "the wall's top")]
    for opening in at.wall.openings:
        if opening.kind in ("door", "window", "exit"):
            r = outline(opening)
            away = math.hypot(max(r.x - x, 0.0, x - r.x - r.w), max(r.y - y, 0.0, y - r.y - r.h))
            found.append((away, opening.title))
    return min(found)


def _neighbour(hole: DrillHole, others: Sequence[DrillHole]) -> tuple[float, str]:
    """The nearest other hole."""
    x, y = hole.x_mm.value, hole.y_mm.value
    found = [(math.hypot(x - o.x_mm.value, y - o.y_mm.value), f"hole {o.id} of {o.box}") for o in others if o is not hole]
    return min(found, default=(math.inf, ""))


def check_anchors(at: At, boxes: Sequence[Box], wall: Rect) -> None:
    """Edge distance and spacing of every anchor that bears; of each box the worst speaks."""
    card, masonry, ledger = at.ledger.seats.anchor, at.wall.masonry, at.ledger
    base = next((b for b in card.bases if b.base == masonry), None) if card is not None else None
    if at.wall.surface != "masonry" or card is None or base is None:
        return
    bearing = [hole for box in boxes if box.screw_ratio is not None for hole in box.holes if hole.carries]
    for box in boxes:
        own = [hole for hole in bearing if hole.box == box.id]
        if not own:
            continue
        for rule, field, name, nearest in (
            (rules.far_from_edges, "edge_mm", "from an edge", [(*_edge(at, hole, wall), hole) for hole in own]),
            (rules.far_apart, "spacing_mm", "from the nearest", [(*_neighbour(hole, bearing), hole) for hole in own]),
        ):
            apart, what, hole = min(nearest, key=lambda found: found[0])
            if math.isinf(apart):
                continue
            key = f"wall.{box.id}.anchor_{field.removesuffix('_mm')}"
            figure = ledger.work(key, "c", f"Anchor of {box.id} {name}, at the least", apart, "mm", source="arith")
            least = ledger.stated(card, f"bases.{base.base}.{field}")
            at.ask(rule, rules.Near(box=box.id, hole=hole.id, what=what, apart=figure, least=least, anchor=card.title))


def _mass(at: At, box: Box) -> Figure:
    """All that stands there: of a stack each module, of a cabinet the modules inside it."""
    ledger, card = at.ledger, at.ledger.house.card_at(box.id)
    for bank in ledger.seats.banks:
        docked = card.kind == "inverter" and card.bank_internal and any(i.id == box.id for i in ledger.house.on_bank(bank.id))
        stacked = next((stack for stack in bank.thing.stacks() if any(unit.id == box.id for unit in stack)), None)
        if docked:
            inside = len(bank.thing.units) * ledger.read(bank.card, "body.mass_kg")
            return ledger.work(f"wall.{box.id}.mass_all", "m", f"{box.id} with its modules", box.mass + inside, "kg", source="arith")
        if stacked and bank.card.arrangement == "stack" and len(stacked) > 1:
            return ledger.work(f"wall.{box.id}.mass_all", "m", f"Stack of {box.id}", len(stacked) * box.mass, "kg", source="arith")
    return box.mass


def check_tipping(at: At, boxes: Sequence[Box]) -> None:
    """Everything tall that stands on the floor."""
    ledger = at.ledger
    for box in boxes:
        if box.rect.y > ON_FLOOR_MM or box.rect.h < TALL_MM:
            continue
        card = ledger.house.card_at(box.id)
        held = any(hole.hits for hole in box.holes)
        depth, tall = ledger.read(card, "body.depth_mm"), box.rect.h
        height = ledger.work(f"wall.{box.id}.tall", "h", f"Height of {box.id} as it stands", tall, "mm", source="arith")
        push = _mass(at, box) * GRAVITY * depth / 2 / height
        name, holds = f"Push at its top that tips {box.id}", "Weight at half the depth; it turns about its front edge."
        figure = ledger.work(f"wall.{box.id}.tips", "F", name, push, "N", source="physics", limits=holds)
        at.ask(rules.stays_up, rules.Tips(box=box.id, title=box.title, push=figure, least=ledger.keep(LEANED_ON), held=held))


def pilot_mm(at: At) -> Figure | None:
    """Diameter of the pilot hole for the thread of a lag screw, mm; None in masonry, where the anchor's own bit drills."""
    if at.wall.surface == "masonry":
        return None
    gravity, thick = at.decided("timber_gravity"), at.screw("diameter_mm")
    share = next(share for most, share in PILOT if gravity.value <= most)
    holds = f"{100 * share:.0f} % of the thread's diameter, for timber of this gravity."
    wide = share * thick.value
    sixty_fourths = Fraction(round(wide / MM_PER_INCH * 64), 64)
    label, name = f"{wide:.1f} mm, {sixty_fourths} in", "Pilot hole for the thread"
    return at.ledger.work(f"{at.key}.pilot", "d_p", name, share * thick, "mm", source="nds.12.1.4", label=label, limits=holds)

"""Where is each stud and each drill hole, and does the one meet the other?"""

from __future__ import annotations

from gumboot.core.card.parts import Body, Hole
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.wall.parts import DrillHole
from gumboot.core.rules import wall as rules

# Edge distance of a lag screw in its stud, in diameters.
EDGE_DIAMETERS = 1.5


def studs_of(ledger: Ledger, width_mm: float) -> tuple[float, ...]:
    """Middles of the studs from the datum, mm; none in masonry or while they are not measured."""
    if ledger.job.walls[0].surface == "masonry":
        return ()
    spacing, first = ledger.asked("walls.wall.stud_spacing_mm"), ledger.asked("walls.wall.stud_first_mm")
    if spacing is None or first is None:
        return ()
    count = int((width_mm - first.value) // spacing.value) + 1
    return tuple(first.value + k * spacing.value for k in range(max(0, count)))


def _edge_room_mm(ledger: Ledger) -> float:
    """How far off the stud's middle a screw still has its edge distance."""
    wall = ledger.job.walls[0]
    return wall.stud_width_mm / 2 - EDGE_DIAMETERS * wall.anchor.diameter_mm


def _along(ledger: Ledger, box: str, hole: Hole, axis: str, from_what: str) -> Figure:
    """A coordinate of a hole on the wall: of its box and within it."""
    corner = ledger.decided(f"walls.wall.placements.{box}.{axis}_mm")
    within = ledger.read(ledger.house.card_at(box), f"body.holes.{hole.id}.{axis}_mm")
    return ledger.work(f"wall.{box}.{hole.id}.{axis}", axis, f"Hole {hole.id} of {box}, from {from_what}", corner + within, "mm", "arith")


def _hole(ledger: Ledger, box: str, hole: Hole, studs: tuple[float, ...], room_mm: float) -> DrillHole:
    x, y = _along(ledger, box, hole, "x", "datum"), _along(ledger, box, hole, "y", "floor")
    nearest = min(studs, key=lambda s: abs(s - x.value), default=None)
    miss = abs(nearest - x.value) if nearest is not None else 0.0
    hits = ledger.job.walls[0].surface == "masonry" or (nearest is not None and miss <= room_mm + 1e-9)
    return DrillHole(hole.id, box, x, y, nearest, miss, hits, hole.carries)


def holes_of(ledger: Ledger, box: str, body: Body, studs: tuple[float, ...]) -> tuple[DrillHole, ...]:
    """Every hole of a box, and whether those that carry meet the studs."""
    room_mm = _edge_room_mm(ledger)
    holes = tuple(_hole(ledger, box, hole, studs, room_mm) for hole in body.holes)
    missed = [h for h in holes if h.carries and not h.hits] if studs else []
    worst = max(missed, key=lambda h: h.miss_mm, default=None)
    facts = rules.Missed(
        box=box,
        holes=[h.id for h in missed],
        worst=worst.x_mm if worst else None,
        off_mm=worst.miss_mm if worst else 0.0,
        room_mm=room_mm,
        side="left" if worst and worst.x_mm.value > (worst.stud_x_mm or 0) else "right",
    )
    ledger.ask(rules.hits_studs, facts)
    return holes

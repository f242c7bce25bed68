"""Where is each stud and each drill hole, and does the one meet the other?"""

from __future__ import annotations

from bisect import bisect_left
from typing import NamedTuple

from gumboot.core.card.boxes import ScrewCard
from gumboot.core.card.parts import Body, Hole
from gumboot.core.figure import Figure
from gumboot.core.job.model import Placement, Wall
from gumboot.core.plan.wall.parts import At, DrillHole
from gumboot.core.rules import wall as rules
from gumboot.core.seats import Enclosed

# Edge distance of a lag screw in its stud, in diameters.
EDGE_DIAMETERS = 1.5


def studs_of(at: At, width_mm: float) -> tuple[float, ...]:
    """Middles of the studs from the datum, mm; none in masonry or while they are not measured."""
    if at.wall.surface == "masonry":
        return ()
    spacing, first = at.asked("stud_spacing_mm"), at.asked("stud_first_mm")
    if spacing is None or first is None:
        return ()
    count = int((width_mm - first.value) // spacing.value) + 1
    return tuple(first.value + k * spacing.value for k in range(max(0, count)))


def edge_room_mm(wall: Wall, screw: ScrewCard | None) -> float:
    """How far off the stud's middle a screw still has its edge distance."""
    return wall.stud_width_mm / 2 - EDGE_DIAMETERS * (screw.diameter_mm if screw is not None else wall.anchor.diameter_mm)


class Hung(NamedTuple):
    """A box on a wall: its card, and where its lower left corner is."""

    at: At
    box: str
    card: Enclosed
    x: Figure
    y: Figure


def _along(hung: Hung, hole: str, axis: str, corner: Figure, from_what: str) -> Figure:
    """A coordinate of a hole on the wall: of its box and within it."""
    ledger, box = hung.at.ledger, hung.box
    within = ledger.read(hung.card, f"body.holes.{hole}.{axis}_mm")
    return ledger.work(f"wall.{box}.{hole}.{axis}", axis, f"Hole {hole} of {box}, from {from_what}", corner + within, "mm", source="arith")


def _hole(hung: Hung, hole: Hole, studs: tuple[float, ...], room_mm: float) -> DrillHole:
    at, box, name = hung.at, hung.box, hole.id
    x, y = _along(hung, name, "x", hung.x, "datum"), _along(hung, name, "y", hung.y, "floor")
    after = bisect_left(studs, x.value)
    nearest = min(studs[max(0, after - 1) : after + 1], key=lambda s: abs(s - x.value), default=None)
    miss = abs(nearest - x.value) if nearest is not None else 0.0
    hits = at.wall.surface == "masonry" or (nearest is not None and miss <= room_mm + 1e-9)
    return DrillHole(id=name, box=box, x_mm=x, y_mm=y, stud_x_mm=nearest, miss_mm=miss, hits=hits, carries=hole.carries)


def holes_of(at: At, placement: Placement, body: Body, studs: tuple[float, ...]) -> tuple[DrillHole, ...]:
    """Every hole of a box, and whether those that carry meet the studs."""
    room_mm, box = edge_room_mm(at.wall, at.ledger.seats.screw), placement.id
    holes: tuple[DrillHole, ...] = ()
    if body.holes:
        hung = Hung(at, box, at.ledger.house.card_at(box), at.placed(placement, "x_mm"), at.placed(placement, "y_mm"))
        holes = tuple([_hole(hung, hole, studs, room_mm) for hole in body.holes])
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
    at.ask(rules.hits_studs, facts)
    return holes

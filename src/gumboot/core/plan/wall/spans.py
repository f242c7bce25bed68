"""How far apart are the holes of a box: what a tape checks after they are marked, and whether they are square?"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from gumboot.core.expression import square_root
from gumboot.core.ledger import Ledger
from gumboot.core.plan.wall.parts import DrillHole, Span

# Of more holes than this the four at the corners are measured.
ALL_OF = 4


def corners(holes: Sequence[DrillHole]) -> list[DrillHole]:
    """The holes at the corners of all, in their order; all of them where they are few."""
    if len(holes) <= ALL_OF:
        return list(holes)
    picked = {
        max(range(len(holes)), key=lambda n, sx=sx, sy=sy: sx * holes[n].x_mm.value + sy * holes[n].y_mm.value)  # type: ignore[misc]
        for sx in (-1, 1)
        for sy in (-1, 1)
    }
    return [holes[n] for n in sorted(picked)]


def spans_of(ledger: Ledger, box: str, holes: Sequence[DrillHole]) -> tuple[Span, ...]:
    """Every distance between the corner holes of a box, by Pythagoras from their coordinates."""
    found = []
    for one, other in itertools.combinations(corners(holes), 2):
        level, plumb = one.y_mm.value == other.y_mm.value, one.x_mm.value == other.x_mm.value
        dx, dy = other.x_mm - one.x_mm, other.y_mm - one.y_mm
        far = square_root(dx**2 + dy**2)
        name = f"{one.id} to {other.id} of {box}"
        mm = ledger.work(f"wall.{box}.span.{one.id}.{other.id}", "d", name, far, "mm", source="arith")
        found.append(Span(first=one.id, second=other.id, mm=mm, is_diagonal=not (level or plumb)))
    return tuple(found)

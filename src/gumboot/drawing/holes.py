"""The holes of one box as they are marked: where the first is on the wall, how far each is from the next, and both diagonals."""

from __future__ import annotations

from gumboot.core.plan.wall import Box, DrillHole
from gumboot.drawing.show import tape
from gumboot.drawing.svg import Canvas

WIDE, ROOM, SIDE, TOP = 390.0, 126.0, 96.0, 24.0

Point = tuple[float, float]


def _cross(c: Canvas, x: float, y: float) -> None:
    c.circle(x, y, 5, "page", "ink", 1.6)
    c.line(x - 9, y, x + 9, y, "ink", 1)
    c.line(x, y - 9, x, y + 9, "ink", 1)


def first_of(box: Box) -> DrillHole:
    """The hole that is marked first: the highest, of those the one on the left."""
    return min(box.holes, key=lambda h: (-h.y_mm.value, h.x_mm.value))


def _apart(c: Canvas, ends: tuple[Point, Point], around: tuple[float, float, float, float], words: str) -> None:
    """The distance between two holes, drawn outside the box on the side that they are nearer to. ``around``: left, top, right, bottom."""
    (x1, y1), (x2, y2) = sorted(ends)
    left, top, right, bottom = around
    if abs(y1 - y2) < abs(x1 - x2):
        below = y1 > (top + bottom) / 2
        c.dimension(x1, bottom + 17 if below else top - 8, x2, bottom + 17 if below else top - 8, words)
    else:
        x = right + 18 if x1 > (left + right) / 2 else left - 10
        c.dimension(x, min(y1, y2), x, max(y1, y2), words)


def holes_canvas(box: Box, system: str) -> Canvas | None:
    """The holes of a box to scale; None for one without any."""
    if not box.holes:
        return None
    r = box.rect
    scale = min((WIDE - 2 * SIDE) / r.w, ROOM / r.h)
    wide, high = r.w * scale, r.h * scale
    left = (WIDE - wide) / 2
    at = {h.id: (left + (h.x_mm.value - r.x) * scale, TOP + (r.y + r.h - h.y_mm.value) * scale) for h in box.holes}
    diagonals = list(dict.fromkeys(tape(span.mm.value, system) for span in box.spans if span.is_diagonal))
    c = Canvas(f"holes-{box.id}", WIDE, TOP + high + (60 if diagonals else 44), f"Holes of {box.title}, to scale")
    c.rect(left, TOP, wide, high, "white", "pencil", 1.2)
    for span in box.spans:
        ends = at[span.first], at[span.second]
        if span.is_diagonal:
            c.line(*ends[0], *ends[1], "pencil", 0.8, "4 4")
        else:
            _apart(c, ends, (left, TOP, left + wide, TOP + high), tape(span.mm.value, system))
    for name, (x, y) in at.items():
        _cross(c, x, y)
        inward = -1 if x > left + wide / 2 else 1
        c.text(x + 11 * inward, y + 4, name, 11, "end" if inward < 0 else "start", bold=True)
    first, foot = first_of(box), TOP + high + 36
    told = f"{first.id}: {tape(first.x_mm.value, system)} from datum, {tape(first.y_mm.value, system)} from floor"
    c.text(WIDE / 2, foot, told, 13, "middle", bold=True)
    if diagonals:
        c.text(
            WIDE / 2,
            foot + 16,
            f"{'both diagonals' if len(diagonals) == 1 else 'diagonals'} {', '.join(diagonals)}",
            12,
            "middle",
            "pencil",
        )
    c.anchor(first.id, *at[first.id])
    return c

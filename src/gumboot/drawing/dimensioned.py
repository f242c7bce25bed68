"""A wall with the edges of every box told from datum and floor: what is looked up when something is in question."""

from __future__ import annotations

from gumboot.core.plan.wall import WallPlan
from gumboot.drawing.show import tape
from gumboot.drawing.svg import Canvas, text_width


def _staggered(values: list[float], scale: float, apart: float) -> list[int]:
    """On which row each value stands, so that none lies over its neighbour: 0 is nearest."""
    rows: list[float] = []
    found = []
    for value in values:
        row = next((n for n, last in enumerate(rows) if (value - last) * scale >= apart), len(rows))
        rows[row : row + 1] = [value]
        found.append(row)
    return found


def dimensioned(wall: WallPlan, system: str) -> Canvas:
    """A wall with each edge of each box told from datum and floor."""
    edges = sorted({v for box in wall.boxes for v in (box.rect.x, box.rect.x + box.rect.w)})
    heights = sorted({v for box in wall.boxes for v in (box.rect.y, box.rect.y + box.rect.h) if v > 0})
    words = {v: tape(v, system) for v in (*edges, *heights)}
    wide = max((text_width(w, 10, mono=True) for w in words.values()), default=40) + 8
    scale = 600 / wall.width_mm
    across, up = _staggered(edges, scale, wide), _staggered(heights, scale, 13)
    left, top = 20 + wide * (max(up, default=0) + 1), 16.0
    floor = top + wall.height_mm * scale
    high = floor + 22 + 14 * (max(across, default=0) + 1)
    c = Canvas(f"dimensioned-{wall.id}", left + 608, high, f"Boxes of {wall.title}, each edge from datum and floor")
    c.rect(left, top, wall.width_mm * scale, wall.height_mm * scale, "plaster", "rule", 1)
    for box in wall.boxes:
        r = box.rect
        c.rect(left + r.x * scale, floor - (r.y + r.h) * scale, r.w * scale, r.h * scale, "white", "ink", 1.6)
        x, y = left + (r.x + r.w / 2) * scale, floor - (r.y + r.h / 2) * scale
        if text_width(box.id, 11, bold=True) < r.w * scale:
            c.text(x, y + 4, box.id, 11, "middle", bold=True)
        else:
            c.text(x + 3, y, box.id, 9, "middle", bold=True, turn=-90)
    c.line(left, floor, left + 600, floor, "ink", 2)
    for value, row in zip(edges, across, strict=True):
        x, y = left + value * scale, floor + 14 + 14 * row
        top_edge = max(b.rect.y + b.rect.h for b in wall.boxes if value in (b.rect.x, b.rect.x + b.rect.w))
        c.line(x, floor - top_edge * scale, x, y + 2, "pencil", 0.6, "3 3")
        c.text(x, y + 12, words[value], 10, "middle", mono=True)
    for value, row in zip(heights, up, strict=True):
        y, x = floor - value * scale, left - 8 - wide * row
        first = min(b.rect.x for b in wall.boxes if value in (b.rect.y, b.rect.y + b.rect.h))
        c.line(x, y, left + first * scale, y, "pencil", 0.6, "3 3")
        c.text(x - 2, y + 3.5, words[value], 10, "end", mono=True)
    return c

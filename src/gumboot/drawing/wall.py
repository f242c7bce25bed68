"""Each elevation to scale: studs, board, boxes, clearances, holes with coordinates."""

from __future__ import annotations

import itertools

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import Box, WallPlan
from gumboot.drawing.show import in_system, quantity
from gumboot.drawing.svg import Axis, Canvas, text_width

# A name beside a small box: left, right and its line.
Span = tuple[float, float, float]
LINE = 13.0


def _length(mm: float, system: str) -> str:
    return quantity(mm, "mm", system)


def elevation(plan: Plan, system: str, wall_id: str = "") -> Markup:
    """Every measured wall seen from the front, or one of them."""
    return Markup("").join(canvas(plan, wall, system).render() for wall in plan.walls if wall_id in ("", wall.id))


def canvas(plan: Plan, wall: WallPlan, system: str) -> Canvas:
    """One wall, one scale in both directions."""
    job = next(w for w in plan.job.walls if w.id == wall.id)
    scale = 676 / wall.width_mm
    left, top = 46.0, 40.0
    floor = top + wall.height_mm * scale
    c = Canvas("wall" if wall is plan.walls[0] else f"wall-{wall.id}", 728, floor + 34, f"Elevation of {job.title}, to scale")
    X: Axis = lambda mm: left + mm * scale
    Y: Axis = lambda mm: floor - mm * scale
    c.rect(left, top, wall.width_mm * scale, wall.height_mm * scale, "plaster", "rule", 1)
    if job.surface == "timber cladding":
        for k in range(1, int(wall.height_mm // 150)):
            c.line(left, Y(k * 150), X(wall.width_mm), Y(k * 150), "rule", 0.7)
    for stud in wall.studs_mm:
        c.rect(X(stud - job.stud_width_mm / 2), top, job.stud_width_mm * scale, wall.height_mm * scale, "timber", None)
    if job.board:
        b = job.board
        c.rect(X(b.x_mm), Y(b.y_mm + b.height_mm), b.width_mm * scale, b.height_mm * scale, "board", "pencil", 1.2)
        c.text(
            X(b.x_mm) + 4,
            Y(b.y_mm + b.height_mm) + 13,
            f"{b.material} {_length(b.width_mm, system)} × {_length(b.height_mm, system)}",
            11,
            ink="pencil",
            halo="board",
        )
    for stud in wall.studs_mm:
        for edge in (-1, 1):
            c.line(X(stud + edge * job.stud_width_mm / 2), top, X(stud + edge * job.stud_width_mm / 2), floor, "ochre", 0.7, "5 4")
    for o in job.openings:
        c.rect(X(o.x_mm), Y(o.y_mm + o.height_mm), o.width_mm * scale, o.height_mm * scale, "page", "ink", 1.6)
        c.text(X(o.x_mm + o.width_mm / 2), Y(o.y_mm + o.height_mm / 2), o.title, 11, "middle", "pencil")
    held = {f.where.split(" and ")[0] for f in plan.at("wall") if f.level == "stop"}
    for box in wall.boxes:
        r = box.clear
        c.rect(X(r.x), Y(r.y + r.h), r.w * scale, r.h * scale, None, "green", 1, "4 3")
    taken: list[Span] = []
    for box in wall.boxes:
        _box(c, box, X(box.rect.x), Y(box.rect.y + box.rect.h), scale, system, box.id in held, taken)
    for box in wall.boxes:
        for hole in box.holes:
            _hole(c, hole.id, hole.x_mm.key, X(hole.x_mm.value), Y(hole.y_mm.value), hole.hits or wall.studs_mm == ())
    for room in wall.growth:
        r = room.rect
        c.rect(X(r.x), Y(r.y + r.h), r.w * scale, r.h * scale, None, "pencil", 1, "2 3")
        words = "room for one more" if r.w * scale > text_width("room for one more", 10) else "room"
        c.text(X(r.x + r.w / 2), Y(r.y + r.h / 2) + 4, words, 10, "middle", "pencil", halo="board")
    c.line(left - 20, floor, 728, floor, "ink", 2)
    for k in range(76):
        c.line(left - 18 + k * 9.4, floor + 8, left - 12 + k * 9.4, floor, "pencil", 0.8)
    _dimensions(c, plan, wall, X, Y, floor, top, system)
    return c


def _free_line(middle: float, y: float, width: float, taken: list[Span]) -> float:
    """The lowest line at or above ``y`` on which a name of this width meets no other, which it then takes."""
    left, right = middle - width / 2 - 4, middle + width / 2 + 4
    while any(a < right and left < b and abs(y - other) < LINE for a, b, other in taken):
        y -= LINE
    taken.append((left, right, y))
    return y


def _box(c: Canvas, box: Box, x: float, y: float, scale: float, system: str, held: bool, taken: list[Span]) -> None:
    w, h = box.rect.w * scale, box.rect.h * scale
    c.anchor(box.id, x + w / 2, y + h / 2)
    c.rect(x, y, w, h, "white", "oxide" if held else "ink", 2.4 if held else 1.8)
    name = {"inverter": "Inverter", "sub-board": "Backed-up board", "switch-fuse": "Switch-fuse", "busbar": "Busbar box"}.get(
        box.id, box.id
    )
    if w < 50 or h < 45:
        with c.opens(box.mass.key, f"{name}: {quantity(box.mass.value, 'kg', system)}"):
            c.text(
                x + w / 2, _free_line(x + w / 2, y - 5, text_width(name, 11, bold=True), taken), name, 11, "middle", bold=True, halo="page"
            )
        return
    lines = [name]
    for i, word in enumerate(lines):
        c.text(x + w / 2, y + h / 2 - 2 + 12 * i, word, 12, "middle", bold=True)
    with c.opens(box.mass.key, f"{name}: {quantity(box.mass.value, 'kg', system)}"):
        c.text(x + w / 2, y + h / 2 + 12 * len(lines), quantity(box.mass.value, "kg", system), 11, "middle", "pencil", mono=True)
    if box.screen is not None and box.body.screen_up_mm is not None:
        sy = y + h - box.body.screen_up_mm * scale
        with c.opens(box.screen.key, f"Screen {quantity(box.screen.value, 'mm', system)} above floor"):
            c.rect(x + w / 2 - 15, sy - 7, 30, 14, "page", "ink", 1)
            if w > 80:
                c.text(x + w + 3, sy + 3, "screen", 10, ink="pencil")


def _hole(c: Canvas, name: str, key: str, x: float, y: float, good: bool) -> None:
    ink = "ink" if good else "oxide"
    with c.opens(key, f"Hole {name}"):
        c.circle(x, y, 3.6, "page", ink, 1.5)
        c.line(x - 6.5, y, x + 6.5, y, ink, 1)
        c.line(x, y - 6.5, x, y + 6.5, ink, 1)


def _across(c: Canvas, x1: float, x2: float, y: float, words: str, size: float = 11) -> None:
    """A dimension along the wall; one too short for its words has its line alone, and the drill list says the rest."""
    c.dimension(x1, y, x2, y, words if text_width(words, size, mono=True) <= x2 - x1 + 4 else "", size=size)


def _dimensions(c: Canvas, plan: Plan, wall: WallPlan, X: Axis, Y: Axis, floor: float, top: float, system: str) -> None:
    inverter = next((b for b in wall.boxes if b.is_inverter), None)
    if inverter is None or not inverter.holes:
        return
    first = inverter.holes[0]
    x = X(first.x_mm.value)
    digits, unit = in_system(first.x_mm.value, "mm", system)
    words = f"{digits} {unit} datum to {first.id}"
    _across(c, X(0), x, top - 16, words if text_width(words, 11, mono=True) < x - X(0) else f"{digits} {unit}")
    if len(inverter.holes) > 1:
        second = inverter.holes[1]
        _across(c, x, X(second.x_mm.value), top - 16, _length(second.x_mm.value - first.x_mm.value, system))
    c.dimension(30, Y(first.y_mm.value), 30, floor, f"{_length(first.y_mm.value, system)} floor to {first.id}")
    units = {u.id for bank in plan.job.banks for u in bank.units}
    batteries = sorted((b for b in wall.boxes if b.id in units), key=lambda b: b.rect.x)
    for a, b in itertools.pairwise(batteries):
        y = Y(a.rect.y + a.rect.h * 0.42)
        if b.rect.x > a.rect.x + a.rect.w:
            _across(c, X(a.rect.x + a.rect.w), X(b.rect.x), y, _length(b.rect.x - a.rect.x - a.rect.w, system), 9)

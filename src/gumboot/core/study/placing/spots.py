"""Which spots on a wall are worth a look for a box: where its fixings meet the studs, its screen is read, and it stands beside the others."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

from gumboot.core.job.wall import Wall
from gumboot.core.plan.wall import Rect
from gumboot.core.plan.wall.holes import edge_room_mm
from gumboot.core.plan.wall.stands import EYE_HIGH, EYE_LOW, clearance_of, outline
from gumboot.core.study.placing.parts import Piece, Spot

# A tape is set to this in masonry; heights are tried this far apart.
STEP_MM, RISE_MM = 50.0, 100.0
HAIR_MM = 1e-6


def all_hit(wall: Wall, piece: Piece, x: float, studs: Sequence[float]) -> bool:
    """Whether every carrying hole has a stud with its edge distance."""
    room = edge_room_mm(wall, piece.screw) + HAIR_MM
    return all(any(abs(x + hole.x_mm - stud) <= room for stud in studs) for hole in piece.body.holes if hole.carries)


def _across(wall: Wall, piece: Piece, studs: Sequence[float], beside: Iterable[Rect]) -> list[float]:
    """Left edges: those at which its holes meet the studs, else a grid and what is flush with its neighbours."""
    width = wall.width_mm or 0.0
    carrying = [hole for hole in piece.body.holes if hole.carries]
    if studs and carrying and not piece.on_floor:
        tried = {stud - hole.x_mm for stud in studs for hole in carrying}
        return sorted(x for x in tried if all_hit(wall, piece, x, studs))
    tried = {n * STEP_MM for n in range(int((width - piece.width_mm) // STEP_MM) + 1)}
    for other in beside:
        tried |= {other.x + other.w, other.x - piece.width_mm, other.x}
    found = sorted(x for x in tried if x >= 0)
    return [x for x in found if all_hit(wall, piece, x, studs)] if studs and carrying else found


def _up(wall: Wall, piece: Piece, beside: Iterable[Rect]) -> list[float]:
    """Lower edges: the floor, the heights at which its screen is read, or in line with its neighbours."""
    if piece.on_floor:
        return [0.0]
    height, screen = wall.height_mm or 0.0, piece.body.screen_up_mm
    most = min(height - piece.height_mm, piece.high_mm)
    if screen is not None:
        low, high = EYE_LOW.value - screen, EYE_HIGH.value - screen
        tried = {low, high, (low + high) / 2, *(low + n * STEP_MM for n in range(int((high - low) // STEP_MM) + 1))}
    else:
        first = max(piece.low_mm, piece.body.clear_below_mm)
        tried = {first + n * RISE_MM for n in range(int(max(0.0, most - first) // RISE_MM) + 1)}
        for other in beside:
            tried |= {other.y, other.y + other.h - piece.height_mm, other.y + (other.h - piece.height_mm) / 2}
    return sorted({round(y) for y in tried if max(0.0, piece.low_mm) <= y <= most})


def is_free(wall: Wall, piece: Piece, spot: Spot, taken: Mapping[str, tuple[Rect, Rect]]) -> bool:
    """Whether a box there meets nothing, keeps its own clearance and stands in nobody else's. ``taken`` are outline and clearance of the rest."""
    rect = piece.at(spot.x_mm, spot.y_mm)
    free = clearance_of(rect, piece.body)
    if not free.inside(Rect(0, 0, wall.width_mm or 0.0, wall.height_mm or 0.0)):
        return False
    if any(free.meets(outline(opening)) for opening in wall.openings):
        return False
    return not any(free.meets(other) or rect.meets(around) for other, around in taken.values())


def _kept(rect: Rect, around: Rect, piece: Piece) -> Rect:
    """What stands there, as wide as a box beside it stays away: by the wider of both clearances."""
    left, right = max(rect.x - around.x, piece.body.clear_right_mm), max(around.x + around.w - rect.x - rect.w, piece.body.clear_left_mm)
    return Rect(rect.x - left, rect.y, rect.w + left + right, rect.h)


def spots_of(wall: Wall, piece: Piece, studs: Sequence[float], taken: Mapping[str, tuple[Rect, Rect]], *, in_row: bool) -> Iterator[Spot]:
    """Every spot on a wall worth a look, free or not. ``in_row``: units of a bank stand in the row of those that stand already."""
    row = [taken[name][0].y for name in piece.kin if in_row and name in taken]
    ups = list(dict.fromkeys(row)) or _up(wall, piece, [rect for rect, _ in taken.values()])
    for x in _across(wall, piece, studs, [_kept(rect, around, piece) for rect, around in taken.values()]):
        for y in ups:
            yield Spot(wall.id, round(x, 1), y)

"""How many modules does a roof face hold, and where does each lie? Whole modules between setbacks and clear of obstacles."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from gumboot.core.card import ModuleCard
from gumboot.core.job.model import Face


@dataclass(frozen=True)
class Spot:
    """One place of a module, mm from the face's left edge and from the eaves; row 0 is the lowest."""

    x: float
    y: float
    w: float
    h: float
    row: int


@dataclass(frozen=True)
class Area:
    """A face's outline and what is kept free: corner points and rectangles in mm from the left edge and the eaves."""

    width: float
    ridge: float
    height: float
    blocked: tuple[tuple[float, float, float, float], ...]


def module_size(face: Face, module: ModuleCard) -> tuple[float, float]:
    """Width and height of a module as it lies on the face, mm."""
    return (module.width_mm, module.height_mm) if face.orientation == "portrait" else (module.height_mm, module.width_mm)


def area_of(face: Face, module: ModuleCard) -> Area:
    """The face's outline; without a width and a height, one that just holds its columns and rows."""
    return _area(face, *module_size(face, module))


def _area(face: Face, w: float, h: float) -> Area:
    if face.width_mm is not None and face.height_mm is not None:
        blocked = tuple(
            (o.x_mm - o.clear_mm, o.y_mm - o.clear_mm, o.width_mm + 2 * o.clear_mm, o.height_mm + 2 * o.clear_mm) for o in face.obstacles
        )
        return Area(face.width_mm, face.width_mm if face.ridge_mm is None else face.ridge_mm, face.height_mm, blocked)
    width = face.columns * (w + face.gap_mm) - face.gap_mm
    height = face.rows * (h + face.gap_mm) - face.gap_mm
    return Area(width, width, height, ())


def _edges(area: Area, y: float, top: float, side: float) -> tuple[float, float]:
    """Left and right bound of a strip of the face: a hip leans in, so the narrower end counts."""
    inset = max((area.width - area.ridge) / 2 * min(1.0, max(0.0, v / area.height)) for v in (y, top))
    return inset + side, area.width - inset - side


def _hit(area: Area, x: float, y: float, w: float, h: float) -> float | None:
    """Right edge of an obstacle that a rectangle meets, or None."""
    rights = [
        ox + ow for ox, oy, ow, oh in area.blocked if x < ox + ow - 1e-6 and ox < x + w - 1e-6 and y < oy + oh - 1e-6 and oy < y + h - 1e-6
    ]
    return max(rights) if rights else None


def _row(area: Area, y: float, w: float, h: float, gap: float, *, within: tuple[float, float]) -> list[float]:
    """Left edges of the modules of one row, packed from the left around obstacles: the most that a row can hold."""
    (x, right), xs = within, list[float]()
    while x + w <= right + 1e-6:
        beyond = _hit(area, x, y, w, h)
        if beyond is not None:
            x = beyond
            continue
        xs.append(x)
        x += w + gap
    return xs


def _grid(area: Area, ys: list[float], w: float, h: float, gap: float, *, side: float, start: float) -> list[tuple[float, float, int]]:
    found = []
    for row, y in enumerate(ys):
        left, right = _edges(area, y, y + h, side)
        k = 0 if left <= start else int(-(-(left - start - 1e-6) // (w + gap)))
        x = start + k * (w + gap)
        while x + w <= right + 1e-6:
            if _hit(area, x, y, w, h) is None:
                found.append((x, y, row))
            x += w + gap
    return found


def spots(face: Face, module: ModuleCard) -> tuple[Spot, ...]:
    """Every place of the face, row by row from the eaves.

    Rows begin at the eaves' setback or end at the ridge's; columns in line win over staggered rows of no more modules.
    The most places among these candidates are given; it is a packing by rows, not a proof that no other pattern holds more.
    """
    return _packed(face, *module_size(face, module))


@lru_cache(maxsize=256)
def _packed(face: Face, w: float, h: float) -> tuple[Spot, ...]:
    area, gap = _area(face, w, h), face.gap_mm
    if face.width_mm is None or face.height_mm is None:
        return tuple(Spot(c * (w + gap), r * (h + gap), w, h, r) for r in range(face.rows) for c in range(face.columns))
    low, high = face.setback_eaves_mm, area.height - face.setback_ridge_mm
    count = int((high - low + gap + 1e-6) // (h + gap)) if high - low + 1e-6 >= h else 0
    if count <= 0:
        return ()
    span = count * (h + gap) - gap
    best: list[tuple[float, float, int]] = []
    for bottom in dict.fromkeys((low, (low + high - span) / 2, high - span)):
        ys = [bottom + r * (h + gap) for r in range(count)]
        left, right = _edges(area, ys[0], ys[0] + h, face.setback_side_mm)
        fit = int((right - left + gap + 1e-6) // (w + gap))
        centred = left + max(0.0, (right - left - fit * (w + gap) + gap) / 2)
        starts = dict.fromkeys((centred, left, *(ox + ow for ox, _, ow, _ in area.blocked if left <= ox + ow < right)))
        aligned = max(
            (_grid(area, ys, w, h, gap, side=face.setback_side_mm, start=s % (w + gap) + left - left % (w + gap)) for s in starts), key=len
        )
        packed = [
            (x, y, r) for r, y in enumerate(ys) for x in _row(area, y, w, h, gap, within=_edges(area, y, y + h, face.setback_side_mm))
        ]
        for candidate in (aligned, packed):
            if len(candidate) > len(best):
                best = candidate
    return tuple(Spot(x, y, w, h, row) for x, y, row in best)


def places(face: Face, module: ModuleCard | None) -> int:
    """How many modules the face holds."""
    return len(spots(face, module)) if module is not None else face.columns * face.rows

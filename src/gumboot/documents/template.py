"""The drill template of a box at true size: tiles of paper that are laid together, and an exchange file with layers by meaning."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from html import escape

import ezdxf.units
from ezdxf.filemanagement import new
from ezdxf.layouts.layout import Modelspace
from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import Box
from gumboot.drawing import show

# Paper by the units of a site: width and height in mm; a printer leaves this edge white.
PAPERS = {"SI": ("A4", 210.0, 297.0), "US": ("letter", 215.9, 279.4)}
EDGE_MM, OVERLAP_MM, AROUND_MM = 10.0, 10.0, 20.0
CROSS_MM, RULE_MM = 8.0, 100.0
MM_PT = 72 / 25.4


@dataclass(frozen=True, slots=True)
class Hole:
    """A hole from the box's lower left corner, mm, and its diameter."""

    id: str
    x: float
    y: float
    wide: float


@dataclass(frozen=True, slots=True)
class Template:
    """A box as it is drilled: its outline, its holes, and where its lower left corner is on the wall."""

    box: str
    title: str
    width: float
    height: float
    holes: tuple[Hole, ...]
    from_datum: float
    from_floor: float
    bit: str


def template_of(plan: Plan, box_id: str) -> Template | None:
    """The template of a box; None for one that hangs nowhere, or on no holes."""
    found = next(((wall, box) for wall in plan.walls for box in wall.boxes if box.id == box_id and box.holes), None)
    if found is None:
        return None
    wall, box = found
    wide, bit = 5.0, "mark only"
    own = next(each for each in plan.job.walls if each.id == wall.id)
    anchor = plan.seats.anchor
    if own.surface == "masonry" and anchor is not None:
        wide, bit = anchor.hole_mm, f"{anchor.hole_mm:g} mm bit, {anchor.hole_depth_mm:g} mm deep"
    elif wall.pilot is not None:
        wide, bit = wall.pilot.value, f"pilot {wall.pilot.label or f'{wall.pilot.value:.1f} mm'}"
    return _made(box, wide, bit)


def _made(box: Box, wide: float, bit: str) -> Template:
    holes = tuple(Hole(h.id, h.x_mm.value - box.rect.x, h.y_mm.value - box.rect.y, wide) for h in box.holes)
    return Template(box.id, box.title, box.rect.w, box.rect.h, holes, box.rect.x, box.rect.y, bit)


# --- as a file of exchange ---

LAYERS = {"OUTLINE": 7, "HOLES": 1, "CENTRES": 8, "DATUM": 5, "DIMENSIONS": 152, "TEXT": 7}


def _dimension(space: Modelspace, base: tuple[float, float], ends: tuple[tuple[float, float], tuple[float, float]], angle: float) -> None:
    space.add_linear_dim(base=base, p1=ends[0], p2=ends[1], angle=angle, dxfattribs={"layer": "DIMENSIONS"}).render()


def template_dxf(t: Template) -> bytes:
    """The template as DXF of 2010, one unit a millimetre: outline, a block for each hole, centres, datum, dimensions."""
    document = new("R2010", units=ezdxf.units.MM, setup=True)
    for name, colour in LAYERS.items():
        document.layers.add(name, color=colour)
    block = document.blocks.new("HOLE")
    block.add_circle((0, 0), 0.5, dxfattribs={"layer": "HOLES"})
    for dx, dy in ((1.2, 0), (0, 1.2)):
        block.add_line((-dx, -dy), (dx, dy), dxfattribs={"layer": "CENTRES"})
    space = document.modelspace()
    corners = [(0, 0), (t.width, 0), (t.width, t.height), (0, t.height)]
    space.add_lwpolyline(corners, close=True, dxfattribs={"layer": "OUTLINE"})
    for hole in t.holes:
        space.add_blockref("HOLE", (hole.x, hole.y), dxfattribs={"layer": "HOLES", "xscale": hole.wide, "yscale": hole.wide})
        space.add_text(hole.id, height=6, dxfattribs={"layer": "TEXT"}).set_placement((hole.x + hole.wide, hole.y + hole.wide))
    first = min(t.holes, key=lambda h: (h.x, h.y))
    for n, hole in enumerate(h for h in t.holes if h is not first):
        if hole.x != first.x:
            _dimension(space, (0, -20 - 14 * n), ((first.x, first.y), (hole.x, hole.y)), 0)
        if hole.y != first.y:
            _dimension(space, (-20 - 14 * n, 0), ((first.x, first.y), (hole.x, hole.y)), 90)
    level = max(h.y for h in t.holes)
    space.add_line((-AROUND_MM, level), (t.width + AROUND_MM, level), dxfattribs={"layer": "DATUM"})
    told = f"{t.box}: lower left corner {t.from_datum:.0f} mm from datum, {t.from_floor:.0f} mm from floor; {t.bit}"
    space.add_text(told, height=8, dxfattribs={"layer": "TEXT"}).set_placement((0, t.height + 12))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


# --- as paper ---


def tiles_of(t: Template, system: str) -> list[tuple[str, float, float, float, float]]:
    """The tiles of paper, from the lower left: a name such as B2, and left, lower edge, width and height in mm of what each shows."""
    _, wide, high = PAPERS[system]
    w, h = wide - 2 * EDGE_MM, high - 2 * EDGE_MM
    across = max(1, math.ceil((t.width + 2 * AROUND_MM - OVERLAP_MM) / (w - OVERLAP_MM)))
    up = max(1, math.ceil((t.height + 2 * AROUND_MM - OVERLAP_MM) / (h - OVERLAP_MM)))
    return [
        (f"{'ABCDEFGHIJ'[column]}{row + 1}", -AROUND_MM + column * (w - OVERLAP_MM), -AROUND_MM + row * (h - OVERLAP_MM), w, h)
        for row in range(up)
        for column in range(across)
    ]


def _n(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


def _line(x1: float, y1: float, x2: float, y2: float, width: float = 0.3, dash: str = "") -> str:
    more = f' stroke-dasharray="{dash}"' if dash else ""
    return f'<line x1="{_n(x1)}" y1="{_n(y1)}" x2="{_n(x2)}" y2="{_n(y2)}" stroke="#24221d" stroke-width="{_n(width)}"{more}/>'


def _words(x: float, y: float, words: str, size: float = 4, anchor: str = "start") -> str:
    family = 'font-family="Atkinson Hyperlegible Next"'
    return f'<text x="{_n(x)}" y="{_n(y)}" font-size="{_n(size)}" text-anchor="{anchor}" {family}>{escape(words)}</text>'


def _hole(hole: Hole, top: float, system: str) -> str:
    x, y = hole.x, top - hole.y
    cross = _line(x - CROSS_MM, y, x + CROSS_MM, y, 0.2) + _line(x, y - CROSS_MM, x, y + CROSS_MM, 0.2)
    ring = f'<circle cx="{_n(x)}" cy="{_n(y)}" r="{_n(hole.wide / 2)}" fill="none" stroke="#24221d" stroke-width="0.3"/>'
    told = f"{hole.id} · {show.tape(hole.x, system)} / {show.tape(hole.y, system)}"
    return f"{cross}{ring}{_words(x + 3, y - 3, told)}"


def tile_svg(t: Template, tile: tuple[str, float, float, float, float], system: str) -> Markup:
    """What one tile of paper shows, a unit a millimetre; drawn whole, and cut at its edges by the window through which it is seen."""
    name, left, low, w, h = tile
    # Paper counts downward from its upper edge.
    top = t.height
    y0 = top - (low + h)
    parts = [f'<rect x="0" y="0" width="{_n(t.width)}" height="{_n(t.height)}" fill="none" stroke="#24221d" stroke-width="0.5"/>']
    level = max(hole.y for hole in t.holes)
    parts.append(_line(-AROUND_MM, top - level, t.width + AROUND_MM, top - level, 0.3, "6 3"))
    parts += [_hole(hole, top, system) for hole in t.holes]
    # Where the next sheet is laid on: its edge lies on these lines.
    parts.append(_line(left + w - OVERLAP_MM, y0, left + w - OVERLAP_MM, y0 + h, 0.2, "1 2"))
    parts.append(_line(left, y0 + OVERLAP_MM, left + w, y0 + OVERLAP_MM, 0.2, "1 2"))
    foot = y0 + h - 6
    parts.append(_line(left + 6, foot, left + 6 + RULE_MM, foot, 0.5))
    parts += [_line(left + 6 + at, foot - 3, left + 6 + at, foot + 3, 0.5) for at in (0, RULE_MM)]
    parts.append(
        _words(
            left + 8,
            foot - 4,
            f"{name} · {t.box}, {t.title} · this line is {RULE_MM:g} mm ({show.tape(RULE_MM, 'US')}) or the print is not true",
        )
    )
    window = f'viewBox="{_n(left)} {_n(y0)} {_n(w)} {_n(h)}"'
    return Markup(  # noqa: S704 - every text that enters was escaped above
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_n(w)}mm" height="{_n(h)}mm" {window} overflow="hidden">{"".join(parts)}</svg>'
    )


def template_html(t: Template, system: str, fonts: str) -> str:
    """All tiles, a sheet each, as a page for printing."""
    _, wide, high = PAPERS[system]
    faces = "".join(
        f'@font-face {{ font-family: "Atkinson Hyperlegible Next"; src: url("{fonts}/atkinson-hyperlegible-next-latin-{weight}-normal.woff2"); font-weight: {weight}; }}'
        for weight in (400, 700)
    )
    page = f"@page {{ size: {_n(wide)}mm {_n(high)}mm; margin: {EDGE_MM:g}mm; }} body {{ margin: 0; }}"
    style = f"{faces}{page} div {{ break-after: page; line-height: 0; }} div:last-child {{ break-after: auto; }} svg {{ display: block; }}"
    sheets = "".join(f"<div>{tile_svg(t, tile, system)}</div>" for tile in tiles_of(t, system))
    return f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Template {escape(t.box)}</title><style>{style}</style></head><body>{sheets}</body></html>'

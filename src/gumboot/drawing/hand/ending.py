"""The end of a conductor as it must be prepared: shown at true size, the part itself can be laid on the glass."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import pi, sqrt

from gumboot.core.plan.terminations import Termination
from gumboot.core.rulebook.north_american.conductors import COPPER
from gumboot.drawing.svg import Canvas

# Ten units of the drawing are a millimetre.
UNIT = 10.0
# What is shown of the insulation, of a lug beyond its barrel, and the room above for the measure.
JACKET_MM, ABOVE_MM, END_MM = 6.0, 4.6, 0.5
# How much of a stranded conductor's round is copper, and how thick its insulation is: common practice, for the picture only.
FILL, SHEATH_MM = 0.72, 1.1
# The palm of a lug is about so much wider than the hole in it: common practice, for the picture only.
PALM, HOLE = 2.3, 1.06


@dataclass(frozen=True, slots=True)
class Ending:
    """The picture, and how long and high it is in millimetres."""

    canvas: Canvas
    width_mm: float
    height_mm: float


def copper_mm(size: str) -> float:
    """About how thick a stranded copper conductor of a trade size is, in mm; 4 mm where the size is none that is known."""
    area = float(size.removesuffix(" mm2")) if size.endswith("mm2") else COPPER[size].area_mm2 if size in COPPER else 9.0
    return sqrt(4 * area / (pi * FILL))


def _ink(colour: str) -> str:
    return f"pigment-{'green' if colour == 'green-yellow' else colour.replace(' ', '-')}"


class _Pen:
    """Draws in millimetres about an axis."""

    def __init__(self, canvas: Canvas, axis_mm: float) -> None:
        self.c, self.axis = canvas, axis_mm

    def rect(self, x: float, half: float, width: float, fill: str | None, stroke: str | None = "ink", line: float = 0.35) -> None:
        self.c.rect(x * UNIT, (self.axis - half) * UNIT, width * UNIT, 2 * half * UNIT, fill, stroke, line * UNIT)

    def line(self, x1: float, y1: float, x2: float, y2: float, ink: str, width: float) -> None:
        self.c.line(x1 * UNIT, (self.axis + y1) * UNIT, x2 * UNIT, (self.axis + y2) * UNIT, ink, width * UNIT)

    def circle(self, x: float, r: float, fill: str, stroke: str = "ink") -> None:
        self.c.circle(x * UNIT, self.axis * UNIT, r * UNIT, fill, stroke, 0.35 * UNIT)


def _strands(pen: _Pen, x: float, half: float, length: float, *, fine: bool) -> None:
    pen.rect(x, half, length, "copper")
    count = 9 if fine else 4
    for k in range(1, count):
        y = -half + 2 * half * k / count
        pen.line(x, y, x + length, y, "ink", 0.12)


def _lug(pen: _Pen, x: float, half: float, strip: float, hole: float) -> float:
    """Barrel cut open over the strip, and the palm with its hole. Returns where it ends."""
    outer, palm = half * 1.35 + 0.4, max(hole * PALM / 2, half)
    for side in (-1, 1):
        y = pen.axis + side * (half + outer) / 2
        pen.c.rect(x * UNIT, (y - (outer - half) / 2) * UNIT, strip * UNIT, (outer - half) * UNIT, "tin", "ink", 0.3 * UNIT)
    for at in (0.3, 0.7):
        pen.line(x + strip * at, -outer, x + strip * at, outer, "ink", 0.5)
    end = x + strip + 2 * palm + 2
    pen.rect(x + strip, palm, end - x - strip, "tin")
    pen.circle(end - palm, hole * HOLE / 2, "page")
    return end


def ending_of(term: Termination) -> Ending:
    """The prepared end of a landing's conductor."""
    strip, copper = term.terminal.strip_mm, copper_mm(term.size)
    half, outer = copper / 2, copper / 2 + SHEATH_MM
    hole = float(found[1]) if (found := re.match(r"M(\d+)", term.terminal.lug_hole)) else 0.0
    tallest = max(outer, hole * PALM / 2, half * 1.35 + 0.4) + 0.6
    height = ABOVE_MM + 2 * tallest
    canvas = Canvas(f"end-{term.id}", UNIT, height * UNIT, f"The prepared end: strip {strip:g} mm")
    pen, start = _Pen(canvas, ABOVE_MM + tallest), JACKET_MM
    _strands(pen, start, half, strip, fine=term.wire_class == "fine strand")
    pen.rect(-1.0, outer, start + 1.0, _ink(term.colour))
    if term.colour == "green-yellow":
        pen.line(0, 0, start - 0.2, 0, "ochre", outer * 0.7)
    end = start + strip
    if term.terminal.end == "lug":
        end = _lug(pen, start, half, strip, hole)
    elif term.terminal.end == "ferrule":
        pen.rect(start, half + 0.35, strip, "tin")
        pen.rect(start - 2.5, outer + 0.3, 2.5, "plaster")
    _measure(canvas, start, strip)
    canvas.width = (end + END_MM) * UNIT
    return Ending(canvas, end + END_MM, height)


def _measure(canvas: Canvas, start: float, strip: float) -> None:
    """The dimension line over the strip, a tick each millimetre."""
    y = (ABOVE_MM - 0.9) * UNIT
    canvas.line(start * UNIT, y, (start + strip) * UNIT, y, "blue", 2.5)
    for k in range(int(strip) + 1):
        tall = 4.2 if k % 10 == 0 else 3.0 if k % 5 == 0 else 1.6
        canvas.line((start + k) * UNIT, y, (start + k) * UNIT, y - tall * UNIT / 1.5, "blue", 2.0)
    for x in (start, start + strip):
        canvas.line(x * UNIT, y - 3.2 * UNIT, x * UNIT, y + 1.6 * UNIT, "blue", 2.5)

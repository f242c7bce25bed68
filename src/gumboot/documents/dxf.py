"""A drawing as DXF: the same shapes that the page shows, in mm on paper, a layer for each ink."""

from __future__ import annotations

import io

import ezdxf.units
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new
from ezdxf.layouts.layout import Modelspace

from gumboot.drawing.svg import Canvas, Shape

# Half a mm of paper for each drawing unit: the widest drawing fits an A3 sheet.
MM = 0.5
ALIGN = {"start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "end": TextEntityAlignment.RIGHT}
# Nearest of the numbered colours to each ink.
COLOUR = {
    "green": 96,
    "wire-green": 94,
    "ochre": 42,
    "oxide": 12,
    "wire-red": 1,
    "blue": 152,
    "wire-blue": 5,
    "wire-dark-blue": 176,
    "wire-brown": 34,
    "wire-grey": 8,
    "wire-white": 9,
    "pencil": 8,
    "rule": 9,
}


def _layer(document: Drawing, ink: str) -> str:
    name = ink or "ground"
    if name not in document.layers:
        document.layers.add(name, color=COLOUR.get(name, 7))
    return name


def _add(space: Modelspace, document: Drawing, shape: Shape, height: float) -> None:
    def at(point: tuple[float, float]) -> tuple[float, float]:
        return point[0] * MM, (height - point[1]) * MM

    attributes = {"layer": _layer(document, shape.ink)}
    if shape.kind == "text":
        text = space.add_text(
            shape.words, height=shape.size * MM * 0.72, rotation=-shape.turn, dxfattribs={**attributes, "style": "GUMBOOT"}
        )
        text.set_placement(at(shape.points[0]), align=ALIGN[shape.anchor])
    elif not shape.ink:
        return  # a ground without an outline: paper is white already
    elif shape.kind == "circle":
        space.add_circle(at(shape.points[0]), shape.radius * MM, dxfattribs=attributes)
    else:
        space.add_lwpolyline([at(p) for p in shape.points], close=shape.closed, dxfattribs=attributes)


def drawing_dxf(canvas: Canvas) -> bytes:
    """The drawing as a DXF file of 2010, units mm."""
    document = new("R2010", units=ezdxf.units.MM)
    document.styles.add("GUMBOOT", font="arial.ttf")
    space = document.modelspace()
    for shape in canvas.shapes:
        _add(space, document, shape, canvas.height)
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")

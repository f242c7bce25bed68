"""The drill template at true size, measured on paper and in the exchange file; distances from hole to hole; tape fractions."""

from __future__ import annotations

import io
import itertools
import math
from typing import Any

import ezdxf
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pypdf import PdfReader

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.derive import derive
from gumboot.documents.pdf import template_pdf
from gumboot.documents.template import EDGE_MM, MM_PT, PAPERS, RULE_MM, Template, template_dxf, template_of, tiles_of
from gumboot.drawing.show import tape
from tests.helpers import plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
PLANS = {house: derive(demo_house(house), shelf()) for house in HOUSES}
TRUE_MM = 0.2


def of(house: str, box: str) -> Template:
    found = template_of(PLANS[house], box)
    assert found is not None
    return found


def strokes(page: Any) -> list[tuple[str, list[tuple[float, float]]]]:
    """What is drawn on a page of a PDF: the points of each path in mm from the paper's lower left corner."""
    found: list[tuple[str, list[tuple[float, float]]]] = []

    def seen(op: bytes, args: Any, cm: list[float], _: Any) -> None:
        def at(x: float, y: float) -> tuple[float, float]:
            a, b, c, d, e, f = map(float, cm)
            return (a * x + c * y + e) / MM_PT, (b * x + d * y + f) / MM_PT

        numbers = [float(n) for n in args] if op in (b"m", b"l", b"c", b"re") else []
        if op == b"m":
            found.append(("path", [at(*numbers)]))
        elif op == b"l":
            found[-1][1].append(at(*numbers))
        elif op == b"c":
            found[-1] = ("curve", [*found[-1][1], at(numbers[4], numbers[5])])
        elif op == b"re":
            x, y, w, h = numbers
            found.append(("rect", [at(x, y), at(x + w, y + h)]))

    page.extract_text(visitor_operand_before=seen)
    return found


def circles(drawn: list[tuple[str, list[tuple[float, float]]]]) -> list[tuple[float, float, float]]:
    """Centre and diameter of each round."""
    rounds = []
    for kind, points in drawn:
        if kind == "curve":
            xs, ys = [p[0] for p in points], [p[1] for p in points]
            rounds.append(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2, max(xs) - min(xs)))
    return rounds


@pytest.mark.parametrize(("house", "box", "system"), [("d1-saltmarsh", "inverter", "US"), ("k12-orchard-flat", "bat-1", "SI")])
def test_the_tiles_of_paper_are_true_to_two_tenths_of_a_millimetre(house: str, box: str, system: str) -> None:
    t = of(house, box)
    reader = PdfReader(io.BytesIO(template_pdf(t, system)))
    tiles = tiles_of(t, system)
    assert len(reader.pages) == len(tiles)
    _, wide, high = PAPERS[system]
    seen: set[str] = set()
    for page, (_, left, low, w, h) in zip(reader.pages, tiles, strict=True):
        assert (float(page.mediabox.width) / MM_PT, float(page.mediabox.height) / MM_PT) == pytest.approx((wide, high), abs=TRUE_MM)
        drawn = strokes(page)
        found = circles(drawn)
        # Everything is drawn on every tile; the window cuts it. From the paper's corner back to the box's.
        for hole in t.holes:
            x, y = hole.x - left + EDGE_MM, hole.y - low + EDGE_MM
            near = min(found, key=lambda c, x=x, y=y: math.hypot(c[0] - x, c[1] - y))  # type: ignore[misc]
            assert math.hypot(near[0] - x, near[1] - y) < TRUE_MM
            assert near[2] == pytest.approx(hole.wide, abs=TRUE_MM)
            if left <= hole.x <= left + w and low <= hole.y <= low + h:
                seen.add(hole.id)
        lengths = [math.dist(*points) for kind, points in drawn if kind == "path" and len(points) == 2]
        assert any(abs(length - RULE_MM) < TRUE_MM for length in lengths)
    assert seen == {hole.id for hole in t.holes}


@pytest.mark.parametrize("house", HOUSES)
def test_the_tiles_cover_every_box_and_lie_over_each_other(house: str) -> None:
    for system in PAPERS:
        for box in (box for wall in PLANS[house].walls for box in wall.boxes if box.holes):
            t = of(house, box.id)
            tiles = tiles_of(t, system)
            assert len({name for name, *_ in tiles}) == len(tiles)
            for hole in t.holes:
                whole = [1 for _, x, y, w, h in tiles if x + 5 <= hole.x <= x + w - 5 and y + 5 <= hole.y <= y + h - 5]
                assert whole, "no tile shows a hole with its cross"
            right, top = max(x + w for _, x, _, w, _ in tiles), max(y + h for _, _, y, _, h in tiles)
            assert right >= t.width
            assert top >= t.height


@pytest.mark.parametrize("house", HOUSES)
def test_the_exchange_file_has_every_hole_in_its_place_on_layers_by_meaning(house: str) -> None:
    for box in (box for wall in PLANS[house].walls for box in wall.boxes if box.holes):
        t = of(house, box.id)
        document = ezdxf.read(io.StringIO(template_dxf(t).decode()))  # type: ignore[attr-defined]
        assert document.units == 4
        assert {"OUTLINE", "HOLES", "CENTRES", "DATUM", "DIMENSIONS", "TEXT"} <= {layer.dxf.name for layer in document.layers}
        space = document.modelspace()
        blocks = [(e.dxf.insert.x, e.dxf.insert.y, e.dxf.xscale) for e in space.query("INSERT") if e.dxf.name == "HOLE"]
        assert blocks == [pytest.approx((h.x, h.y, h.wide)) for h in t.holes]
        outline: Any
        (outline,) = space.query("LWPOLYLINE[layer=='OUTLINE']")
        assert [tuple(p[:2]) for p in outline.get_points()] == [(0, 0), (t.width, 0), (t.width, t.height), (0, t.height)]
        measured: list[Any] = list(space.query("DIMENSION"))
        dims = [d.get_measurement() for d in measured]
        first = min(t.holes, key=lambda h: (h.x, h.y))
        wanted = [abs(h.x - first.x) for h in t.holes if h.x != first.x] + [abs(h.y - first.y) for h in t.holes if h.y != first.y]
        assert sorted(dims) == pytest.approx(sorted(wanted))


def test_a_box_that_hangs_nowhere_has_no_template() -> None:
    assert template_of(plan_of(), "roof") is None
    assert template_of(plan_of(), "nothing") is None


@pytest.mark.parametrize("house", HOUSES)
def test_distances_between_holes_and_square_boxes(house: str) -> None:
    for box in (box for wall in PLANS[house].walls for box in wall.boxes):
        places = {h.id: (h.x_mm.value, h.y_mm.value) for h in box.holes}
        assert len(box.spans) == math.comb(min(4, len(box.holes)), 2)
        for span in box.spans:
            assert span.mm.value == pytest.approx(math.dist(places[span.first], places[span.second]))
        diagonals = [span.mm.value for span in box.spans if span.is_diagonal]
        if len(box.holes) == 4 and len(diagonals) == 2:
            assert diagonals[0] == pytest.approx(diagonals[1])


@pytest.mark.parametrize(
    ("mm", "words"),
    [
        (0, "0 in"),
        (1421, "55 15/16 in"),
        (25.4, "1 in"),
        (12.7, "1/2 in"),
        (406.4, "16 in"),
        (407.9, "16 1/16 in"),
        (-12.7, "−1/2 in"),
        (0.5, "0 in"),
    ],
)
def test_a_tape_in_inches(mm: float, words: str) -> None:
    assert tape(mm, "US") == words


@given(st.floats(0, 6000))
def test_a_tape_is_never_more_than_half_a_mark_off(mm: float) -> None:
    told = tape(mm, "US").removesuffix(" in").split(" ")
    inches = sum(int(part.split("/")[0]) / int(part.split("/")[1]) if "/" in part else int(part) for part in told)
    assert abs(inches * 25.4 - mm) <= 25.4 / 32 + 1e-6
    assert tape(mm, "SI") == f"{mm:.0f} mm"


def test_every_distance_keeps_the_triangle() -> None:
    box = next(b for w in PLANS["d1-saltmarsh"].walls for b in w.boxes if b.id == "inverter")
    far = {frozenset((s.first, s.second)): s.mm.value for s in box.spans}
    for a, b, c in itertools.permutations({h.id for h in box.holes}, 3):
        assert far[frozenset((a, c))] <= far[frozenset((a, b))] + far[frozenset((b, c))] + 1e-9

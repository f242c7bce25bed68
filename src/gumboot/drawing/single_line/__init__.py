"""The single-line diagram, laid out by the program; the same drawing serves as the live board, on paper and in exchange files.

``layout`` and ``several`` say where things stand, with one inverter and with several; ``diagram`` draws wires, labels and switches;
``dc``, ``boards`` and ``inverter`` are the parts of a house with one.
"""

from __future__ import annotations

from collections.abc import Mapping

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.drawing.single_line.boards import main_board, runs, sub_board, supply_words
from gumboot.drawing.single_line.dc import battery, generator, string_rows
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.extra import draw_extras
from gumboot.drawing.single_line.inverter import coupled, inverter_box, legend
from gumboot.drawing.single_line.layout import has_grid
from gumboot.drawing.single_line.measures import LEFT, WIDTH
from gumboot.drawing.single_line.several import several
from gumboot.drawing.svg import Canvas

# Room for the name above each island's diagram.
HEAD = 46.0
__all__ = ["canvas", "single_line", "supply_words"]


def canvas(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Canvas:
    """The diagram as drawn shapes; that of each island below the one before where a house has several."""
    if len(plan.islands) == 1:
        return _of_island(plan, live, closed)
    sheets = [_of_island(island, live, closed) for island in plan.islands]
    title = sheets[0].title
    whole = Canvas("line", WIDTH, sum(sheet.height + HEAD for sheet in sheets), title)
    y = 0.0
    for island, sheet in zip(plan.islands, sheets, strict=True):
        lead = island.house.lead
        whole.text(LEFT, y + 20, f"Island of {lead.name}", 15, bold=True)
        whole.line(LEFT, y + 28, WIDTH - 4, y + 28, "rule", 1)
        whole.under(sheet, y + HEAD)
        y += sheet.height + HEAD
    return whole


def _of_island(plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> Canvas:
    if len(plan.seats.inverters) > 1 or plan.house.panels or len(plan.seats.transfers) > 1:
        return several(plan, live, closed)
    d = Diagram(plan, live, closed)
    if d.at.own:
        string_rows(d, d.at.own, d.at.inverter[0])
    battery(d)
    generator(d)
    runs(d)
    inverter_box(d)
    main_board(d)
    sub_board(d)
    if has_grid(plan):
        # Lines into a board stand on its ground: drawn again where the board's ground covered their ends.
        d.wire([(d.at.boards[0], d.at.rows["grid"]), (d.at.boards[0] + 10, d.at.rows["grid"])], "inverter-grid", d.conductor("grid"))
    d.wire([(d.at.boards[0], d.at.rows["backup"]), (d.at.boards[0] + 10, d.at.rows["backup"])], "inverter-load", d.conductor("backup"))
    coupled(d)
    draw_extras(d, d.extras)
    legend(d)
    return d.c


def single_line(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Markup:
    """The diagram; with ``live`` it shows which conductors a set of closed switches makes live."""
    return canvas(plan, live, closed).render()

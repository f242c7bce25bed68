"""The hand-over pack as PDF: plan, drawings, terminations and torque, readings, settings, cautions."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.settings import supply_of
from gumboot.core.record import AnyRecord
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.loader import source
from gumboot.core.standing import Standing
from gumboot.core.standing.history import failures
from gumboot.core.study.packing import loads_of
from gumboot.core.study.van import Torqued, van_of
from gumboot.core.units import lbf_in_from_nm
from gumboot.drawing import links, settings, show, single_line, strings, wall
from gumboot.drawing.leads import leads_drawing
from gumboot.drawing.svg import Canvas

HERE = Path(__file__).parent
FONTS = HERE.parent / "web" / "static" / "fonts"
ENVIRONMENT = Environment(
    loader=FileSystemLoader(HERE), autoescape=select_autoescape(("html",)), undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
)


class Picture(NamedTuple):
    """A picture of the work for print: what it shows, by whom and when, the hash it is kept under, and itself, as a small JPEG."""

    title: str
    by: str
    at: datetime
    name: str
    content: bytes

    @property
    def address(self) -> str:
        """The picture as an address of its own."""
        return f"data:image/jpeg;base64,{base64.b64encode(self.content).decode()}"


class Pictures(NamedTuple):
    """The pictures of a pack, and how many more are kept than it prints."""

    shown: tuple[Picture, ...] = ()
    more: int = 0


def pack_html(
    plan: Plan, standing: Standing, records: Sequence[AnyRecord], revision: int, head: str = "", *, pictures: Pictures | None = None
) -> str:
    """The pack as HTML, from plain frozen values."""
    system = plan.job.preferences.units
    drawings = {
        # Each island on a sheet of its own: together they may be taller than a page.
        "lines": [(island.house.lead.name, single_line.single_line(island)) for island in plan.islands],
        "wall": wall.elevation(plan, system),
        "rulers": strings.rulers_drawing(plan, system),
        "bus": links.bus_drawing(plan),
        "ruler": settings.charge_ruler(plan),
        "lead": leads_drawing(plan),
    }
    return ENVIRONMENT.get_template("pack.html").render(
        plan=plan,
        standing=standing,
        records=records,
        revision=revision,
        head=head,
        pictures=pictures or Pictures(),
        failures=failures(plan, standing.acts, records),
        drawings=drawings,
        show=show,
        system=system,
        source=source,
        book=book(plan.job.rule_book),
        supply=supply_of(plan.house),
        lbf_in=lbf_in_from_nm,
        fonts=FONTS.as_uri(),
    )


def torques_html(torques: Sequence[Torqued], title: str) -> str:
    """Every torque of a house on sheets of A6, for where a phone is empty."""
    return ENVIRONMENT.get_template("torque_card.html").render(torques=torques, title=title, lbf_in=lbf_in_from_nm, fonts=FONTS.as_uri())


def van_html(plan: Plan, today: str, title: str) -> str:
    """What comes along, load by load with a box to tick, what of the tools does not do, and the leads to make."""
    missing = [row for row in van_of(plan, today).rows if row.missing]
    return ENVIRONMENT.get_template("van_list.html").render(
        loads=loads_of(plan), missing=missing, leads=leads_drawing(plan), title=title, fonts=FONTS.as_uri()
    )


def sheet_html(canvas: Canvas, title: str, foot: str) -> str:
    """One drawing on an A3 sheet as HTML."""
    return ENVIRONMENT.get_template("sheet.html").render(drawing=canvas.render(), title=title, foot=foot, fonts=FONTS.as_uri())

"""CTs on the service conductors, with arrows."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sensing import CtSet
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.sim.ct_readings import ANGLES
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Canvas


def line_inks(plan: Plan) -> dict[str, str]:
    """Ink of each AC conductor by the colours of the job's rule book."""
    scheme = book(plan.job.rule_book).identification
    roles = {"L1": "line1", "L2": "line2", "L3": "line3", "N": "neutral"}
    return {name: f"wire-{identification(scheme, role).colour.replace(' ', '-')}" for name, role in roles.items()}


def ct_drawing(plan: Plan, mark: str = "") -> Markup:
    """Grid on the left, house on the right, one line per leg, the cores of one island's set on them."""
    drawn = ct_canvas(plan, mark)
    return drawn.render() if drawn is not None else Markup("")


def ct_canvas(plan: Plan, mark: str = "") -> Canvas | None:
    """As ``ct_drawing``, as drawn shapes; none where that island has no CTs."""
    shown = next((each for each in plan.sensing.sets if each.mark == mark), None)
    return _drawn(plan, shown) if shown and shown.cts else None


def _drawn(plan: Plan, shown: CtSet) -> Canvas:
    lines = (*ANGLES[shown.flow], "N")
    top = 30 + 62 * len(lines) - 2
    c = Canvas("cts", 728, top + 38, f"Current transformers{shown.of} on the service conductors")
    c.rect(2, 30, 96, top - 30, "plaster", "ink", 1.6)
    c.text(50, 100, "Grid", 15, "middle", bold=True)
    c.text(50, 118, "meter", 12, "middle", "pencil")
    c.rect(600, 30, 126, top - 30, "white", "ink", 1.6)
    c.text(663, 92, "House and", 14, "middle", bold=True)
    c.text(663, 110, "inverter", 14, "middle", bold=True)
    inks = line_inks(plan)
    for i, leg in enumerate(lines):
        y, ink = 62 + i * 62, inks[leg]
        c.line(98, y, 600, y, ink, 5)
        c.text(110, y - 9, leg, 13, bold=True)
    per_leg: dict[str, int] = {}
    for ct in shown.cts:
        y = 62 + 62 * (lines.index(ct.place.leg) if ct.place.leg in lines else 0)
        x = {"grid side of every load": 230, "between loads": 400, "inverter side": 520}[ct.place.side] + 84 * per_leg.get(ct.place.leg, 0)
        per_leg[ct.place.leg] = per_leg.get(ct.place.leg, 0) + 1
        wrong = ct.place.arrow != ct.wanted_arrow or ct.place.leg != ct.wanted_leg or ct.place.side != "grid side of every load"
        ink = "oxide" if wrong else "green"
        c.anchor("meter", x + 60, y + 20)
        c.rect(x - 17, y - 17, 34, 34, None, ink, 4, r=9)
        tip = 1 if ct.place.arrow == "toward house" else -1
        c.path([(x - 12 * tip, y - 25), (x + 14 * tip, y - 25)], ink, 2.4)
        c.path([(x + 7 * tip, y - 30), (x + 15 * tip, y - 25), (x + 7 * tip, y - 20)], ink, 2.4)
        c.text(x + 26, y + 20, ct.place.channel, 13, bold=True, ink=ink)
        with c.opens(ct.expected.key, f"{ct.place.channel} should read {figure_text(ct.expected)}"):
            # Below the name and not behind it: on a phone the left half of the picture shows.
            c.text(x + 26, y + 35, f"+{figure_text(ct.expected)}", 13, mono=True)
    wanted = shown.cts[0].wanted_arrow
    c.text(
        98,
        top + 26,
        f"This maker's arrow points {wanted}. Import reads positive. One CT per live leg, none on the neutral.",
        12,
        ink="pencil",
    )
    return c

"""CTs on the service conductors, with arrows."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Canvas


def ct_drawing(plan: Plan) -> Markup:
    """Grid on the left, house on the right, one line per leg."""
    c = Canvas("cts", 728, 252, "Current transformers on the service conductors")
    c.rect(2, 30, 96, 184, "plaster", "ink", 1.6)
    c.text(50, 100, "Grid", 15, "middle", bold=True)
    c.text(50, 118, "meter", 12, "middle", "pencil")
    c.rect(600, 30, 126, 184, "white", "ink", 1.6)
    c.text(663, 92, "House and", 14, "middle", bold=True)
    c.text(663, 110, "inverter", 14, "middle", bold=True)
    for i, (leg, ink) in enumerate((("L1", "wire-black"), ("L2", "wire-red"), ("N", "wire-white"))):
        y = 62 + i * 62
        c.line(98, y, 600, y, ink, 5)
        c.text(110, y - 9, leg, 13, bold=True)
    per_leg: dict[str, int] = {}
    for ct in plan.sensing.cts:
        y = 62 if ct.place.leg == "L1" else 124
        x = {"grid side of every load": 300, "between loads": 430, "inverter side": 540}[ct.place.side] + 70 * per_leg.get(ct.place.leg, 0)
        per_leg[ct.place.leg] = per_leg.get(ct.place.leg, 0) + 1
        wrong = ct.place.arrow != ct.wanted_arrow or ct.place.leg != ct.wanted_leg or ct.place.side != "grid side of every load"
        ink = "oxide" if wrong else "green"
        c.rect(x - 17, y - 17, 34, 34, None, ink, 4, r=9)
        tip = 1 if ct.place.arrow == "toward house" else -1
        c.path([(x - 12 * tip, y - 25), (x + 14 * tip, y - 25)], ink, 2.4)
        c.path([(x + 7 * tip, y - 30), (x + 15 * tip, y - 25), (x + 7 * tip, y - 20)], ink, 2.4)
        c.text(x + 26, y + 20, ct.place.channel, 13, bold=True, ink=ink)
        with c.opens(ct.expected.key, f"{ct.place.channel} should read {figure_text(ct.expected)}"):
            c.text(x + 64, y + 20, f"+{figure_text(ct.expected)}", 13, mono=True)
    wanted = plan.sensing.cts[0].wanted_arrow if plan.sensing.cts else ""
    c.text(
        98, 240, f"This maker's arrow points {wanted}. Import reads positive. One CT per live leg, none on the neutral.", 12, ink="pencil"
    )
    return c.render()

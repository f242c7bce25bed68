"""One enclosure's terminals where they sit, each with its state."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.terminations import Termination
from gumboot.core.standing import Standing
from gumboot.drawing.svg import Canvas

SIZE = {"inverter": (358.0, 158.0), "busbar": (358.0, 218.0)}


def _mark(c: Canvas, x: float, y: float, r: float, term: Termination, standing: Standing) -> str:
    judged = standing.torques[term.id]
    if judged.good:
        c.circle(x, y, r, "green", "ink", 1.4)
        c.path([(x - r * 0.45, y), (x - r * 0.1, y + r * 0.4), (x + r * 0.5, y - r * 0.4)], "page", 2)
        return "recorded"
    if judged.record:
        c.circle(x, y, r, "oxide-wash", "oxide", 2)
        c.line(x - r * 0.5, y, x + r * 0.5, y, "oxide", 2)
        return "recorded with a fault"
    c.circle(x, y, r, "white", "ink", 1.6)
    return "open"


def enclosure(plan: Plan, standing: Standing, place: str, href: Callable[[str], str], current: str = "") -> Markup:
    """The map of one enclosure; each terminal leads to its card."""
    terms = [t for t in plan.terminations if t.place == place]
    kind = "busbar" if any(b.id == place for b in plan.seats.busbars) else plan.house.card_at(place).kind
    w, h = SIZE.get(kind, (358.0, 132.0))
    c = Canvas(f"map-{place}", w, h, f"Terminals of {place}")
    c.rect(1, 1, w - 2, h - 2, "plaster", "ink", 1.8)
    titled: set[str] = set()
    for t in terms:
        # Conductors in parallel stand beside each other, closer where they are many: the next terminal is near.
        x, y = 14 + t.terminal.x * (w - 28) + min(18, 40 / t.sets) * (t.nth - 1), 8 + t.terminal.y * (h - 30)
        if t.port not in titled and kind == "inverter":
            first = min(o.terminal.x for o in terms if o.port == t.port)
            c.text(14 + first * (w - 28) - 8, y - 18, t.port_title, 11, ink="pencil")
            titled.add(t.port)
        if t.id == current:
            c.circle(x, y, 15, None, "green", 3)
        with c.link(href(t.id), f"{t.place} {t.title}"):
            state = _mark(c, x, y, 9, t, standing)
            # One name stands beneath all that share a terminal.
            title = t.terminal.title if kind != "busbar" else t.terminal.title.replace("bat-", "b")
            ink = "ink" if t.id == current else "pencil"
            if t.nth == 1:
                c.text(x, y + 24, title, 11, "middle", ink, bold=t.id == current)
            c.circle(x, y, 14, None, None)
            _ = state
    return c.render()

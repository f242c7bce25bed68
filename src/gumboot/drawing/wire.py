"""One enclosure's terminals where they sit, each with its state."""

from __future__ import annotations

from collections.abc import Callable

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.terminations import Termination
from gumboot.core.standing import Standing
from gumboot.drawing.svg import Canvas
from gumboot.drawing.terminal_rows import NAME, lay_out

# No wire is drawn below a terminal here: its name stands nearer.
UP = 12.0


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
    return canvas(plan, standing, place, href, current).render()


def canvas(plan: Plan, standing: Standing, place: str, href: Callable[[str], str], current: str = "") -> Canvas:
    """The same as a scene."""
    terms = [t for t in plan.terminations if t.place == place]
    rows = lay_out(terms)
    c = Canvas(f"map-{place}", rows.width, rows.height, f"Terminals of {place}")
    c.rect(1, 1, rows.width - 2, rows.height - 2, "plaster", "ink", 1.8)
    for word in rows.ports:
        c.text(word.x, word.y, word.text, NAME, ink="pencil")
    for t, x, y in rows.ends:
        if t.id == current:
            c.circle(x, y, 15, None, "green", 3)
        with c.link(href(t.id), f"{t.place} {t.title}"):
            _mark(c, x, y, 10, t, standing)
            c.circle(x, y, 14, None, None)
    for word in rows.names:
        is_here = word.term.id == current
        c.text(word.x, word.y - UP, word.text, NAME, "middle", "ink" if is_here else "pencil", bold=is_here)
    return c

"""The terminals of one box, for a phone: each is a group that names its act, so that a script shows which is done and which is next."""

from __future__ import annotations

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.terminations import Termination
from gumboot.drawing.svg import Canvas
from gumboot.drawing.terminal_rows import NAME, lay_out


def _wire_ink(term: Termination) -> str:
    return f"pigment-{'green' if term.colour in ('green-yellow', 'green') else term.colour.replace(' ', '-')}"


def _terminal(c: Canvas, term: Termination, x: float, y: float, stub: float) -> None:
    c.anchor(f"torque:{term.id}", x, y)
    with c.drawn_for("end", act=f"torque:{term.id}"):
        # Pigment in both themes; the outline inverts.
        c.path([(x, y), (x, y + stub)], "ink", 9)
        c.path([(x, y), (x, y + stub)], _wire_ink(term), 6)
        if term.terminal.end == "spring":
            c.rect(x - 9, y - 9, 18, 18, "white", "ink", 1.6)
        else:
            c.circle(x, y, 10, "white", "ink", 1.6)
        if term.terminal.end == "lug":
            c.path(
                [(x - 4.5, y - 2.6), (x, y - 5.2), (x + 4.5, y - 2.6), (x + 4.5, y + 2.6), (x, y + 5.2), (x - 4.5, y + 2.6)],
                "ink",
                1.4,
                closed=True,
            )
        elif term.terminal.end != "spring":
            c.line(x - 6, y - 3, x + 6, y + 3, "ink", 1.6)
        with c.drawn_for("is-done"):
            c.circle(x, y, 10, "green", "ink", 1.4)
            c.path([(x - 4.5, y), (x - 1, y + 4), (x + 5, y - 4)], "page", 2.4)
        with c.drawn_for("is-bad"):
            c.path(
                [(x - 9, y - 5), (x, y - 10.5), (x + 9, y - 5), (x + 9, y + 5), (x, y + 10.5), (x - 9, y + 5)],
                "oxide",
                1.4,
                "oxide",
                closed=True,
            )
            c.line(x - 5, y, x + 5, y, "page", 2.6)
        with c.drawn_for("is-here"):
            c.circle(x, y, 17, None, "green", 3)


def terminals(plan: Plan, place: str) -> Canvas:
    """The terminals of one box as a picture; an anchor for each act."""
    terms = [t for t in plan.terminations if t.place == place]
    rows = lay_out(terms)
    c = Canvas(f"ends-{place}", rows.width, rows.height, f"Terminals of {terms[0].place_title}")
    c.rect(1, 1, rows.width - 2, rows.height - 2, "plaster", "ink", 1.8)
    for word in rows.ports:
        c.text(word.x, word.y, word.text, NAME, ink="pencil")
    for term, x, y in rows.ends:
        _terminal(c, term, x, y, 22)
    for word in rows.names:
        with c.drawn_for("name", act=f"torque:{word.term.id}"):
            c.text(word.x, word.y, word.text, NAME, "middle")
    return c

"""The terminals of one box, for a phone: each is a group that names its act, so that a script shows which is done and which is next."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.terminations import Termination
from gumboot.drawing.svg import Canvas, text_width

WIDE, EDGE = 358.0, 26.0
# Between terminals that a finger and an eye tell apart, and between rows with a name below each.
LEAST, ROW = 30.0, 62.0
NAME = 11.0


def _rows(terms: Sequence[Termination]) -> list[list[Termination]]:
    """Terminals by how far down they sit, the highest first; those at nearly one height are one row, from left to right."""
    found: list[list[Termination]] = []
    for term in sorted(terms, key=lambda t: (t.terminal.y, t.terminal.x, t.nth)):
        if found and term.terminal.y - found[-1][0].terminal.y < 0.12:
            found[-1].append(term)
        else:
            found.append([term])
    return [sorted(row, key=lambda t: (t.terminal.x, t.nth)) for row in found]


def _places(row: Sequence[Termination], width: float) -> list[float]:
    """Where the terminals of a row stand: as in the box, and no two so near that they cannot be told apart."""
    room = width - 2 * EDGE
    at = [EDGE + term.terminal.x * room for term in row]
    for n in range(1, len(at)):
        at[n] = max(at[n], at[n - 1] + LEAST)
    over = at[-1] - (width - EDGE)
    if over > 0:
        at[-1] -= over
        for n in range(len(at) - 2, -1, -1):
            at[n] = min(at[n], at[n + 1] - LEAST)
    return at


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


def _names(c: Canvas, row: Sequence[Termination], at: Sequence[float], y: float) -> None:
    """The name of each terminal below it, where there is room; that of the one in hand is always drawn, by the script's class."""
    free = 0.0
    for term, x in zip(row, at, strict=True):
        words = term.terminal.title
        half = text_width(words, NAME) / 2
        fits = x - half >= free
        with c.drawn_for("name" if fits else "name only-here", act=f"torque:{term.id}"):
            c.text(x, y, words, NAME, "middle")
        free = x + half + 4 if fits else free


def terminals(plan: Plan, place: str) -> Canvas:
    """The terminals of one box as a picture; an anchor for each act."""
    terms = [t for t in plan.terminations if t.place == place]
    rows = _rows(terms)
    width = max(WIDE, *(2 * EDGE + LEAST * (len(row) - 1) for row in rows))
    c = Canvas(f"ends-{place}", width, 34 + (ROW + 16) * len(rows), f"Terminals of {terms[0].place_title}")
    c.rect(1, 1, width - 2, c.height - 2, "plaster", "ink", 1.8)
    for n, row in enumerate(rows):
        y, at = 42 + (ROW + 16) * n, _places(row, width)
        titled = ""
        for term, x in zip(row, at, strict=True):
            if term.port_title != titled:
                # The name of a port stands above its first terminal, in the row's own line.
                room = next((b - x for t, b in zip(row, at, strict=True) if b > x and t.port_title != term.port_title), width - x)
                words = term.port_title if text_width(term.port_title, NAME) <= room + 6 else ""
                c.text(x - 12, y - 22, words, NAME, ink="pencil")
                titled = term.port_title
            _terminal(c, term, x, y, 22)
        _names(c, row, at, y + 37)
    return c

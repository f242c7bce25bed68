"""Where the terminals of one box stand on a map of it, and their names beneath, none over another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gumboot.core.plan.terminations import Termination
from gumboot.drawing.svg import text_width

WIDE, EDGE = 358.0, 26.0
# Between terminals that a finger and an eye tell apart; from a row's terminals up to the names of ports and down to those of terminals.
LEAST, ABOVE, BENEATH = 30.0, 22.0, 37.0
NAME, LINE, GAP = 11.0, 13.0, 4.0
# Over a row, and beneath its names.
OVER, UNDER = 42.0, 14.0


class Place(NamedTuple):
    """A terminal and where it stands."""

    term: Termination
    x: float
    y: float


class Word(NamedTuple):
    """Words of the map: their middle, or their left end where they name a port."""

    text: str
    x: float
    y: float
    term: Termination


class Rows(NamedTuple):
    """A map: its size, terminals, and the names of terminals and ports."""

    width: float
    height: float
    ends: tuple[Place, ...]
    names: tuple[Word, ...]
    ports: tuple[Word, ...]


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


def _names(row: Sequence[Place], width: float) -> tuple[list[Word], int]:
    """The name of each terminal beneath it, in as many lines as it takes for none to meet another. One name stands for all in parallel."""
    lines, found = list[float](), list[Word]()
    for term, x, y in row:
        if term.nth > 1:
            continue
        half = text_width(term.terminal.title, NAME) / 2
        middle = min(max(x, half + GAP), width - half - GAP)
        line = next((n for n, end in enumerate(lines) if middle - half >= end + GAP), len(lines))
        lines[line:] = [*([middle + half]), *lines[line + 1 :]]
        found.append(Word(term.terminal.title, middle, y + BENEATH + LINE * line, term))
    return found, len(lines)


def _ports(row: Sequence[Place], width: float) -> Iterator[Word]:
    """The name of a port above its first terminal, where there is room for it before the next port's."""
    heads = [place for n, place in enumerate(row) if not n or row[n - 1].term.port_title != place.term.port_title]
    for n, (term, x, y) in enumerate(heads):
        most = (heads[n + 1].x if n + 1 < len(heads) else width) - x
        if text_width(term.port_title, NAME) <= most - GAP + (0 if n + 1 < len(heads) else 8):
            yield Word(term.port_title, x - 12, y - ABOVE, term)


def lay_out(terms: Sequence[Termination]) -> Rows:
    """The map of the terminals of one box."""
    rows = _rows(terms)
    width = max(WIDE, *(2 * EDGE + LEAST * (len(row) - 1) for row in rows))
    ends, names, ports, top = list[Place](), list[Word](), list[Word](), 0.0
    for row in rows:
        placed = [Place(term, x, top + OVER) for term, x in zip(row, _places(row, width), strict=True)]
        named, lines = _names(placed, width)
        ends += placed
        names += named
        ports += _ports(placed, width)
        top += OVER + BENEATH + LINE * (lines - 1) + UNDER - 10
    return Rows(width, top + 10, tuple(ends), tuple(names), tuple(ports))

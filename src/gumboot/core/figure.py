"""A figure: a number that a person may rely on, with how it was worked out."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

from gumboot.core.errors import BadFigure


class Figure(NamedTuple):
    """One number with unit, source and working.

    ``formula`` is written in the symbols of ``given``; a test evaluates it for every figure of
    every demo job, so the working shown cannot drift from the code. ``source`` is a key of the
    source register, or ``input:<path in the job>``, or ``card:<card id>:<field>``.
    A named tuple rather than a dataclass, because a derivation makes about eight hundred: it cannot be
    changed, and it is made in a third of the time. ``checked`` refuses a bad one; nothing enters a plan
    without passing it.

    ``label`` replaces the bare number where the trade names it (``2/0 AWG``).
    """

    key: str
    symbol: str
    name: str
    value: float
    unit: str
    source: str
    formula: str = ""
    given: tuple[Figure, ...] = ()
    label: str = ""
    limits: str = ""

    @property
    def is_input(self) -> bool:
        """Whether a person or a card supplied the number, as opposed to a rule."""
        return self.source.startswith(("input:", "card:"))

    def ancestors(self) -> Iterator[Figure]:
        """Every figure this one rests on, nearest first, each once."""
        seen: set[str] = set()
        queue = list(self.given)
        while queue:
            figure = queue.pop(0)
            if figure.key not in seen:
                seen.add(figure.key)
                yield figure
                queue.extend(figure.given)

    def decisions(self) -> list[Figure]:
        """The job inputs this figure depends on: what a person could change to move it."""
        return [f for f in self.ancestors() if f.source.startswith("input:")]


def checked(figure: Figure) -> Figure:
    """The figure itself. Raises BadFigure when it is not finite, has no source, or repeats a symbol among its givens."""
    if not math.isfinite(figure.value):
        raise BadFigure(f"{figure.key} is not finite")
    if not figure.source:
        raise BadFigure(f"{figure.key} has no source")
    if len(figure.given) > 1 and len({g.symbol for g in figure.given}) != len(figure.given):
        raise BadFigure(f"{figure.key} repeats a symbol among its given figures: {[g.symbol for g in figure.given]}")
    return figure


def job_input(path: str, symbol: str, name: str, value: float, unit: str, label: str = "") -> Figure:
    """A number a person decided, addressed by its path in the job."""
    return Figure(f"in.{path}", symbol, name, value, unit, f"input:{path}", label=label)


def card_value(card_id: str, field: str, symbol: str, name: str, value: float, unit: str, label: str = "") -> Figure:
    """A number read off a maker's card."""
    return Figure(f"card.{card_id}.{field}", symbol, name, value, unit, f"card:{card_id}:{field}", label=label)


def constant(symbol: str, name: str, value: float, unit: str, source: str, limits: str = "") -> Figure:
    """A value fixed by a rule or by common practice; ``source`` is a key of the register."""
    return Figure(f"const.{source}.{symbol}", symbol, name, value, unit, source, limits=limits)

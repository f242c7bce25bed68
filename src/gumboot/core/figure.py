"""A figure: a number that a person may rely on, with how it was worked out."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache
from operator import attrgetter

from gumboot.core.errors import BadFigure
from gumboot.core.expression import Expression
from gumboot.core.working import shown

_blank = object.__new__


class Figure(Expression):
    """One number with unit, source and working; it stands in other expressions under its symbol.

    ``value`` is a number, or the expression that gives it: then ``work`` is that expression, and the working is printed from it,
    so that what is shown cannot drift from what is computed. ``source`` is a key of the source register, or
    ``input:<path in the job>``, or ``card:<card id>:<field>``. ``label`` replaces the bare number where the trade names it
    (``2/0 AWG``). It is not changed once it is kept; ``checked`` refuses a bad one, and nothing enters a plan without passing it.
    """

    __slots__ = ("key", "label", "limits", "name", "source", "symbol", "unit", "work")
    # The same for every figure, so none carries them: a derivation makes six hundred.
    op = "figure"
    args = ()
    work: Expression | None
    _given: tuple[Figure, ...] | None = None

    def __init__(
        self,
        key: str,
        symbol: str,
        name: str,
        value: Expression | float,
        unit: str,
        *,
        source: str,
        label: str = "",
        limits: str = "",
    ) -> None:
        self.key, self.symbol, self.name, self.unit, self.source = key, symbol, name, unit, source
        self.label, self.limits = label, limits
        if isinstance(value, Expression):
            self.value, self.work = value.value, value
        else:
            self.value, self.work = value, None

    def _rests_on(self) -> tuple[Figure, ...]:
        if self.work is None:
            return ()
        return tuple({f.key: f for f in self.work.figures}.values())

    def _symbols(self) -> dict[str, str]:
        """Symbol of each figure that this one rests on; those that share a symbol, or have this one's own, are numbered."""
        seen, found = {self.symbol: 1}, {}
        for f in self._rests_on():
            n = seen[f.symbol] = seen.get(f.symbol, 0) + 1
            first = 1 if f.symbol != self.symbol else 0
            found[f.key] = f.symbol if n == first else f"{f.symbol}_{n if f.symbol != self.symbol else n - 1}"
        return found

    @property
    def formula(self) -> str:
        """The working in the symbols of ``given``; empty for a number that was read, looked up or given."""
        if self.work is None:
            return ""
        symbols = self._symbols()
        return shown(self.work, lambda f: symbols[f.key])

    @property
    def given(self) -> tuple[Figure, ...]:
        """The figures that its working names, each under the symbol it has there."""
        if self._given is not None:
            return self._given
        symbols = self._symbols()
        return tuple(f if f.symbol == symbols[f.key] else f.renamed(symbol=symbols[f.key]) for f in self._rests_on())

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

    def renamed(
        self, key: str | None = None, symbol: str | None = None, name: str | None = None, given: tuple[Figure, ...] | None = None
    ) -> Figure:
        """The same figure under another key, symbol or name, where it is shown beside one of its own kind."""
        told = given if given is not None else self._given
        made = Figure.__new__(Figure) if told is None else _Beside(told)
        for slot in ("value", "work", "unit", "source", "label", "limits"):
            setattr(made, slot, getattr(self, slot))
        made.key, made.symbol, made.name = key or self.key, symbol or self.symbol, name or self.name
        return made

    def __eq__(self, other: object) -> bool:
        if self is other:
            return True
        if not isinstance(other, Figure):
            return NotImplemented
        if self.value != other.value or self.key != other.key or self.name != other.name or self.symbol != other.symbol:
            return False
        if (self.unit, self.source, self.label, self.limits) != (other.unit, other.source, other.label, other.limits):
            return False
        if self.work is None or other.work is None:
            return self.work is other.work
        return alike(self.work, other.work)

    def __hash__(self) -> int:
        return hash((self.key, self.value))

    def __repr__(self) -> str:
        return f"Figure({self.key} = {self.value:g} {self.unit})"


def made(
    key: str, symbol: str, name: str, value: Expression | float, unit: str, *, source: str, label: str = "", limits: str = ""
) -> Figure:
    """As the class itself makes it, in two thirds of the time: a derivation makes six hundred.

    Without a key it is what a clause worked out, until its asker keeps it under one.
    """
    figure = _blank(Figure)
    figure.key, figure.symbol, figure.name = key, symbol, name
    figure.unit, figure.source = unit, source
    figure.label, figure.limits = label, limits
    if isinstance(value, Expression):
        figure.value, figure.work = value.value, value
    else:
        figure.value, figure.work = value, None
    return figure


class _Beside(Figure):
    """A figure whose givens were renamed as well."""

    __slots__ = ("_given",)

    def __init__(self, given: tuple[Figure, ...]) -> None:
        self._given = given


# Which of several figures is the least, or the most.
BY_VALUE = attrgetter("value")


def alike(a: Expression, b: Expression) -> bool:
    """Whether two expressions are the same operations on the same figures."""
    if a is b:
        return True
    if a.op != b.op or a.value != b.value or len(a.args) != len(b.args):
        return False
    if a.op == "figure":
        return a == b
    for x, y in zip(a.args, b.args, strict=True):  # noqa: SIM110 - a generator costs three times as much here
        if x is not y and not alike(x, y):
            return False
    return True


def checked(figure: Figure) -> Figure:
    """The figure itself. Raises BadFigure when it is not finite, or has no source."""
    if not math.isfinite(figure.value):
        raise BadFigure(f"{figure.key} is not finite")
    if not figure.source:
        raise BadFigure(f"{figure.key} has no source")
    return figure


def job_input(path: str, symbol: str, name: str, value: float, unit: str, *, label: str = "") -> Figure:
    """A number a person decided, addressed by its path in the job."""
    return made(f"in.{path}", symbol, name, value, unit, source=f"input:{path}", label=label)


def card_value(card_id: str, field: str, symbol: str, name: str, value: float, *, unit: str, label: str = "") -> Figure:
    """A number read off a maker's card."""
    return made(f"card.{card_id}.{field}", symbol, name, value, unit, source=f"card:{card_id}:{field}", label=label)


@lru_cache(maxsize=1024)
def constant(symbol: str, name: str, value: float, unit: str, source: str, *, limits: str = "") -> Figure:
    """A value fixed by a rule or by common practice; ``source`` is a key of the register."""
    return made(f"const.{source}.{symbol}", symbol, name, value, unit, source=source, limits=limits)

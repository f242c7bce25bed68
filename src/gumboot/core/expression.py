"""Numbers that remember how they were combined: ordinary arithmetic gives a value, and the working that people read.

Only figures (``core/figure.py``) have names; what stands between them is built here by operators and by the named operations below.
Clause functions of the rule books are written once and take plain numbers or expressions alike (``Amount``): for numbers they give a
number, for figures an expression. Nothing is printed before somebody opens a working.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, Any, TypeVar, cast, overload

from gumboot.core.errors import divided_by_nothing

if TYPE_CHECKING:
    from gumboot.core.figure import Figure


# A plan combines hundreds of numbers: filling a blank one saves a third of a constructor's time.
_blank = object.__new__


class Expression:
    """A value with the operation and the arguments that gave it."""

    __slots__ = ("args", "op", "value")
    value: float
    op: str
    args: tuple[Expression, ...]

    def __init__(self, value: float, op: str, args: tuple[Expression, ...]) -> None:
        self.value, self.op, self.args = value, op, args

    @property
    def figures(self) -> tuple[Figure, ...]:
        """The named figures it rests on, first come first. Looked up when asked: most workings are never opened."""
        return tuple(figures_in(self))

    def __float__(self) -> float:
        return float(self.value)

    def __add__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        made = _blank(Expression)
        made.value, made.op, made.args = self.value + b.value, "+", (self, b)
        return made

    def __radd__(self, other: float) -> Expression:
        return number(other) + self

    def __sub__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        made = _blank(Expression)
        made.value, made.op, made.args = self.value - b.value, "-", (self, b)
        return made

    def __rsub__(self, other: float) -> Expression:
        return number(other) - self

    def __mul__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        made = _blank(Expression)
        made.value, made.op, made.args = self.value * b.value, "*", (self, b)
        return made

    def __rmul__(self, other: float) -> Expression:
        return number(other) * self

    def __truediv__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        if b.value == 0:
            raise divided_by_nothing([f.name for f in b.figures])
        made = _blank(Expression)
        made.value, made.op, made.args = self.value / b.value, "/", (self, b)
        return made

    def __rtruediv__(self, other: float) -> Expression:
        return number(other) / self

    def __pow__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        return Expression(self.value**b.value, "**", (self, b))

    def __rpow__(self, other: float) -> Expression:
        return number(other) ** self

    def __neg__(self) -> Expression:
        return Expression(-self.value, "neg", (self,))

    def __abs__(self) -> Expression:
        return Expression(abs(self.value), "abs", (self,))


class Number(Expression):
    """A bare number in a formula. In a sum it takes the dimension of what stands beside it."""

    __slots__ = ()

    def __init__(self, value: float) -> None:
        self.value, self.op, self.args = value, "number", ()


# The few bare numbers that clauses are written with, each made once.
_NUMBERS: dict[float, Number] = {}
MOST_NUMBERS = 1000


def number(value: float) -> Number:
    """A bare number as a part or the beginning of a working."""
    found = _NUMBERS.get(value)
    if found is None:
        found = Number(value)
        if len(_NUMBERS) < MOST_NUMBERS:
            _NUMBERS[value] = found
    return found


Amount = TypeVar("Amount", float, Expression)


def figures_in(e: Expression) -> Iterator[Figure]:
    """The named figures that an expression rests on, first come first, each as often as it stands there."""
    waiting = [e]
    while waiting:
        part = waiting.pop()
        if part.op == "figure":
            yield cast("Figure", part)
        else:
            waiting.extend(reversed(part.args))


FUNCTIONS: dict[str, Callable[..., float]] = {
    "max": max,
    "min": min,
    "floor": math.floor,
    "ceil": math.ceil,
    "log": math.log,
    "sqrt": math.sqrt,
    "abs": abs,
}


def _combined(op: str, value: float, parts: Sequence[float | Expression]) -> Any:
    """The value with its operation, or the bare value where no part is an expression."""
    for part in parts:
        if isinstance(part, Expression):
            made = _blank(Expression)
            made.value, made.op = value, op
            made.args = (part,) if len(parts) == 1 else tuple([p if isinstance(p, Expression) else number(p) for p in parts])
            return made
    return value


def _of(op: str, parts: Sequence[float | Expression]) -> Any:
    return _combined(op, float(FUNCTIONS[op](*[p.value if isinstance(p, Expression) else p for p in parts])), parts)


def _called(op: str, part: Amount) -> Amount:
    value = float(FUNCTIONS[op](part.value if isinstance(part, Expression) else part))
    called: Amount = _combined(op, value, (part,))
    return called


@overload
def largest(*parts: float) -> float: ...  # type: ignore[overload-overlap]
@overload
def largest(*parts: Expression | float) -> Expression: ...
def largest(*parts: Expression | float) -> Expression | float:
    """The largest of several; of one, itself."""
    found: Expression | float = parts[0] if len(parts) == 1 else _of("max", parts)
    return found


@overload
def least(*parts: float) -> float: ...  # type: ignore[overload-overlap]
@overload
def least(*parts: Expression | float) -> Expression: ...
def least(*parts: Expression | float) -> Expression | float:
    """The least of several; of one, itself."""
    found: Expression | float = parts[0] if len(parts) == 1 else _of("min", parts)
    return found


def whole_below(part: Amount) -> Amount:
    """The whole number at or below. A hair is added, so that what is exactly whole stays."""
    return _called("floor", part + 1e-9)


def whole_above(part: Amount) -> Amount:
    """The whole number at or above. A hair is taken off, so that what is exactly whole stays."""
    return _called("ceil", part - 1e-9)


def natural_log(part: Amount) -> Amount:
    """Natural logarithm."""
    return _called("log", part)


def square_root(part: Amount) -> Amount:
    """Square root."""
    return _called("sqrt", part)


def root_three(like: Amount) -> Amount:
    """The square root of three, as a number or as a working: as what it stands beside."""
    three: Expression | float = Number(3.0) if isinstance(like, Expression) else 3.0
    return square_root(cast(Amount, three))


def total(parts: Sequence[Amount], nothing: Amount) -> Amount:
    """The sum of parts in their order; ``nothing`` where there are none."""
    if not parts:
        return nothing
    found = parts[0]
    for part in parts[1:]:
        found = found + part
    return found


def named(words: str, value: float, *parts: Amount) -> Amount:
    """An operation that prints itself in words, such as ``next standard rating from {0}``: a table, a next size, a solved network.

    ``value`` is what it gave for the values of ``parts``; where all of these are plain numbers it is the answer itself.
    """
    found: Amount = _combined(words, value, parts)
    return found

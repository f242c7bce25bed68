"""Numbers that remember how they were combined: ordinary arithmetic gives a value, and the working that people read.

Only figures (``core/figure.py``) have names; what stands between them is built here by operators and by the named operations below.
Clause functions of the rule books are written once and take plain numbers or expressions alike (``Amount``): for numbers they give a
number, for figures an expression. Nothing is printed before somebody opens a working.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, TypeVar, cast, overload

from gumboot.core.errors import divided_by_nothing

if TYPE_CHECKING:
    from gumboot.core.figure import Figure

# How tightly an operation binds; what prints itself as a call or a name binds tightest.
BINDS = {"+": 1, "-": 1, "*": 2, "/": 2, "neg": 3, "**": 4}
ATOM = 9


class Expression:
    """A value with the operation and the arguments that gave it. ``figures`` are the named figures it rests on, first come first."""

    __slots__ = ("args", "figures", "op", "value")
    value: float
    op: str
    args: tuple[Expression, ...]
    figures: tuple[Figure, ...]

    def __init__(self, value: float, op: str, args: tuple[Expression, ...]) -> None:
        self.value, self.op, self.args = value, op, args
        # Nearly always two, and then without a loop.
        self.figures = args[0].figures + args[1].figures if len(args) == 2 else tuple([f for part in args for f in part.figures])

    def __float__(self) -> float:
        return float(self.value)

    def __add__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        return Expression(self.value + b.value, "+", (self, b))

    def __radd__(self, other: float) -> Expression:
        return number(other) + self

    def __sub__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        return Expression(self.value - b.value, "-", (self, b))

    def __rsub__(self, other: float) -> Expression:
        return number(other) - self

    def __mul__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        return Expression(self.value * b.value, "*", (self, b))

    def __rmul__(self, other: float) -> Expression:
        return number(other) * self

    def __truediv__(self, other: Expression | float) -> Expression:
        b = other if isinstance(other, Expression) else number(other)
        if b.value == 0:
            raise divided_by_nothing([f.name for f in b.figures])
        return Expression(self.value / b.value, "/", (self, b))

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

    @property
    def binds(self) -> int:
        """How tightly it binds when it stands within another."""
        return BINDS.get(self.op, ATOM)

    def shown(self, name: Callable[[Figure], str]) -> str:
        """The working as text, each figure written as ``name`` says."""
        return shown(self, name)


class Number(Expression):
    """A bare number in a formula. In a sum it takes the dimension of what stands beside it."""

    __slots__ = ()

    def __init__(self, value: float) -> None:
        self.value, self.op, self.args, self.figures = value, "number", (), ()


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


def _digits(value: float) -> str:
    text = f"{value:.12g}"
    return text.replace("e-0", "e-").replace("e+0", "e")


def _within(part: Expression, least: int, name: Callable[[Figure], str]) -> str:
    """A part within an operation: in brackets where it binds less tightly."""
    text = shown(part, name)
    return f"({text})" if part.binds < least or (part.op == "number" and part.value < 0) else text


def shown(e: Expression, name: Callable[[Figure], str]) -> str:
    """The working of an expression as text."""
    if e.op == "figure":
        return name(e.figures[0])
    if e.op == "number":
        return _digits(e.value)
    if e.op in ("+", "*"):
        return f"{_within(e.args[0], e.binds, name)} {e.op} {_within(e.args[1], e.binds, name)}"
    if e.op in ("-", "/"):
        # What follows a minus or a stroke keeps its brackets at equal strength.
        return f"{_within(e.args[0], e.binds, name)} {e.op} {_within(e.args[1], e.binds + 1, name)}"
    if e.op == "**":
        return f"{_within(e.args[0], e.binds + 1, name)} ** {_within(e.args[1], e.binds + 1, name)}"
    if e.op == "neg":
        return f"-{_within(e.args[0], e.binds, name)}"
    if e.op in FUNCTIONS:
        return f"{e.op}({', '.join(shown(a, name) for a in e.args)})"
    # A named operation: words with a place for each argument.
    return e.op.format(*(shown(a, name) for a in e.args))


FUNCTIONS: dict[str, Callable[..., float]] = {
    "max": max,
    "min": min,
    "floor": math.floor,
    "ceil": math.ceil,
    "log": math.log,
    "sqrt": math.sqrt,
    "abs": abs,
}


def _is_expression(parts: Sequence[float | Expression]) -> bool:
    for part in parts:  # noqa: SIM110 - a generator costs three times as much here
        if isinstance(part, Expression):
            return True
    return False


def _lifted(parts: Sequence[float | Expression]) -> tuple[Expression, ...]:
    return tuple([p if isinstance(p, Expression) else number(p) for p in parts])


def _of(op: str, parts: Sequence[float | Expression]) -> Expression | float:
    value = float(FUNCTIONS[op](*[p.value if isinstance(p, Expression) else p for p in parts]))
    return Expression(value, op, _lifted(parts)) if _is_expression(parts) else value


def _called(op: str, part: Amount) -> Amount:
    return cast(Amount, _of(op, (part,)))


@overload
def largest(*parts: float) -> float: ...  # type: ignore[overload-overlap]
@overload
def largest(*parts: Expression | float) -> Expression: ...
def largest(*parts: Expression | float) -> Expression | float:
    """The largest of several; of one, itself."""
    return parts[0] if len(parts) == 1 else _of("max", parts)


@overload
def least(*parts: float) -> float: ...  # type: ignore[overload-overlap]
@overload
def least(*parts: Expression | float) -> Expression: ...
def least(*parts: Expression | float) -> Expression | float:
    """The least of several; of one, itself."""
    return parts[0] if len(parts) == 1 else _of("min", parts)


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
    return cast(Amount, Expression(value, words, _lifted(parts)) if _is_expression(parts) else value)

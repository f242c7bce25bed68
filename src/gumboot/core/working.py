"""How a working is printed: the expression of a figure as text, with right precedence, named operations in words."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, cast

from gumboot.core.expression import FUNCTIONS, Expression

# How tightly an operation binds; what prints itself as a call or a name binds tightest.
BINDS = {"+": 1, "-": 1, "*": 2, "/": 2, "neg": 3, "**": 4}
ATOM = 9


class Named(Protocol):
    """A figure as a working names it."""

    key: str
    value: float


def binds(e: Expression) -> int:
    """How tightly it binds when it stands within another."""
    return BINDS.get(e.op, ATOM)


def _digits(value: float) -> str:
    text = f"{value:.12g}"
    return text.replace("e-0", "e-").replace("e+0", "e")


def _within(part: Expression, least: int, name: Callable[[Named], str]) -> str:
    """A part within an operation: in brackets where it binds less tightly."""
    text = shown(part, name)
    return f"({text})" if binds(part) < least or (part.op == "number" and part.value < 0) else text


def shown(e: Expression, name: Callable[[Named], str]) -> str:
    """The working of an expression as text, each figure written as ``name`` says."""
    tight = binds(e)
    if e.op == "figure":
        return name(cast("Named", e))
    if e.op == "number":
        return _digits(e.value)
    if e.op in ("+", "*"):
        return f"{_within(e.args[0], tight, name)} {e.op} {_within(e.args[1], tight, name)}"
    if e.op in ("-", "/"):
        # What follows a minus or a stroke keeps its brackets at equal strength.
        return f"{_within(e.args[0], tight, name)} {e.op} {_within(e.args[1], tight + 1, name)}"
    if e.op == "**":
        return f"{_within(e.args[0], tight + 1, name)} ** {_within(e.args[1], tight + 1, name)}"
    if e.op == "neg":
        return f"-{_within(e.args[0], tight, name)}"
    if e.op in FUNCTIONS:
        return f"{e.op}({', '.join(shown(a, name) for a in e.args)})"
    # A named operation: words with a place for each argument.
    return e.op.format(*(shown(a, name) for a in e.args))

"""The dimension of an expression, worked out from the units of its figures: volts added to amperes are found here, never in production."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import pint

from gumboot.core.expression import FUNCTIONS, Expression
from gumboot.core.figure import Figure

REGISTRY: Any = pint.UnitRegistry()
NOTHING = REGISTRY.parse_expression("1").dimensionality
# As the program writes them, as the library reads them.
WRITTEN = {
    "": "1",
    "%": "1",
    "%/K": "1/kelvin",
    "°C": "kelvin",
    "K": "kelvin",
    "m/s2": "meter / second ** 2",
    "lbf in": "lbf * inch",
    "lbf ft": "lbf * foot",
    "A s^0.5/mm2": "ampere * second ** 0.5 / millimeter ** 2",
}


class Mixed(Exception):
    """An operation on quantities that do not go together."""


@lru_cache(maxsize=128)
def dimension_of_unit(unit: str) -> Any:
    """Dimension of a unit as figures write it. Raises pint's error for one that nobody knows."""
    text = WRITTEN.get(unit) or ("meter**2" if unit == "m2" else unit.replace("/m2", "/meter**2").replace("mm2", "millimeter**2")).replace(
        "K m/W", "kelvin * meter / watt"
    ).replace("N m", "newton * meter")
    return REGISTRY.parse_expression(text).dimensionality


def _alike(e: Expression, parts: list[Any]) -> Any:
    known = [p for p in parts if p is not None]
    if any(p != known[0] for p in known):
        raise Mixed(f"{e.op} of {' and '.join(str(p) for p in known)}")
    return known[0] if known else None


def dimension(e: Expression) -> Any:
    """Dimension of an expression; None for a bare number or what is told in words, which may be anything. Raises Mixed."""
    if isinstance(e, Figure):
        return dimension_of_unit(e.unit)
    parts = [dimension(a) for a in e.args]
    match e.op:
        case "number":
            return None
        case "+" | "-" | "max" | "min":
            return _alike(e, parts)
        case "neg" | "abs" | "floor" | "ceil":
            return parts[0]
        case "*" | "/":
            if any(p is None and a.op != "number" for p, a in zip(parts, e.args, strict=True)):
                return None
            left, right = (NOTHING if p is None else p for p in parts)
            return left * right if e.op == "*" else left / right
        case "**":
            if e.args[1].figures and any(p not in (None, NOTHING) for p in parts):
                raise Mixed("an exponent of figures on what is not a bare number")
            if e.args[1].figures:
                return NOTHING
            return parts[0] if parts[0] is None else parts[0] ** e.args[1].value
        case "sqrt":
            return parts[0] if parts[0] is None else parts[0] ** 0.5
        case "log":
            return _alike(e, [*parts, NOTHING])
    assert e.op not in FUNCTIONS
    return None


def check(figure: Figure) -> None:
    """Raise Mixed when a figure's working does not give its unit."""
    if figure.work is None:
        return
    found = dimension(figure.work)
    if found is not None and found != dimension_of_unit(figure.unit):
        raise Mixed(f"{figure.key}: {figure.formula} gives {found}, not {figure.unit}")

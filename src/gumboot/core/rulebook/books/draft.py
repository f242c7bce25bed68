"""A figure before it has a key: what a clause works out, wherever it is asked."""

from __future__ import annotations

from collections.abc import Callable

from gumboot.core.expression import Expression
from gumboot.core.figure import Figure, made

# A figure without a key.
Draft = Figure
# Keeps a draft under a name of the asker's own, and gives the figure.
Put = Callable[[str, Draft], Figure]


def draft(symbol: str, name: str, value: Expression | float, unit: str, source: str, *, label: str = "", limits: str = "") -> Draft:
    """What a clause worked out; whoever asked keeps it under a key."""
    return made("", symbol, name, value, unit, source=source, label=label, limits=limits)

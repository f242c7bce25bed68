"""A figure before it has a key: what a clause works out, wherever it is asked."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from gumboot.core.expression import Expression
from gumboot.core.figure import Figure


class Draft(NamedTuple):
    """Symbol, name, value with its working, unit and source of a figure to be."""

    symbol: str
    name: str
    value: Expression | float
    unit: str
    source: str
    label: str = ""
    limits: str = ""


# Keeps a draft under a name of the asker's own, and gives the figure.
Put = Callable[[str, Draft], Figure]

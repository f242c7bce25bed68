"""One line of the settings sheet."""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import BadFigure
from gumboot.core.figure import Figure
from gumboot.core.values import Values

# A setting may be off by the display's own rounding, never by more than this share of it (common practice); a voltage by less.
SHARE, VOLTS_SHARE, CAPACITY_SHARE = 0.005, 0.001, 0.05


class Setting(Values):
    """One line of the sheet: what to set and why. Exactly one of ``figure`` and ``text`` is given.

    ``choices`` are all that the device offers where it is a choice, ``also`` other right words for the one asked. ``guards`` says what a
    difference would touch: one that guards something counts only when a licence holder agrees to it.
    ``unsigned`` is a value whose sign devices leave out, as they know which way it goes. ``share`` is how far it may lie off as a share of it,
    ``safer`` on which side a difference is the careful one.
    """

    key: str
    group: str
    title: str
    why: str
    figure: Figure | None = None
    text: str = ""
    choices: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    guards: Literal["", "life", "licence", "grid"] = ""
    time: bool = False
    unsigned: bool = False
    share: float = SHARE
    safer: Literal["", "lower", "higher"] = ""

    @property
    def amount(self) -> Figure:
        """The figure of a numeric line. Raises BadFigure for a line of words."""
        if self.figure is None:
            raise BadFigure(f"{self.key} is set in words")
        return self.figure

"""The fault current at one place, and at all of them."""

from __future__ import annotations

from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.values import Values

Side = Literal["AC", "battery", "PV"]


class FaultAt(Values):
    """The largest current that can flow into a fault at one side of a thing; what a device there must break.

    ``amps`` is None where no source that reaches the place says what it gives. ``silent`` names those that say nothing: they are not
    in the figure. ``sources`` names those that are.
    """

    place: str
    side: Side
    amps: Figure | None
    sources: tuple[str, ...] = ()
    silent: tuple[str, ...] = ()


class FaultsPlan(Values):
    """The fault current at each place, in the order of the way from roof to street."""

    at: tuple[FaultAt, ...]

    def of(self, place: str, side: Side) -> FaultAt | None:
        """That at one side of a thing; None where nothing of that side reaches it."""
        return next((fault for fault in self.at if (fault.place, fault.side) == (place, side)), None)

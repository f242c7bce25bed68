"""What the books say of where a battery stands and how much room its front needs."""

from __future__ import annotations

from typing import Protocol

from gumboot.core.expression import named
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books.draft import Draft, draft
from gumboot.core.rulebook.north_american.place import BETWEEN_UNITS_MM, HANDLE_MM, working_depth_mm


class PlaceClauses(Protocol):
    """A family's clauses of places. ``between_units_mm`` is None where the book asks for no spacing."""

    between_units_mm: float | None
    # Highest that the handle of a switch or breaker may stand, None where the book leaves it open.
    handle_mm: float | None

    def working_depth(self, to_ground: Figure, condition: int) -> Draft | None:
        """Depth of working space by voltage to ground and condition; None where the book has one depth for all."""


class NecPlace:
    """NEC 110.26 and NFPA 855."""

    between_units_mm: float | None = BETWEEN_UNITS_MM
    handle_mm: float | None = HANDLE_MM

    def working_depth(self, to_ground: Figure, condition: int) -> Draft | None:
        """Table 110.26(A)(1)."""
        depth = named(
            f"row of Table 110.26(A)(1) for {{0}}, condition {condition}", working_depth_mm(to_ground.value, condition), to_ground
        )
        limits = f"Condition {condition}; 762 mm wide or as wide as the equipment, 1.98 m high."
        return draft("d_min", "Working space in front", depth, "mm", "nec.110.26", limits=limits)


class IecPlace:
    """One depth for all, by edition."""

    between_units_mm: float | None = None
    handle_mm: float | None = None

    def working_depth(self, to_ground: Figure, condition: int) -> Draft | None:
        """The book's own figure."""
        return None

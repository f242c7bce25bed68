"""What the books say of protection against shock: which questions a family asks, and when an island needs an earth of its own."""

from __future__ import annotations

from typing import Protocol


class ShockClauses(Protocol):
    """A family's answers on shock protection."""

    judges_loops: bool
    judges_electrode: bool

    def island_earth(self, *, earthing: str, off_grid: bool, neutral_switched: bool) -> str:
        """Why an island needs an earth electrode of its own; empty where it needs none."""


class NecShock:
    """NEC 250.30 and 250.66; loop impedance is no clause of it."""

    judges_loops, judges_electrode = False, True

    def island_earth(self, *, earthing: str, off_grid: bool, neutral_switched: bool) -> str:
        """A separately derived source (250.30)."""
        return "this source is separately derived" if off_grid or neutral_switched else ""


class IecShock:
    """IEC 60364-4-41 and -5-54."""

    judges_loops, judges_electrode = True, False

    def island_earth(self, *, earthing: str, off_grid: bool, neutral_switched: bool) -> str:
        """The supply's earth is lost with the supply, unless it is the installation's own (TT)."""
        return "the supply's earth is lost with the supply" if earthing != "TT" or off_grid else ""

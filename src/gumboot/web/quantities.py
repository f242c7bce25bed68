"""What people type at a field: the core's grammar, with a bare number read in the unit that the field shows."""

from __future__ import annotations

from gumboot.core import reading
from gumboot.drawing.show import US


def parse(text: str, unit: str, system: str = "SI", per_volt: float | None = None) -> float:
    """A typed quantity in ``unit``; a bare number is in the unit shown beside the field. Raises BadUnit."""
    return reading.parse(text, unit, US[unit][0] if system == "US" and unit in US else None, per_volt)

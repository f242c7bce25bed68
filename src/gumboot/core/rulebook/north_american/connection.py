"""May this source be connected to that board?"""

from __future__ import annotations


def busbar_demand_a(main_device_a: float, source_output_a: float) -> float:
    """Sum in A of the main device and 125 % of the source output, sources at opposite ends (705.12(B)(2))."""
    return main_device_a + 1.25 * source_output_a


def busbar_limit_a(busbar_a: float) -> float:
    """120 % of the busbar rating in A (705.12(B)(2))."""
    return 1.2 * busbar_a

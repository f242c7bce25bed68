"""May this source be connected to that board?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.units import M_PER_FOOT

BusbarCase = Literal["sum", "opposite ends", "sum of devices", "centre fed"]
SOURCE_FACTOR = 1.25
OPPOSITE_FACTOR = 1.2
SHORT_TAP_M, LONG_TAP_M = 10 * M_PER_FOOT, 25 * M_PER_FOOT


def busbar_demand_a(main_device_a: float, source_output_a: float) -> float:
    """Sum in A of the main device and 125 % of the source output (705.12(B)(1) and (2))."""
    return main_device_a + SOURCE_FACTOR * source_output_a


def busbar_limit_a(busbar_a: float) -> float:
    """120 % of the busbar rating in A, feeds at opposite ends (705.12(B)(2))."""
    return OPPOSITE_FACTOR * busbar_a


def devices_sum_a(devices_a: Sequence[float]) -> float:
    """Sum in A of every device on the busbar, loads and sources, the main left out (705.12(B)(3))."""
    return float(sum(devices_a))


def largest_main_a(busbar_a: float, source_output_a: float, case: BusbarCase = "opposite ends") -> float:
    """Largest main device in A for a source: what a main-breaker derate must reach (705.12(B)(1), (2) and (4))."""
    limit = busbar_a if case == "sum" else OPPOSITE_FACTOR * busbar_a
    return limit - SOURCE_FACTOR * source_output_a


def feeder_ampacity_a(primary_device_a: float, source_output_a: float) -> float:
    """Least ampacity in A of a feeder on the load side of the source's connection, without a device there (705.12(A)(1))."""
    return primary_device_a + SOURCE_FACTOR * source_output_a


def tap_ampacity_a(primary_device_a: float, source_output_a: float, length_m: float) -> float:
    """Least ampacity in A of a tap to a device: a tenth up to 10 ft, a third up to 25 ft of the sum (705.12(A)(3), 240.21(B)).

    The clause prints 3 m (10 ft) and 7.5 m (25 ft); either system of units suffices (90.9(D)). The sum takes both feeds
    together. Raises OutOfRange beyond 25 ft.
    """
    total = feeder_ampacity_a(primary_device_a, source_output_a)
    if length_m <= SHORT_TAP_M + 1e-9:
        return total / 10
    if length_m <= LONG_TAP_M + 1e-9:
        return total / 3
    raise OutOfRange("tap length", f"{length_m} m", "up to 7.62 m (25 ft)", "NEC 2023 240.21(B)", "Put the device within 25 ft of the tap.")


def supply_side_limit_a(service_a: float) -> float:
    """Most source output in A on the supply side of the service disconnect: the service rating (705.11(A))."""
    return service_a


def controlled_limit_a(busbar_a: float, setting_a: float) -> float:
    """Margin in A of a controlled source: the power-control setting may not exceed the busbar (705.13)."""
    return busbar_a - setting_a


def optional_dwelling_va(general_va: float, heating_cooling_va: float) -> float:
    """Demand in VA of a dwelling by the optional method: 10 kVA at 100 %, the rest at 40 %, heating or cooling in full (220.82)."""
    return min(general_va, 10000.0) + 0.4 * max(0.0, general_va - 10000.0) + heating_cooling_va

"""May this source be connected to that board?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Amount
from gumboot.core.rulebook.north_american.demand import general_counted_va
from gumboot.core.units import M_PER_FOOT

BusbarCase = Literal["sum", "opposite ends", "sum of devices", "centre fed"]
SOURCE_FACTOR = 1.25
OPPOSITE_FACTOR = 1.2
SHORT_TAP_M, LONG_TAP_M = 10 * M_PER_FOOT, 25 * M_PER_FOOT


def busbar_demand_a(main_device_a: Amount, source_output_a: Amount) -> Amount:
    """Sum in A of the main device and 125 % of the source output (705.12(B)(1) and (2))."""
    return main_device_a + SOURCE_FACTOR * source_output_a


def busbar_limit_a(busbar_a: Amount, case: BusbarCase = "opposite ends") -> Amount:
    """What a busbar may carry in A: 120 % of its rating with the feeds at opposite ends or in a centre-fed dwelling board
    (705.12(B)(2) and (4)), else its rating."""
    return OPPOSITE_FACTOR * busbar_a if case in ("opposite ends", "centre fed") else 1.0 * busbar_a


def devices_sum_a(devices_a: Sequence[float]) -> float:
    """Sum in A of every device on the busbar, loads and sources, the main left out (705.12(B)(3))."""
    return float(sum(devices_a))


def largest_main_a(busbar_a: Amount, source_output_a: Amount, case: BusbarCase = "opposite ends") -> Amount:
    """Largest main device in A for a source: what a main-breaker derate must reach (705.12(B)(1), (2) and (4))."""
    return busbar_limit_a(busbar_a, case) - SOURCE_FACTOR * source_output_a


def feeder_ampacity_a(primary_device_a: Amount, source_output_a: Amount) -> Amount:
    """Least ampacity in A of a feeder on the load side of the source's connection, without a device there (705.12(A)(1))."""
    return primary_device_a + SOURCE_FACTOR * source_output_a


def tap_ampacity_a(feeder_a: Amount, length_m: float) -> Amount:
    """Least ampacity in A of a tap to a device: a tenth up to 10 ft, a third up to 25 ft of the feeder's (705.12(A)(3), 240.21(B)).

    The clause prints 3 m (10 ft) and 7.5 m (25 ft); either system of units suffices (90.9(D)). The sum takes both feeds
    together. Raises OutOfRange beyond 25 ft.
    """
    if length_m <= SHORT_TAP_M + 1e-9:
        return feeder_a / 10.0
    if length_m <= LONG_TAP_M + 1e-9:
        return feeder_a / 3.0
    raise OutOfRange("tap length", f"{length_m} m", "up to 7.62 m (25 ft)", "NEC 2023 240.21(B)", "Put the device within 25 ft of the tap.")


def optional_dwelling_va(general_va: Amount, heating_cooling_va: Amount) -> Amount:
    """Demand in VA of a dwelling by the optional method: 10 kVA at 100 %, the rest at 40 %, heating or cooling in full (220.82)."""
    return general_counted_va(general_va) + heating_cooling_va

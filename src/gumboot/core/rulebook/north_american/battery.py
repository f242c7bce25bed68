"""What does the battery circuit carry at its worst?"""

from __future__ import annotations


def inverter_input_current_a(output_w: float, lowest_v: float, efficiency: float) -> float:
    """DC current in A at the lowest battery voltage, conversion loss included (706.30(A))."""
    return output_w / (lowest_v * efficiency)


def bank_fault_current_a(unit_fault_a: float, units: int) -> float:
    """Prospective fault current in A at the busbars, leads neglected (safe side)."""
    return unit_fault_a * units


def precharge_time_constant_s(resistance_ohm: float, capacitance_f: float) -> float:
    """Time constant in s of the pre-charge path."""
    return resistance_ohm * capacitance_f

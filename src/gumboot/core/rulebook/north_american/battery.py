"""What does the battery circuit carry at its worst?"""

from __future__ import annotations

from gumboot.core.expression import Amount


def inverter_input_current_a(output_w: Amount, lowest_v: Amount, efficiency: Amount) -> Amount:
    """DC current in A at the lowest battery voltage, conversion loss included (706.30(A))."""
    return output_w / (lowest_v * efficiency)


def bank_fault_current_a(unit_fault_a: Amount, units: Amount) -> Amount:
    """Prospective fault current in A at the busbars, leads neglected (safe side)."""
    return units * unit_fault_a

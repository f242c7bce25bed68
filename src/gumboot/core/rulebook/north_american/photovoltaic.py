"""What voltage and current can this string reach?"""

from __future__ import annotations


def module_voltage_v(voltage_stc_v: float, coefficient_per_k: float, cell_c: float) -> float:
    """Module voltage in V at a cell temperature by the maker's linear coefficient, referred to 25 °C (690.7(A)(1))."""
    return voltage_stc_v * (1.0 + coefficient_per_k * (cell_c - 25.0))


def string_voltage_v(modules: int, voltage_stc_v: float, coefficient_per_k: float, cell_c: float) -> float:
    """String voltage in V: modules in series times the module voltage."""
    return modules * module_voltage_v(voltage_stc_v, coefficient_per_k, cell_c)


def maximum_circuit_current_a(short_circuit_a: float, parallel_strings: int = 1) -> float:
    """Maximum circuit current in A: 125 % of the short-circuit currents in parallel (690.8(A)(1))."""
    return 1.25 * short_circuit_a * parallel_strings


def conductor_current_a(maximum_current_a: float) -> float:
    """Conductor current in A before factors: 125 % of the maximum current (690.8(B)(1))."""
    return 1.25 * maximum_current_a

"""What voltage and current can this string reach?"""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Amount, named
from gumboot.core.rulebook.loader import read_table

_CORRECTION = [(float(r["ambient_min_c"]), float(r["factor"])) for r in read_table("north_american/tables/pv_voltage_correction.csv")]
RAPID_SHUTDOWN_INSIDE_V = 80.0
RAPID_SHUTDOWN_OUTSIDE_V = 30.0
RAPID_SHUTDOWN_S = 30.0
ARRAY_BOUNDARY_MM = 305.0


def module_voltage_v(voltage_stc_v: Amount, coefficient_per_k: Amount, cell_c: Amount) -> Amount:
    """Module voltage in V at a cell temperature by the maker's linear coefficient, referred to 25 °C (690.7(A)(1))."""
    return voltage_stc_v * (1.0 + coefficient_per_k * (cell_c - 25.0))


def string_voltage_v(modules: Amount, voltage_stc_v: Amount, coefficient_per_k: Amount, cell_c: Amount) -> Amount:
    """String voltage in V: modules in series times the module voltage."""
    return modules * module_voltage_v(voltage_stc_v, coefficient_per_k, cell_c)


def tabulated_correction(ambient_c: Amount) -> Amount:
    """Voltage correction factor for crystalline silicon by the lowest ambient (Table 690.7(A)).

    1.0 from 25 °C up. Raises OutOfRange below -40 °C.
    """
    words = "row of Table 690.7(A) for {0}"
    if float(ambient_c) >= 25:
        return named(words, 1.0, ambient_c)
    for least_c, factor in _CORRECTION:
        if float(ambient_c) >= least_c:
            return named(words, factor, ambient_c)
    raise OutOfRange(
        "lowest ambient", f"{ambient_c} °C", "-40 °C or warmer", "NEC 2023 Table 690.7(A)", "Use the maker's coefficient, 690.7(A)(1)."
    )


def maximum_circuit_current_a(short_circuit_a: Amount, parallel_strings: Amount) -> Amount:
    """Maximum circuit current in A: 125 % of the short-circuit currents in parallel (690.8(A)(1))."""
    return 1.25 * parallel_strings * short_circuit_a


def conductor_current_a(maximum_current_a: Amount) -> Amount:
    """Conductor current in A before factors: 125 % of the maximum current (690.8(B)(1))."""
    return 1.25 * maximum_current_a


def back_feed_a(parallel_strings: Amount, short_circuit_a: Amount) -> Amount:
    """What the other strings of an input can feed into a fault in one, A: 125 % of their short-circuit current (690.9(A), 690.8(A)(1))."""
    return (parallel_strings - 1) * 1.25 * short_circuit_a


def string_fuse_minimum_a(short_circuit_a: Amount) -> Amount:
    """Least string fuse in A: 125 % of the maximum circuit current of one string (690.9(B)(1))."""
    return 1.25 * 1.25 * short_circuit_a

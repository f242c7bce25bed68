"""What do modules give hot and cold, what do strings together carry, and how do array and inverter compare?"""

from __future__ import annotations

from gumboot.core.expression import whole_below
from gumboot.core.figure import Figure
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.sums.ask import Ask, count, quantity, told
from gumboot.core.workbook import Workbook


class ModulePower(Ask):
    """Power of a module at its cell temperature and sun."""

    power: float = quantity("W", "Power at standard conditions", symbol="P_stc", gt=0, le=2000)
    coefficient: float = quantity("%/K", "Coefficient of the power (negative)", symbol="gamma", ge=-1, le=0)
    air: float = quantity("°C", "Air temperature", symbol="T_a", ge=-60, le=60)
    noct: float = quantity("°C", "Nominal operating cell temperature of the card", 45.0, symbol="T_noct", ge=30, le=70)
    sun: float = quantity("%", "Share of full sun (1000 W for a square metre)", 100.0, symbol="g", gt=0, le=140)
    modules: int = count("Modules", 1, symbol="n", ge=1, le=10000)


def module_power(w: Workbook, q: ModulePower) -> Figure:
    """Power in W, with the cell temperature beside it: the card's nominal one is for 800 W/m2, 20 °C and a breeze."""
    sun = told(w, q, "sun") / 100
    holds = "Mounted in the open; under a roof hook 5 to 10 K more."
    cell_c = told(w, q, "air") + (told(w, q, "noct") - 20) / 0.8 * sun
    cell = w.work("cell", "T_cell", "Cell temperature", cell_c, "°C", source="noct.61215", limits=holds)
    each = told(w, q, "power") * sun * (1 + told(w, q, "coefficient") / 100 * (cell - 25))
    one = w.work("one", "P_1", "Power of one module", each, "W", source="physics")
    return w.work("power", "P", "Power", told(w, q, "modules") * one, "W", source="physics")


class DcAcRatio(Ask):
    """Module power against the inverter's."""

    modules: float = quantity("W", "Power of all modules", symbol="P_dc", gt=0, le=10000000)
    inverter: float = quantity("W", "Output of the inverter", symbol="P_ac", gt=0, le=10000000)


def dc_ac_ratio(w: Workbook, q: DcAcRatio) -> Figure:
    """The ratio; usual ones lie between 1.0 and 1.35 (common practice)."""
    holds = "Usual: 1.0 to 1.35. The inverter's limits of voltage, current and PV power stand apart from it."
    return w.work("ratio", "r", "DC to AC ratio", told(w, q, "modules") / told(w, q, "inverter"), "", source="cp.dcac", limits=holds)


class StringCurrent(Ask):
    """Currents of strings in parallel: maximum, conductor, back-feed and fuse."""

    isc: float = quantity("A", "Short-circuit current of the module", symbol="I_sc", gt=0, le=100)
    strings: int = count("Strings in parallel", 1, symbol="N", ge=1, le=100)
    fuse: float = quantity("A", "Largest fuse that the module bears", symbol="I_f", gt=0, le=200)


def string_current(w: Workbook, q: StringCurrent) -> tuple[Figure, tuple[str, ...]]:
    """Maximum circuit current in A, with what the other strings feed back into one."""
    clauses, isc, n = w.book.strings, told(w, q, "isc"), told(w, q, "strings")
    most = w.work("maximum", "I_max", "Maximum circuit current", pv.maximum_circuit_current_a(isc, n), "A", source=clauses.current_source)
    if (sized := clauses.conductor_current(most)) is not None:
        w.work("conductor", "I_c", "Conductor sized for", sized[0], "A", source=sized[1])
    back = w.work(
        "back", "I_back", "What the other strings feed into a fault in one", clauses.back_feed(n, isc), "A", source=clauses.fuse_source
    )
    bears = told(w, q, "fuse")
    if back.value <= bears.value:
        return most, ("No string fuse is needed: the others feed no more than the module bears.",)
    low, high = clauses.fuse_range(isc, bears)
    least = w.work("fuse_least", "I_f_min", "Smallest string fuse", low, "A", source=clauses.fuse_source)
    top = w.work("fuse_most", "I_f_max", "Largest string fuse", high, "A", source=clauses.fuse_source)
    fits = least.value <= top.value
    return most, (
        f"Each string needs a fuse of {least.value:.1f} to {top.value:.1f} A." if fits else "No fuse fits: put fewer strings together.",
    )


class LongestString(Ask):
    """The longest string by the table of lowest temperatures (NEC 690.7(A)(2)), and by the tracker's top."""

    voc: float = quantity("V", "Open-circuit voltage of the module, 25 °C", symbol="V_oc", gt=0, le=200)
    coldest: float = quantity("°C", "Record low air temperature", symbol="T_c", ge=-40, le=40)
    limit: float = quantity("V", "Voltage that is never exceeded", symbol="V_lim", gt=0, le=1500)


def longest_string(w: Workbook, q: LongestString) -> Figure:
    """Modules in series."""
    factor = w.work("factor", "F_T", "Correction by the table", pv.tabulated_correction(told(w, q, "coldest")), "", source="nec.690.7t")
    one = w.work("one", "V_1", "One module, coldest", told(w, q, "voc") * factor, "V", source="nec.690.7t")
    holds = "For crystalline silicon whose maker gives no coefficient."
    return w.work("most", "n_max", "Most modules in series", whole_below(told(w, q, "limit") / one), "", source="nec.690.7t", limits=holds)

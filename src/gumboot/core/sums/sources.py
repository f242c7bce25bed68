"""May it be joined, which strings fit, what does the frequency hold back, how long does it last?"""

from __future__ import annotations

import math
from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure, constant
from gumboot.core.rulebook.common.droop import droop as droop_of
from gumboot.core.rulebook.common.droop import power_share
from gumboot.core.rulebook.iec_family.connection import board_current_a
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.sums.ask import Ask, choice, count, quantities, quantity
from gumboot.core.workbook import Workbook


class Busbar(Ask):
    """Busbar rule of a board."""

    main: float = quantity("A", "Main device", gt=0, le=2000)
    busbar: float = quantity("A", "Busbar rating", gt=0, le=2000)
    source: float = quantity("A", "Output of every source together", gt=0, le=2000)
    case: nec.BusbarCase = choice("Case (NEC)", "opposite ends")
    devices: tuple[float, ...] = quantities("A", "Every device but the main, for the sum of devices (NEC)", default=(), max_length=100)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """The sum of devices needs the devices, and only that sum does."""
        if family == "nec" and self.case == "sum of devices" and not self.devices:
            return "devices", "this is needed for the sum of devices: give every device but the main, such as 20; 20; 30."
        if self.case != "sum of devices" and self.devices:
            return "devices", "this is used for the sum of devices only. Leave it out, or choose that case."
        return None


def busbar(w: Workbook, q: Busbar) -> Figure:
    """Margin in A of the busbar; below nothing it is refused."""
    main = w.given("main", "I_main", "Main device", q.main, "A")
    bar = w.given("busbar", "I_bus", "Busbar rating", q.busbar, "A")
    source = w.given("source", "I_src", "Sources together", q.source, "A")
    if w.book.family == "iec":
        total = w.work(
            "sum",
            "I_sum",
            "Main device and sources",
            board_current_a(q.main, [q.source]),
            "A",
            "iec.712.main",
            "I_main + I_src",
            (main, source),
        )
        limit, clause, code = (
            w.work("limit", "I_lim", "What the busbar carries", q.busbar, "A", "iec.712.main", "I_bus", (bar,)),
            "iec.712.main",
            "GRID-MAIN-SWITCH",
        )
    else:
        clause, code, factor = "nec.705.12", "BUS-120", 1.2 if q.case in ("opposite ends", "centre fed") else 1.0
        if q.case == "sum of devices":
            total = w.work("sum", "I_sum", "Every device but the main", nec.devices_sum_a(q.devices), "A", clause)
        else:
            total = w.work(
                "sum",
                "I_sum",
                "Main device and 125 % of the sources",
                nec.busbar_demand_a(q.main, q.source),
                "A",
                clause,
                "I_main + 1.25 * I_src",
                (main, source),
            )
            most = nec.largest_main_a(q.busbar, q.source, q.case)
            w.work(
                "main_most",
                "I_main_max",
                "Largest main device beside these sources",
                most,
                "A",
                clause,
                f"{factor:g} * I_bus - 1.25 * I_src",
                (bar, source),
            )
        limit = w.work("limit", "I_lim", "What the busbar allows", factor * q.busbar, "A", clause, f"{factor:g} * I_bus", (bar,))
    w.verdict(
        code,
        total.value <= limit.value + 1e-9,
        "board",
        f"{total.value:.1f} A against {limit.value:.1f} A that the busbar allows.",
        "Reduce the main device, move the feed to the far end, or connect ahead of the board.",
        found=total,
        limit=limit,
    )
    return w.work("margin", "I_m", "Margin", limit.value - total.value, "A", clause, "I_lim - I_sum", (limit, total))


class FeederTap(Ask):
    """Feeder or tap that a source feeds into (NEC 705.12(A))."""

    primary: float = quantity("A", "Device of the primary source", gt=0, le=2000)
    source: float = quantity("A", "Output of the source", gt=0, le=2000)
    length: float | None = quantity("m", "Length of the tap; empty for a feeder", None, gt=0, le=100)


def feeder_tap(w: Workbook, q: FeederTap) -> Figure:
    """Least ampacity of the conductor."""
    primary = w.given("primary", "I_p", "Device of the primary source", q.primary, "A")
    source = w.given("source", "I_src", "Output of the source", q.source, "A")
    feeder = w.work(
        "feeder",
        "I_f",
        "Feeder's ampacity at least",
        nec.feeder_ampacity_a(q.primary, q.source),
        "A",
        "nec.705.12a",
        "I_p + 1.25 * I_src",
        (primary, source),
    )
    if q.length is None:
        return feeder
    w.given("length", "L", "Length of the tap", q.length, "m")
    least = nec.tap_ampacity_a(q.primary, q.source, q.length)
    part = 10 if q.length <= nec.SHORT_TAP_M + 1e-9 else 3
    return w.work(
        "tap",
        "I_tap",
        "Tap's ampacity at least",
        least,
        "A",
        "nec.705.12a",
        f"I_f / {part}",
        (feeder,),
        limits="To 10 ft a tenth, to 25 ft a third.",
    )


class DwellingLoad(Ask):
    """Demand of a dwelling by the optional method (NEC 220.82)."""

    general: float = quantity("W", "General load and appliances", ge=0, le=500000)
    climate: float = quantity("W", "Heating or cooling, the larger", 0.0, ge=0, le=200000)
    voltage: float = quantity("V", "Voltage of the service", 240.0, gt=0, le=1000)


def dwelling_load(w: Workbook, q: DwellingLoad) -> Figure:
    """Service current in A."""
    general, climate = (
        w.given("general", "P_g", "General load", q.general, "W"),
        w.given("climate", "P_c", "Heating or cooling", q.climate, "W"),
    )
    volts = w.given("voltage", "U", "Voltage of the service", q.voltage, "V")
    demand = w.work(
        "demand",
        "P_d",
        "Demand",
        nec.optional_dwelling_va(q.general, q.climate),
        "W",
        "nec.220.82",
        "min(P_g, 10000) + 0.4 * max(0, P_g - 10000) + P_c",
        (general, climate),
        limits="One dwelling, service of 100 A or more.",
    )
    return w.work("service", "I_d", "Service current", demand.value / q.voltage, "A", "nec.220.82", "P_d / U", (demand, volts))


class StringRange(Ask):
    """How many modules in series."""

    voc: float = quantity("V", "Module open-circuit voltage at 25 °C", gt=0, le=200)
    vmp: float = quantity("V", "Module voltage at maximum power", gt=0, le=200)
    coefficient: float = quantity("%/K", "Coefficient of the open-circuit voltage (negative)", of="voc", ge=-1, le=0)
    vmp_coefficient: float = quantity("%/K", "Coefficient of the operating voltage (negative)", of="vmp", ge=-1, le=0)
    coldest: float = quantity("°C", "Record low air temperature", ge=-60, le=40)
    hottest_cell: float = quantity("°C", "Hottest cell", ge=0, le=110)
    limit: float = quantity("V", "Inverter's maximum voltage", gt=0, le=1500)
    window: float = quantity("V", "Bottom of the tracker's window", gt=0, le=1500)
    modules: int | None = count("Modules wanted, to judge them", None, ge=1, le=60)


def string_range(w: Workbook, q: StringRange) -> Figure:
    """Most modules in series, with the fewest beside it."""
    voc, vmp = w.given("voc", "V_oc", "Open-circuit voltage", q.voc, "V"), w.given("vmp", "V_mp", "Voltage at maximum power", q.vmp, "V")
    beta, gamma = (
        w.given("coefficient", "beta", "Coefficient", q.coefficient, "%/K"),
        w.given("vmp_coefficient", "gamma", "Operating coefficient", q.vmp_coefficient, "%/K"),
    )
    cold, hot = (
        w.given("coldest", "T_c", "Record low", q.coldest, "°C"),
        w.given("hottest_cell", "T_h", "Hottest cell", q.hottest_cell, "°C"),
    )
    top, low = (
        w.given("limit", "V_in", "Inverter's maximum voltage", q.limit, "V"),
        w.given("window", "V_low", "Bottom of the window", q.window, "V"),
    )
    book = w.book
    dwelling = w.keep(constant("V_dw", "Limit of the rule book at a dwelling", book.pv_limit_v, "V", book.pv_limit_source))
    source = "nec.690.7" if book.family == "nec" else "iec.62548.v"
    cold_v, hot_v = (
        pv.module_voltage_v(q.voc, q.coefficient / 100, q.coldest),
        pv.module_voltage_v(q.vmp, q.vmp_coefficient / 100, q.hottest_cell),
    )
    one = w.work(
        "cold_one",
        "V_1c",
        "One module, coldest, open circuit",
        cold_v,
        "V",
        source,
        "V_oc * (1 + beta / 100 * (T_c - 25))",
        (voc, beta, cold),
    )
    warm = w.work(
        "hot_one",
        "V_1h",
        "One module, hottest, at maximum power",
        hot_v,
        "V",
        "physics",
        "V_mp * (1 + gamma / 100 * (T_h - 25))",
        (vmp, gamma, hot),
    )
    if book.family == "nec" and q.coldest >= -40:
        factor = w.work("factor", "F_T", "Correction by the table", pv.tabulated_correction(q.coldest), "", "nec.690.7t", given=(cold,))
        w.work(
            "cold_table",
            "V_1t",
            "One module, coldest, by the table",
            q.voc * factor.value,
            "V",
            "nec.690.7t",
            "V_oc * F_T",
            (voc, factor),
            limits="Where the maker gives no coefficient.",
        )
    limit = min(q.limit, book.pv_limit_v)
    fewest = w.work(
        "fewest",
        "n_min",
        "Fewest modules in series",
        math.ceil(q.window / hot_v - 1e-9),
        "",
        "physics",
        "ceil(V_low / V_1h - 1e-9)",
        (low, warm),
    )
    most = w.work(
        "most",
        "n_max",
        "Most modules in series",
        math.floor(limit / cold_v + 1e-9),
        "",
        source,
        "floor(min(V_in, V_dw) / V_1c + 1e-9)",
        (top, dwelling, one),
    )
    w.verdict(
        "PV-HOT-LOW",
        fewest.value <= most.value,
        "string",
        f"No string works: it needs at least {fewest.value:.0f} modules to reach the window, and {most.value:.0f} are the most in the cold.",
        "Choose another module, or an input with a wider window.",
        found=most,
        limit=fewest,
    )
    if q.modules is not None:
        n = w.given("modules", "n", "Modules wanted", q.modules, "")
        reached = w.work("cold_v", "V_c", "Cold open-circuit voltage", q.modules * cold_v, "V", source, "n * V_1c", (n, one))
        w.verdict(
            "PV-COLD-VOC",
            q.modules * cold_v <= limit,
            "string",
            f"It reaches {reached.value:.1f} V; {limit:g} V is the most.",
            f"Take it to {most.value:.0f} modules or fewer.",
            found=reached,
            limit=top,
        )
        works = w.work("hot_v", "V_h", "Hot operating voltage", q.modules * hot_v, "V", "physics", "n * V_1h", (n, warm))
        w.verdict(
            "PV-HOT-LOW",
            q.modules * hot_v >= q.window,
            "string",
            f"It falls to {works.value:.1f} V; the window begins at {q.window:g} V.",
            f"Give it at least {fewest.value:.0f} modules.",
            found=works,
            limit=low,
        )
    return most


Standard = Literal["IEEE 1547", "EN 50549", "AS/NZS 4777.2 Australia A", "AS/NZS 4777.2 New Zealand"]
STANDARDS: dict[str, tuple[Standard, ...]] = {
    "nec-2023": ("IEEE 1547",),
    "iec-60364": ("EN 50549",),
    "bs-7671": ("EN 50549",),
    "as-nzs-3000": ("AS/NZS 4777.2 Australia A", "AS/NZS 4777.2 New Zealand"),
}
# Farther than this from its nominal frequency an island is another network's, or somebody's slip.
WIDEST_HZ = 6.0


class DroopAsk(Ask):
    """What an AC-coupled PV inverter gives at a frequency."""

    power: float = quantity("W", "Power before it falls back", gt=0, le=1000000)
    frequency: float = quantity("Hz", "Frequency of the island", ge=45, le=70)
    standard: Standard | None = choice("Default settings of", None)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Standard, book and frequency belong together."""
        fit = STANDARDS[self.book]
        if self.standard is None:
            return None if len(fit) == 1 else ("standard", f"this is needed under this rule book: {' or '.join(fit)}.")
        if self.standard not in fit:
            return "standard", f"{self.standard} is not used under this rule book. Choose {' or '.join(fit)}, or the other book."
        return None


def droop(w: Workbook, q: DroopAsk) -> Figure:
    """Power in W at the frequency; the frequency at which it gives nothing stands beside it."""
    curve = droop_of(q.standard or STANDARDS[q.book][0])
    if abs(q.frequency - curve.nominal_hz) > WIDEST_HZ:
        raise OutOfRange(
            "frequency",
            f"{q.frequency:g} Hz",
            f"near {curve.nominal_hz:g} Hz",
            q.standard or STANDARDS[q.book][0],
            "Choose the book of that network.",
        )
    power, hertz = w.given("power", "P_0", "Power before", q.power, "W"), w.given("frequency", "f", "Frequency", q.frequency, "Hz")
    begins = w.keep(constant("f_0", "Falls back from", curve.begins_hz, "Hz", curve.source))
    zero = w.keep(constant("f_1", "Droop reaches nothing at", curve.zero_hz, "Hz", curve.source))
    trips = w.keep(constant("f_t", "Disconnects at", curve.trips_hz, "Hz", curve.source))
    w.work("silent", "f_z", "Gives nothing from", min(curve.zero_hz, curve.trips_hz), "Hz", curve.source, "min(f_1, f_t)", (zero, trips))
    share = 0.0 if q.frequency >= curve.trips_hz else power_share(q.frequency, curve.begins_hz, curve.zero_hz)
    by_line = w.work(
        "share",
        "s",
        "Share that it gives",
        share,
        "",
        curve.source,
        "0" if q.frequency >= curve.trips_hz else "min(1, max(0, (f_1 - f) / (f_1 - f_0)))",
        (zero, hertz, begins),
    )
    return w.work(
        "given",
        "P",
        "Power at this frequency",
        q.power * share,
        "W",
        curve.source,
        "P_0 * s",
        (power, by_line),
        limits="Default settings; the network may have set others.",
    )


class Autonomy(Ask):
    """Hours that a bank carries a steady load."""

    energy: float = quantity("Wh", "Energy of the bank", gt=0)
    load: float = quantity("W", "Mean load, the inverter's own draw counted", gt=0)
    from_charge: float = quantity("%", "State of charge at the start", 100.0, ge=0, le=100)
    floor: float = quantity("%", "State of charge at which it stops", 10.0, ge=0, le=100)
    efficiency: float = quantity("%", "Conversion efficiency", gt=0, le=100)


def autonomy(w: Workbook, q: Autonomy) -> Figure:
    """Hours without PV."""
    energy, load = w.given("energy", "E", "Energy of the bank", q.energy, "Wh"), w.given("load", "P", "Mean load", q.load, "W")
    begin, floor = (
        w.given("from_charge", "S_0", "State of charge at the start", q.from_charge, "%"),
        w.given("floor", "S_min", "Stops at", q.floor, "%"),
    )
    eta = w.given("efficiency", "eta", "Conversion efficiency", q.efficiency, "%")
    usable = q.energy * max(0.0, q.from_charge - q.floor) / 100 * q.efficiency / 100
    delivered = w.work(
        "delivered",
        "E_d",
        "Energy delivered",
        usable,
        "Wh",
        "physics",
        "E * max(0, S_0 - S_min) / 100 * eta / 100",
        (energy, begin, floor, eta),
    )
    return w.work(
        "hours",
        "t",
        "Hours carried",
        usable / q.load,
        "h",
        "physics",
        "E_d / P",
        (delivered, load),
        limits="No PV is counted: the safe side.",
    )

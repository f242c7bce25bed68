"""How many modules in series, what an AC-coupled PV inverter gives at a frequency, and how long a bank carries a load?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import largest, least, number, whole_above, whole_below
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.strings.voltages import book_limit
from gumboot.core.rulebook.common.droop import droop as droop_of
from gumboot.core.rulebook.common.droop import power_share
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rules import strings as rules
from gumboot.core.sums.ask import Ask, choice, count, quantity, told
from gumboot.core.workbook import Workbook


class StringRange(Ask):
    """How many modules in series."""

    voc: float = quantity("V", "Module open-circuit voltage at 25 °C", symbol="V_oc", gt=0, le=200)
    vmp: float = quantity("V", "Module voltage at maximum power", symbol="V_mp", gt=0, le=200)
    coefficient: float = quantity("%/K", "Coefficient of the open-circuit voltage (negative)", of="voc", symbol="beta", ge=-1, le=0)
    vmp_coefficient: float = quantity("%/K", "Coefficient of the operating voltage (negative)", of="vmp", symbol="gamma", ge=-1, le=0)
    coldest: float = quantity("°C", "Record low air temperature", symbol="T_c", ge=-60, le=40)
    hottest_cell: float = quantity("°C", "Hottest cell", symbol="T_h", ge=0, le=110)
    limit: float = quantity("V", "Inverter's maximum voltage", symbol="V_in", gt=0, le=1500)
    window: float = quantity("V", "Bottom of the tracker's window", symbol="V_low", gt=0, le=1500)
    building: Literal["dwelling", "other building", "ground"] = choice("Strictest place of its circuits", "dwelling")
    modules: int | None = count("Modules wanted, to judge them", None, symbol="n", ge=1, le=60)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """A module works below its open-circuit voltage, and an input's window lies below its top."""
        if self.vmp >= self.voc:
            return "vmp", f"{self.vmp:g} V is not below the open-circuit voltage of {self.voc:g} V. Were the two exchanged?"
        if self.window >= self.limit:
            return "window", f"{self.window:g} V is not below the inverter's maximum of {self.limit:g} V. Were the two exchanged?"
        return None


def _one_module(w: Workbook, q: StringRange) -> tuple[Figure, Figure]:
    """One module at its coldest and at its hottest, with the table's answer beside it where the book has one."""
    voc, coldest, clauses = told(w, q, "voc"), told(w, q, "coldest"), w.book.strings
    cold_v = pv.module_voltage_v(voc, told(w, q, "coefficient") / 100, coldest)
    hot_v = pv.module_voltage_v(told(w, q, "vmp"), told(w, q, "vmp_coefficient") / 100, told(w, q, "hottest_cell"))
    cold = w.work("cold_one", "V_1c", "One module, coldest, open circuit", cold_v, "V", source=clauses.voltage_source)
    hot = w.work("hot_one", "V_1h", "One module, hottest, at maximum power", hot_v, "V", source="physics")
    if (factor := clauses.tabulated_factor(coldest)) is not None:
        by_table = w.work("factor", "F_T", "Correction by the table", factor, "", source="nec.690.7t")
        why = "Where the maker gives no coefficient."
        w.work("cold_table", "V_1t", "One module, coldest, by the table", voc * by_table, "V", source="nec.690.7t", limits=why)
    return cold, hot


def string_range(w: Workbook, q: StringRange) -> Figure:
    """Most modules in series, with the fewest beside it."""
    cold, hot = _one_module(w, q)
    source, low = w.book.strings.voltage_source, told(w, q, "window")
    limit = w.work("never_above", "V_lim", "Never above", least(told(w, q, "limit"), book_limit(w, q.building)), "V", source=source)
    fewest = w.work("fewest", "n_min", "Fewest modules in series", whole_above(low / hot), "", source="physics")
    most = w.work("most", "n_max", "Most modules in series", whole_below(limit / cold), "", source=source)
    w.ask(rules.some_string, rules.Counts(fewest=fewest, most=most))
    if q.modules is not None:
        n = told(w, q, "modules")
        reached = w.work("cold_v", "V_c", "Cold open-circuit voltage", n * cold, "V", source=source)
        works = w.work("hot_v", "V_h", "Hot operating voltage", n * hot, "V", source="physics")
        place = f"A string of {q.modules}"
        v = rules.Volts(place=place, cold=reached, limit=limit, hot=works, low=low, start=low, most=most, fewest=fewest)
        w.ask(rules.cold_voltage, v)
        w.ask(rules.hot_voltage, v)
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

    power: float = quantity("W", "Power before it falls back", symbol="P_0", gt=0, le=1000000)
    frequency: float = quantity("Hz", "Frequency of the island", symbol="f", ge=45, le=70)
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
        near, book = f"near {curve.nominal_hz:g} Hz", q.standard or STANDARDS[q.book][0]
        raise OutOfRange("frequency", f"{q.frequency:g} Hz", near, book, "Choose the book of that network.")
    hertz = told(w, q, "frequency")
    begins = w.keep(constant("f_0", "Falls back from", curve.begins_hz, "Hz", curve.source))
    zero = w.keep(constant("f_1", "Droop reaches nothing at", curve.zero_hz, "Hz", curve.source))
    trips = w.keep(constant("f_t", "Disconnects at", curve.trips_hz, "Hz", curve.source))
    w.work("silent", "f_z", "Gives nothing from", least(zero, trips), "Hz", source=curve.source)
    off = q.frequency >= curve.trips_hz
    share = w.work("share", "s", "Share that it gives", number(0.0) if off else power_share(hertz, begins, zero), "", source=curve.source)
    holds = "Default settings; the network may have set others."
    return w.work("given", "P", "Power at this frequency", told(w, q, "power") * share, "W", source=curve.source, limits=holds)


class Autonomy(Ask):
    """Hours that a bank carries a steady load."""

    energy: float = quantity("Wh", "Energy of the bank", symbol="E", gt=0)
    load: float = quantity("W", "Mean load, the inverter's own draw counted", symbol="P", gt=0)
    from_charge: float = quantity("%", "State of charge at the start", 100.0, symbol="S_0", ge=0, le=100)
    floor: float = quantity("%", "State of charge at which it stops", 10.0, symbol="S_min", ge=0, le=100)
    efficiency: float = quantity("%", "Conversion efficiency", symbol="eta", gt=0, le=100)


def autonomy(w: Workbook, q: Autonomy) -> Figure:
    """Hours without PV."""
    share = largest(0.0, told(w, q, "from_charge") - told(w, q, "floor")) / 100
    usable = told(w, q, "energy") * share * told(w, q, "efficiency") / 100
    delivered = w.work("delivered", "E_d", "Energy delivered", usable, "Wh", source="physics")
    holds = "No PV is counted: the safe side."
    return w.work("hours", "t", "Hours carried", delivered / told(w, q, "load"), "h", source="physics", limits=holds)

"""How large is a bank of cells or blocks, how does lead-acid want to be charged, used and aired, and what flows when batteries join?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.expression import least
from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.rulebook.common.hydrogen import GAS
from gumboot.core.sums.ask import Ask, choice, count, quantity, told
from gumboot.core.wording import within
from gumboot.core.workbook import Workbook

REFERENCE_C = constant("T_0", "Temperature of a charge voltage", 25, "°C", "cp.leadacid")
BY_HOUR = constant("v", "Air for one ampere of gas in one cell", 0.05, "", "iec.62485", limits="m3/h for A.")
OPENING = constant("k_A", "Opening for one cubic metre an hour", 28, "", "iec.62485", limits="cm2 for m3/h, natural draught at 0.1 m/s.")


class BankOfCells(Ask):
    """A bank from cells or blocks: voltage, charge, energy and rate."""

    volts: float = quantity("V", "Nominal voltage of one cell or block", symbol="V_1", gt=0, le=500)
    capacity: float = quantity("Ah", "Capacity of one", symbol="Q_1", gt=0, le=10000)
    series: int = count("In series", symbol="n_s", ge=1, le=400)
    parallel: int = count("Strings in parallel", 1, symbol="n_p", ge=1, le=32)
    depth: float = quantity("%", "Depth that is used", 100.0, symbol="d", gt=0, le=100)
    current: float | None = quantity("A", "Current, for its rate", None, symbol="I", gt=0, le=10000)


def bank_of_cells(w: Workbook, q: BankOfCells) -> Figure:
    """Energy in Wh that is used."""
    volts = w.work("bank_v", "V", "Voltage of the bank", told(w, q, "series") * told(w, q, "volts"), "V", source="physics")
    charge = w.work("bank_ah", "Q", "Capacity of the bank", told(w, q, "parallel") * told(w, q, "capacity"), "Ah", source="physics")
    whole = w.work("whole", "E", "Energy of the bank", volts * charge, "Wh", source="physics")
    if q.current is not None:
        w.work("rate", "C", "Rate of this current", told(w, q, "current") / charge, "1/h", source="physics", limits="1/h: 0.5 is C/2.")
    return w.work("used", "E_u", "Energy that is used", whole * told(w, q, "depth") / 100, "Wh", source="physics")


class ChargeVoltage(Ask):
    """Charge voltage of a lead-acid bank at its temperature."""

    volts: float = quantity("V", "Charge voltage of the bank at 25 °C", symbol="V_25", gt=0, le=1000)
    cells: int = count("Cells in series, six for a 12 V block", symbol="n", ge=1, le=400)
    coefficient: float = quantity("mV/K", "For each cell and kelvin", -4.0, symbol="k", ge=-8, le=0)
    temperature: float = quantity("°C", "Temperature of the battery", symbol="T", ge=-40, le=60)


def charge_voltage(w: Workbook, q: ChargeVoltage) -> Figure:
    """Voltage in V: less above 25 °C, more below."""
    per_k = told(w, q, "cells") * told(w, q, "coefficient") / 1000
    shift = w.work("shift", "dV", "Shift by temperature", per_k * (told(w, q, "temperature") - REFERENCE_C), "V", source="cp.leadacid")
    holds = "3 to 5 mV for each cell and kelvin is usual; the maker's figure wins."
    return w.work("charge", "V", "Charge voltage", told(w, q, "volts") + shift, "V", source="cp.leadacid", limits=holds)


class Peukert(Ask):
    """What a lead-acid battery gives at a current: less, the faster it is used."""

    capacity: float = quantity("Ah", "Rated capacity", symbol="Q", gt=0, le=10000)
    hours: float = quantity("h", "Hours that it is rated over", 20.0, symbol="t_r", gt=0, le=120)
    current: float = quantity("A", "Current", symbol="I", gt=0, le=5000)
    exponent: float = quantity("", "Peukert's exponent", 1.2, symbol="k", ge=1, le=1.6)


def peukert(w: Workbook, q: Peukert) -> Figure:
    """Hours until it is empty, with the charge it gives beside them."""
    rated = told(w, q, "capacity") / told(w, q, "hours")
    base = w.work("rated_a", "I_r", "Current that it is rated at", rated, "A", source="physics")
    ratio = base / told(w, q, "current")
    hours = w.work("time", "t", "Hours until it is empty", told(w, q, "hours") * ratio**q.exponent, "h", source="cp.peukert")
    w.work("given", "Q_I", "Charge that it gives", hours * told(w, q, "current"), "Ah", source="physics")
    return hours


class Ventilation(Ask):
    """Air for a lead-acid bank (IEC 62485-2)."""

    capacity: float = quantity("Ah", "Capacity of one string, C10", symbol="Q", gt=0, le=10000)
    cells: int = count("Cells in series", symbol="n", ge=1, le=400)
    strings: int = count("Strings in parallel", 1, symbol="n_p", ge=1, le=32)
    kind: Literal["vented", "sealed"] = choice("Kind of cell", "vented")
    charge: Literal["float", "boost"] = choice("Charge", "boost")


def ventilation(w: Workbook, q: Ventilation) -> Figure:
    """Air in m3/h, with the openings for a natural draught beside it."""
    milli = GAS[q.kind][q.charge == "boost"]
    gas = w.keep(constant("i_g", f"Gas current, {q.kind} cells, {q.charge} charge", milli, "", "iec.62485", limits="mA for each Ah."))
    amps = gas * told(w, q, "capacity") * told(w, q, "strings") / 1000
    air = w.work("air", "q", "Air", BY_HOUR * told(w, q, "cells") * amps, "m3/h", source="iec.62485")
    w.work("opening", "A", "Each of two openings at least", OPENING * air, "cm2", source="iec.62485", limits="One low, one high, opposite.")
    return air


class Joining(Ask):
    """Where two batteries meet when they are joined, what flows at first, and how far apart they may be for a current."""

    first: float = quantity("V", "Voltage of the first", symbol="V_a", gt=0, le=1500)
    second: float = quantity("V", "Voltage of the second", symbol="V_b", gt=0, le=1500)
    inner: float = quantity("mohm", "Resistance of the way between them, batteries and leads", symbol="R", gt=0, le=100000)
    ratio: float = quantity("", "Size of the first against the second", 1.0, symbol="k", gt=0, le=100)
    most: float = quantity("A", "Current that may flow", symbol="I_m", gt=0, le=5000)


def joining(w: Workbook, q: Joining) -> Figure:
    """Largest difference in V for the current; the common voltage and the first current beside it."""
    one, two, size = told(w, q, "first"), told(w, q, "second"), told(w, q, "ratio")
    holds = "As if voltage rose evenly with charge."
    w.work("common", "V", "Where they meet", (one * size + two) / (size + 1), "V", source="physics", limits=holds)
    ohm = told(w, q, "inner") / 1000
    w.work("current", "I_0", "Current at first", (one - two) / ohm, "A", source="physics", limits="From the first to the second.")
    return w.work("apart", "dV", "Largest difference for the current", told(w, q, "most") * ohm, "V", source="physics")


class ChargeLimit(Ask):
    """The charge current that every link allows, and which is the weakest."""

    battery: float = quantity("A", "Charge current of one battery", symbol="I_b", gt=0, le=2000)
    count: int = count("Batteries in parallel", 1, symbol="n", ge=1, le=64)
    cold: float = quantity("%", "Share that its temperature leaves", 100.0, symbol="k_T", ge=0, le=100)
    message: float | None = quantity("A", "What the battery asks for over its link", None, symbol="I_msg", ge=0, le=5000)
    inverter: float = quantity("A", "Charge current of the inverter", symbol="I_i", gt=0, le=2000)
    device: float | None = quantity("A", "What the fuse carries for hours", None, symbol="I_f", gt=0, le=2000)
    cable: float | None = quantity("A", "What the cable carries", None, symbol="I_z", gt=0, le=2000)


def charge_limit(w: Workbook, q: ChargeLimit) -> tuple[Figure, tuple[str, ...]]:
    """Charge current in A; the weakest link by name."""
    bank = told(w, q, "count") * told(w, q, "battery") * told(w, q, "cold") / 100
    links = [w.work("bank", "I_bank", "All batteries at this temperature", bank, "A", source="arith"), told(w, q, "inverter")]
    links += [told(w, q, name) for name in ("message", "device", "cable") if getattr(q, name) is not None]
    weakest = min(links, key=BY_VALUE)
    most = w.work("most", "I_chg", "Charge current at most", least(*links), "A", source="arith")
    return most, (f"The weakest link: {within(weakest.name)}, {weakest.value:g} A.",)

"""What does the battery circuit carry, how do batteries share, what flows into a fault, when joined, and at pre-charge?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.plan.bank import current_source
from gumboot.core.rulebook.common import bank
from gumboot.core.rulebook.common.fuses import classes_for
from gumboot.core.rulebook.north_american import battery as dc
from gumboot.core.sums.ask import Ask, choice, count, quantities, quantity
from gumboot.core.workbook import Workbook


class BatteryCurrent(Ask):
    """Battery current at full output and lowest voltage."""

    power: float = quantity("W", "Inverter output", gt=0, le=1000000)
    voltage: float = quantity("V", "Lowest battery voltage in operation", gt=0, le=1500)
    efficiency: float = quantity("%", "Conversion efficiency", gt=0, le=100)


def battery_current(w: Workbook, q: BatteryCurrent) -> Figure:
    """Design current in A, with the RMS of unsmoothed ripple beside it."""
    power, volts = w.given("power", "P", "Inverter output", q.power, "W"), w.given("voltage", "V_low", "Lowest voltage", q.voltage, "V")
    eta = w.given("efficiency", "eta", "Conversion efficiency", q.efficiency, "%")
    amps = dc.inverter_input_current_a(q.power, q.voltage, q.efficiency / 100)
    mean = w.work(
        "current", "I", "Battery current", amps, "A", current_source(w.book.family), "P / (V_low * eta / 100)", (power, volts, eta)
    )
    w.work(
        "ripple",
        "I_rms",
        "With unsmoothed ripple, RMS",
        bank.ripple_rms_a(amps),
        "A",
        "cp.ripple",
        "I * 1.5 ** 0.5",
        (mean,),
        limits="Single-phase output.",
    )
    if w.book.family == "nec":
        w.work("continuous", "I_c", "125 % for conductor and device", 1.25 * amps, "A", "nec.210.19", "1.25 * I", (mean,))
    return mean


class BankSharing(Ask):
    """Current of each battery of a parallel bank."""

    current: float = quantity("A", "Current of the bank", gt=0, le=5000)
    leads: tuple[float, ...] = quantities("mohm", "Resistance of each battery's leads, there and back", min_length=1, max_length=32)
    cell: float = quantity("mohm", "Resistance inside one battery", gt=0, le=10000)
    rating: float = quantity("A", "Continuous current of one battery", gt=0, le=2000)
    cabling: Literal["busbar", "daisy", "diagonal"] = choice("Cabling", "busbar")

    def unfit(self, family: str) -> tuple[str, str] | None:
        """In a chain the first battery has no link before it."""
        if self.cabling != "busbar" and self.leads[0] != 0:
            return (
                "leads",
                "in a chain the first battery has no link before it, and its lead to the inverter is shared by all: write 0 first, then each link.",
            )
        return None


def bank_sharing(w: Workbook, q: BankSharing) -> Figure:
    """Largest share in A; every battery's own beside it."""
    amps, cell = (
        w.given("current", "I", "Current of the bank", q.current, "A"),
        w.given("cell", "R_c", "Inside one battery", q.cell, "mohm"),
    )
    leads = [w.given(f"leads.{i + 1}", f"R_{i + 1}", f"Leads of battery {i + 1}", r, "mohm") for i, r in enumerate(q.leads)]
    cells = [q.cell] * len(q.leads)
    if q.cabling == "busbar":
        shares = bank.busbar_shares_a(q.current, list(q.leads), cells)
    else:
        shares = bank.chain_shares_a(q.current, cells, [r / 2 for r in q.leads[1:]], q.cabling == "diagonal")
    paths = " + ".join(f"1 / (R_c + {f.symbol})" for f in leads)
    figures = [
        w.work(
            f"share.{i + 1}",
            f"I_{i + 1}",
            f"Battery {i + 1}",
            share,
            "A",
            "cp.share",
            f"I / (R_c + R_{i + 1}) / ({paths})" if q.cabling == "busbar" else "",
            (amps, cell, *leads),
            limits="One voltage at all cells." + ("" if q.cabling == "busbar" else " Chain solved by Kirchhoff's laws."),
        )
        for i, share in enumerate(shares)
    ]
    worst = max(figures, key=lambda f: f.value)
    most = w.given("rating", "I_1", "Continuous current of one battery", q.rating, "A")
    w.verdict(
        "BANK-SHARE",
        worst.value <= most.value + 1e-9,
        worst.name,
        f"{worst.name} would carry {worst.value:.1f} A; one battery gives {most.value:g} A.",
        "Make the leads alike, use busbars, or add a battery.",
        found=worst,
        limit=most,
    )
    return worst


class FaultCurrent(Ask):
    """Prospective fault current of a bank through its leads, against a device."""

    voltage: float = quantity("V", "Highest battery voltage", gt=0, le=1500)
    units: int = count("Batteries in parallel", ge=1, le=64)
    cell: float = quantity("mohm", "Resistance inside one battery", gt=0, le=10000)
    leads: float = quantity("mohm", "Resistance of one battery's leads, there and back", 0.0, ge=0, le=10000)
    main: float = quantity("mohm", "Resistance of the main cable to the fault", 0.0, ge=0, le=10000)
    interrupting: float | None = quantity("A", "Interrupting rating of the device, DC", None, gt=0)


def fault_current(w: Workbook, q: FaultCurrent) -> tuple[Figure, tuple[str, ...]]:
    """Fault current in A, with the classes of fuse that usually break it."""
    volts, n = (
        w.given("voltage", "V", "Highest battery voltage", q.voltage, "V"),
        w.given("units", "n", "Batteries in parallel", q.units, ""),
    )
    cell, lead = (
        w.given("cell", "R_c", "Inside one battery", q.cell, "mohm"),
        w.given("leads", "R_l", "Leads of one battery", q.leads, "mohm"),
    )
    main = w.given("main", "R_m", "Main cable", q.main, "mohm")
    value = bank.fault_current_a(q.voltage, [q.cell / 1000] * q.units, [q.leads / 1000] * q.units, q.main / 1000)
    fault = w.work(
        "fault", "I_k", "Fault current", value, "A", "physics", "1000 * V / ((R_c + R_l) / n + R_m)", (volts, n, cell, lead, main)
    )
    if q.interrupting is not None:
        rating = w.given("interrupting", "I_cu", "Interrupting rating, DC", q.interrupting, "A")
        w.verdict(
            "FUSE-INTERRUPT",
            rating.value >= fault.value,
            "device",
            f"{fault.value:.0f} A would flow; the device breaks {rating.value:.0f} A.",
            "Choose a fuse with a higher DC interrupting rating.",
            found=fault,
            limit=rating,
        )
    enough = classes_for(fault.value, q.voltage)
    lines = tuple(f"{c.name}, {c.kind}: usually to {c.dc_max_v:g} V DC and {c.interrupting_a:g} A" for c in enough)
    return fault, lines or ("No usual class of battery fuse breaks this: share the bank, and fuse each battery.",)


class Equalising(Ask):
    """Current at the moment two batteries are joined."""

    first: float = quantity("V", "Voltage of the first battery", gt=0, le=1500)
    second: float = quantity("V", "Voltage of the second battery", gt=0, le=1500)
    cell: float = quantity("mohm", "Resistance inside one battery", gt=0, le=10000)
    leads: float = quantity("mohm", "Resistance of the leads between them", ge=0, le=10000)
    window: float = quantity("V", "Largest difference that the maker allows", gt=0, le=100)


def equalising(w: Workbook, q: Equalising) -> Figure:
    """Current in A at the first moment."""
    a, b = w.given("first", "V_a", "First battery", q.first, "V"), w.given("second", "V_b", "Second battery", q.second, "V")
    cell, lead = w.given("cell", "R_c", "Inside one battery", q.cell, "mohm"), w.given("leads", "R_l", "Leads between", q.leads, "mohm")
    apart = w.work("difference", "dV", "Difference", abs(q.first - q.second), "V", "arith", "max(V_a - V_b, V_b - V_a)", (a, b))
    window = w.given("window", "dV_max", "Largest difference allowed", q.window, "V")
    w.verdict(
        "BANK-JOIN",
        apart.value <= window.value + 1e-9,
        "join",
        f"The batteries differ by {apart.value:.2f} V; the maker allows {window.value:g} V.",
        "Charge the lower one by itself first.",
        found=apart,
        limit=window,
    )
    value = bank.equalising_current_a(apart.value, q.cell / 1000, q.cell / 1000, q.leads / 1000)
    return w.work(
        "current", "I_e", "Equalising current at first", value, "A", "physics", "1000 * dV / (2 * R_c + R_l)", (apart, cell, lead)
    )


class Precharge(Ask):
    """Pre-charge of an inverter's input capacitors."""

    voltage: float = quantity("V", "Battery voltage", gt=0, le=1500)
    resistance: float = quantity("ohm", "Pre-charge resistor", gt=0, le=100000)
    capacitance: float = quantity("uF", "Input capacitance", gt=0, le=1e7)
    reached: float = quantity("%", "Share of the voltage to reach", 99.0, gt=0, lt=100)


def precharge(w: Workbook, q: Precharge) -> Figure:
    """Time in s, with the resistor's energy and first power beside it."""
    volts, ohm = (
        w.given("voltage", "V", "Battery voltage", q.voltage, "V"),
        w.given("resistance", "R", "Pre-charge resistor", q.resistance, "ohm"),
    )
    micro, share = (
        w.given("capacitance", "C", "Input capacitance", q.capacitance, "uF"),
        w.given("reached", "s", "Share to reach", q.reached, "%"),
    )
    farad = q.capacitance * 1e-6
    w.work(
        "energy",
        "W",
        "Energy the resistor takes",
        bank.precharge_energy_j(q.voltage, farad),
        "J",
        "physics",
        "0.5 * C * 1e-6 * V ** 2",
        (volts, micro),
    )
    w.work("power", "P", "Power at the first moment", q.voltage**2 / q.resistance, "W", "physics", "V ** 2 / R", (volts, ohm))
    seconds = bank.precharge_time_s(q.resistance, farad, q.reached / 100)
    return w.work("time", "t", "Pre-charge time", seconds, "s", "cp.precharge", "-R * C * 1e-6 * log(1 - s / 100)", (ohm, micro, share))


class LongestLead(Ask):
    """Longest battery lead for a wished drop."""

    current: float = quantity("A", "Current", gt=0, le=5000)
    resistance: float = quantity("ohm", "Resistance of one kilometre", gt=0, le=100)
    drop: float = quantity("V", "Drop to stay under", gt=0, le=100)


def longest_lead(w: Workbook, q: LongestLead) -> Figure:
    """Length in m, one way."""
    amps, r = (
        w.given("current", "I", "Current", q.current, "A"),
        w.given("resistance", "r", "Resistance of one kilometre", q.resistance, "ohm"),
    )
    volts = w.given("drop", "dV", "Drop", q.drop, "V")
    length = bank.longest_lead_m(q.drop, q.current, q.resistance)
    if length <= 0:
        raise OutOfRange("length", length, "above 0 m", "Ohm's law", "Give a larger drop.")
    return w.work("length", "L", "Longest lead, one way", length, "m", "physics", "1000 * dV / (2 * I * r)", (amps, r, volts))

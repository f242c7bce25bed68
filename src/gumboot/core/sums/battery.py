"""What does the battery circuit carry, how do batteries share, what flows into a fault, when joined, and at pre-charge?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import OutOfRange
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.plan.bank.shares import shares_of
from gumboot.core.rulebook.common import bank
from gumboot.core.rulebook.common.fuses import classes_for
from gumboot.core.rulebook.north_american import battery as dc
from gumboot.core.rules import bank as rules
from gumboot.core.rules import joining
from gumboot.core.sums.ask import Ask, choice, count, quantities, quantity, told
from gumboot.core.workbook import Workbook


class BatteryCurrent(Ask):
    """Battery current at full output and lowest voltage."""

    power: float = quantity("W", "Inverter output", symbol="P", gt=0, le=1000000)
    voltage: float = quantity("V", "Lowest battery voltage in operation", symbol="V_low", gt=0, le=1500)
    efficiency: float = quantity("%", "Conversion efficiency", symbol="eta", gt=0, le=100)


def battery_current(w: Workbook, q: BatteryCurrent) -> Figure:
    """Design current in A, with the RMS of unsmoothed ripple beside it."""
    amps = dc.inverter_input_current_a(told(w, q, "power"), told(w, q, "voltage"), told(w, q, "efficiency") / 100)
    mean = w.work("current", "I", "Battery current", amps, "A", source=w.book.bank.current_source)
    name, holds = "With unsmoothed ripple, RMS", "Single-phase output."
    w.work("ripple", "I_rms", name, bank.ripple_rms_a(mean), "A", source="cp.ripple", limits=holds)
    share = w.book.bank.device_share
    if share < 1:
        factor = 1 / share
        name = f"{100 * factor:.0f} % for conductor and device"
        w.work("continuous", "I_c", name, factor * mean, "A", source=w.book.bank.device_source)
    return mean


class BankSharing(Ask):
    """Current of each battery of a parallel bank."""

    current: float = quantity("A", "Current of the bank", symbol="I", gt=0, le=5000)
    leads: tuple[float, ...] = quantities("mohm", "Resistance of each battery's leads, there and back", min_length=1, max_length=32)
    cell: float = quantity("mohm", "Resistance inside one battery", symbol="R_c", gt=0, le=10000)
    rating: float = quantity("A", "Continuous current of one battery", symbol="I_1", gt=0, le=2000)
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
    leads = [w.given(f"leads.{i + 1}", f"R_{i + 1}", f"Leads of battery {i + 1}", r, "mohm") for i, r in enumerate(q.leads)]
    amps, limits = shares_of(told(w, q, "current"), told(w, q, "cell"), leads, q.cabling)
    figures = [
        w.work(f"share.{i + 1}", f"I_{i + 1}", f"Battery {i + 1}", share, "A", source="cp.share", limits=limits)
        for i, share in enumerate(amps)
    ]
    worst = max(figures, key=BY_VALUE)
    w.ask(rules.share, rules.Share(name=worst.name, share=worst, whole=None, one=told(w, q, "rating")))
    return worst


class FaultCurrent(Ask):
    """Prospective fault current of a bank through its leads, against a device."""

    voltage: float = quantity("V", "Highest battery voltage", symbol="V", gt=0, le=1500)
    units: int = count("Batteries in parallel", symbol="n", ge=1, le=64)
    cell: float = quantity("mohm", "Resistance inside one battery", symbol="R_c", gt=0, le=10000)
    leads: float = quantity("mohm", "Resistance of one battery's leads, there and back", 0.0, symbol="R_l", ge=0, le=10000)
    main: float = quantity("mohm", "Resistance of the main cable to the fault", 0.0, symbol="R_m", ge=0, le=10000)
    interrupting: float | None = quantity("A", "Interrupting rating of the device, DC", None, symbol="I_cu", gt=0)


def fault_current(w: Workbook, q: FaultCurrent) -> tuple[Figure, tuple[str, ...]]:
    """Fault current in A, with the classes of fuse that usually break it."""
    inner = (told(w, q, "cell") + told(w, q, "leads")) / told(w, q, "units")
    amps = 1000 * told(w, q, "voltage") / (inner + told(w, q, "main"))
    fault = w.work("fault", "I_k", "Fault current", amps, "A", source="physics")
    if q.interrupting is not None:
        breaks = told(w, q, "interrupting")
        w.ask(rules.fuse_breaks, rules.Broken(where="device", device="device", fault=fault, breaks=breaks))
    enough = classes_for(fault.value, q.voltage)
    lines = tuple(
        f"{c.name}, {c.kind}: usually to {c.dc_max_v:g} V DC and {c.interrupting_a:g} A, in ratings to {c.rating_max_a:g} A" for c in enough
    )
    return fault, lines or ("No usual class of battery fuse breaks this: share the bank, and fuse each battery.",)


class Equalising(Ask):
    """Current at the moment two batteries are joined."""

    first: float = quantity("V", "Voltage of the first battery", symbol="V_a", gt=0, le=1500)
    second: float = quantity("V", "Voltage of the second battery", symbol="V_b", gt=0, le=1500)
    cell: float = quantity("mohm", "Resistance inside one battery", symbol="R_c", gt=0, le=10000)
    leads: float = quantity("mohm", "Resistance of the leads between them", symbol="R_l", ge=0, le=10000)
    window: float = quantity("V", "Largest difference that the maker allows", symbol="dV_max", gt=0, le=100)


def equalising(w: Workbook, q: Equalising) -> Figure:
    """Current in A at the first moment."""
    apart = w.work("difference", "dV", "Difference", abs(told(w, q, "first") - told(w, q, "second")), "V", source="arith")
    w.ask(joining.voltages_agree, joining.Meeting(apart=apart, most=told(w, q, "window")))
    amps = bank.equalising_current_a(apart, 2 * told(w, q, "cell"), told(w, q, "leads"))
    return w.work("current", "I_e", "Equalising current at first", amps, "A", source="physics")


class Precharge(Ask):
    """Pre-charge of an inverter's input capacitors."""

    voltage: float = quantity("V", "Battery voltage", symbol="V", gt=0, le=1500)
    resistance: float = quantity("ohm", "Pre-charge resistor", symbol="R", gt=0, le=100000)
    capacitance: float = quantity("uF", "Input capacitance", symbol="C", gt=0, le=1e7)
    reached: float = quantity("%", "Share of the voltage to reach", 99.0, symbol="s", gt=0, lt=100)
    path: float | None = quantity(
        "mohm", "Resistance of battery and leads, for the inrush without a resistor", None, symbol="R_b", gt=0, le=1e6
    )


def precharge(w: Workbook, q: Precharge) -> Figure:
    """Time in s, with the resistor's energy and first power beside it."""
    volts, ohm, micro = told(w, q, "voltage"), told(w, q, "resistance"), told(w, q, "capacitance")
    w.work("energy", "W", "Energy the resistor takes", bank.precharge_energy_j(volts, micro), "J", source="physics")
    w.work("power", "P", "Power at the first moment", volts**2 / ohm, "W", source="physics")
    w.work("first", "I_0", "Current at the first moment", volts / ohm, "A", source="physics")
    if q.path is not None:
        name, holds = "Inrush without a resistor", "Inductance and the capacitors' own resistance not counted: the safe side."
        w.work("inrush", "I_in", name, 1000 * volts / told(w, q, "path"), "A", source="physics", limits=holds)
    seconds = bank.precharge_time_s(ohm, micro, told(w, q, "reached") / 100)
    return w.work("time", "t", "Pre-charge time", seconds, "s", source="cp.precharge")


class LongestLead(Ask):
    """Longest battery lead for a wished drop."""

    current: float = quantity("A", "Current", symbol="I", gt=0, le=5000)
    resistance: float = quantity("ohm/km", "Resistance of one kilometre", symbol="r", gt=0, le=100)
    drop: float = quantity("V", "Drop to stay under", symbol="dV", gt=0, le=100)


def longest_lead(w: Workbook, q: LongestLead) -> Figure:
    """Length in m, one way."""
    length = bank.longest_lead_m(told(w, q, "drop"), told(w, q, "current"), told(w, q, "resistance"))
    if length.value <= 0:
        raise OutOfRange("length", length.value, "above 0 m", "Ohm's law", "Give a larger drop.")
    return w.work("length", "L", "Longest lead, one way", length, "m", source="physics")

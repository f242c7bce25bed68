"""What does a dwelling ask of its service, and how do its loads lie on the legs?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.expression import Expression, largest, square_root
from gumboot.core.figure import Figure
from gumboot.core.job.demand import Heating
from gumboot.core.rulebook.north_american import demand as nec
from gumboot.core.sums.ask import Ask, choice, count, quantity, told
from gumboot.core.workbook import Workbook


class DwellingByArea(Ask):
    """Demand of a dwelling by the optional method, from its area and appliances (NEC 220.82)."""

    area: float = quantity("m2", "Floor area, outside dimensions", symbol="A", gt=0, le=3000)
    circuits: int = count("Small-appliance and laundry circuits", 3, symbol="n", ge=2, le=20)
    appliances: float = quantity("W", "Nameplates of fastened appliances, range, dryer, water heater", symbol="P_a", ge=0, le=300000)
    cooling: float = quantity("W", "Air conditioning", 0.0, symbol="P_cool", ge=0, le=100000)
    heating: float = quantity("W", "Electric space heating", 0.0, symbol="P_heat", ge=0, le=100000)
    kind: Heating = choice("Kind of heating", "none")
    supplement: float = quantity("W", "Supplementary heating beside a heat pump", 0.0, symbol="P_sup", ge=0, le=100000)
    voltage: float = quantity("V", "Voltage of the service, line to line", 240.0, symbol="U", gt=0, le=1000)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Heating has a kind."""
        if self.heating and self.kind == "none":
            return "kind", "this is needed: what share of the heating counts goes by its kind."
        return None


def dwelling_by_area(w: Workbook, q: DwellingByArea) -> Figure:
    """Service current in A."""
    area, n = told(w, q, "area"), told(w, q, "circuits")
    general = w.work("general", "P_g", "General load", nec.general_va(area, n, told(w, q, "appliances")), "W", source="nec.220.82")
    counted = w.work("counted", "P_1", "10 kVA and 40 % of the rest", nec.general_counted_va(general), "W", source="nec.220.82")
    heating: Expression = nec.heating_va(q.kind, told(w, q, "heating"), told(w, q, "supplement"))
    heat = w.work("heat", "P_h", "Heating that counts", heating, "W", source="nec.220.82", limits="220.82(C)(1) to (6).")
    climate = w.work("climate", "P_2", "Larger of cooling and heating", largest(told(w, q, "cooling"), heat), "W", source="nec.220.82")
    demand = w.work("demand", "P_d", "Demand", counted + climate, "W", source="nec.220.82")
    return w.work("service", "I_d", "Service current", demand / told(w, q, "voltage"), "A", source="nec.220.82")


class ExistingDwelling(Ask):
    """Demand of an existing dwelling with a load that is added (NEC 220.83)."""

    existing: float = quantity("W", "All load there is, and what is added but for heating and cooling", symbol="P", gt=0, le=500000)
    climate: float = quantity("W", "Heating or cooling, the larger, where one is added", 0.0, symbol="P_c", ge=0, le=100000)
    voltage: float = quantity("V", "Voltage of the service, line to line", 240.0, symbol="U", gt=0, le=1000)


def existing_dwelling(w: Workbook, q: ExistingDwelling) -> Figure:
    """Service current in A: 8 kVA in full, 40 % of the rest, an added heating or cooling in full."""
    counted = nec.existing_va(told(w, q, "existing"), told(w, q, "climate"))
    demand = w.work("demand", "P_d", "Demand", counted, "W", source="nec.220.83")
    return w.work("service", "I_d", "Service current", demand / told(w, q, "voltage"), "A", source="nec.220.83")


class MeteredPeak(Ask):
    """What a service still takes, by its measured peak (NEC 220.87)."""

    peak: float = quantity("A", "Highest demand, of a year, or of 30 days by the quarter hour", symbol="I_p", gt=0, le=2000)
    service: float = quantity("A", "Rating of the service", symbol="I_s", gt=0, le=2000)


def metered_peak(w: Workbook, q: MeteredPeak) -> Figure:
    """Load in A that may be added; less than nothing is an overload that stands already."""
    there = w.work("there", "I_125", "125 % of the measured peak", nec.PEAK_FACTOR * told(w, q, "peak"), "A", source="nec.220.87")
    holds = "Not where PV or a battery hid a part of the demand while it was measured."
    return w.work("room", "I_r", "May be added", told(w, q, "service") - there, "A", source="nec.220.87", limits=holds)


class LegCurrents(Ask):
    """Currents of legs and neutral from the loads on each."""

    first: float = quantity("W", "On L1 to neutral", symbol="P_1", ge=0, le=200000)
    second: float = quantity("W", "On L2 to neutral", 0.0, symbol="P_2", ge=0, le=200000)
    third: float = quantity("W", "On L3 to neutral", 0.0, symbol="P_3", ge=0, le=200000)
    across: float = quantity("W", "Between all lines", 0.0, symbol="P_0", ge=0, le=200000)
    supply: Literal["split phase", "three phase"] = choice("Supply", "split phase")
    voltage: float = quantity("V", "Voltage from line to neutral", symbol="U_n", gt=0, le=500)
    rating: float | None = quantity("A", "Rating of one line, to judge by", None, symbol="I_n", gt=0, le=2000)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """A split phase has two lines."""
        return ("third", "a split phase has no third line. Leave it out.") if self.supply == "split phase" and self.third else None


def leg_currents(w: Workbook, q: LegCurrents) -> tuple[Figure, tuple[str, ...]]:
    """The largest line current in A; every line, the neutral and the loading beside it. At unity power factor."""
    volts, across = told(w, q, "voltage"), told(w, q, "across")
    lines = ("first", "second") if q.supply == "split phase" else ("first", "second", "third")
    share = across / len(lines)
    amps = [
        w.work(f"line{n}", f"I_{n}", f"On L{n}", (told(w, q, name) + share) / volts, "A", source="physics")
        for n, name in enumerate(lines, 1)
    ]
    if q.supply == "split phase":
        one, two = amps
        neutral: Expression = largest(one - two, two - one)
    else:
        a, b, c = amps
        neutral = square_root(largest(0.0, a**2 + b**2 + c**2 - a * b - b * c - c * a))
    w.work("neutral", "I_N", "In the neutral", neutral, "A", source="physics", limits="No harmonics.")
    most = w.work("most", "I_max", "Largest line current", largest(*amps), "A", source="physics")
    if q.rating is None:
        return most, ()
    loaded = w.work("loading", "l", "Loading of the fullest line", 100 * most / told(w, q, "rating"), "%", source="arith")
    return most, (f"The fullest line is loaded to {loaded.value:.0f} %.",)

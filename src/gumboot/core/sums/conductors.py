"""Which conductor, which drop, which device, which earth?"""

from __future__ import annotations

from typing import Literal

from gumboot.core import sizes
from gumboot.core.expression import largest, named
from gumboot.core.figure import Figure, constant
from gumboot.core.rulebook.books.draft import draft
from gumboot.core.rulebook.books.wiring import Core, EarthFor, Laying, Load
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family import earthing as iec_earth
from gumboot.core.rulebook.iec_family import overcurrent as iec_device
from gumboot.core.rules import conductors as rules
from gumboot.core.sums.ask import Ask, choice, count, quantity, told, words
from gumboot.core.workbook import Workbook

Material = Literal["copper", "aluminium"]


class Conductor(Ask):
    """Smallest conductor for a current."""

    current: float = quantity("A", "Design current", symbol="I_b", gt=0, le=2000)
    ambient: float = quantity("°C", "Hottest air along the route", symbol="T_a", ge=-40, le=90)
    device: float | None = quantity("A", "Overcurrent device, if chosen", None, symbol="I_n", gt=0, le=2000)
    material: Material = choice("Material", "copper")
    continuous: bool = choice("Runs for three hours or more", True)
    conductors: int = count("Current-carrying conductors in the raceway (NEC)", 3, symbol="n_cc", ge=1, le=400)
    terminals: Literal[60, 75, 90] = choice("Terminals marked for, °C (NEC)", 75)
    method: iec.Method = choice("Method of installation (IEC)", "B1")
    wire: Literal["THWN-2", "XHHW-2", "RHW-2", "THWN", "NM-B"] = choice("Insulation (NEC)", "THWN-2")
    roof: float | None = quantity("mm", "Height above a sunlit roof, if it lies on one (NEC)", None, symbol="h", ge=0, le=5000)
    insulation: iec.Insulation = choice("Insulation (IEC)", "PVC")
    loaded: Literal[2, 3] = choice("Loaded conductors (IEC)", 2)
    circuits: int = count("Circuits laid together (IEC)", 1, symbol="n_c", ge=1, le=20)
    sets: int = count("Parallel conductors of each pole", 1, symbol="n_set", ge=1, le=4)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Terminals of 60 °C above 100 A are read at 75 °C by nobody."""
        if family == "nec" and self.terminals == 60 and max(self.current, self.device or 0) > 100:
            return (
                "terminals",
                "above 100 A equipment is listed for 75 °C. A terminal marked 60 °C there is for its maker to explain: no answer is given.",
            )
        return None


COUNTED = {"current_carrying": "conductors", "circuits_together": "circuits"}


def laying_of(w: Workbook, q: Conductor) -> Laying:
    """A question about a conductor as the books ask about a laying."""
    return Laying(
        ambient=told(w, q, "ambient"),
        together=told(w, q, COUNTED[w.book.wiring.counted]),
        terminal_c=q.terminals,
        material=q.material,
        insulation=q.wire if w.book.family == "nec" else q.insulation,
        roof_height=told(w, q, "roof") if q.roof is not None else None,
        method=q.method,
        loaded=q.loaded,
        sets=q.sets,
        sets_figure=told(w, q, "sets") if q.sets > 1 else None,
    )


def conductor(w: Workbook, q: Conductor) -> Figure:
    """Smallest conductor by the book, with its ampacity as laid."""
    clauses, laying, current = w.book.wiring, laying_of(w, q), told(w, q, "current")
    before_factors = clauses.continuous(current, fully_rated=not q.continuous)
    steady = current if before_factors is None else w.put("continuous_a", before_factors)
    device = None
    if q.device is not None:
        device = told(w, q, "device")
        facts = rules.Device(circuit="device", device=device, needed=steady, least=None, is_continuous=before_factors is not None)
        w.ask(rules.device_carries, facts)
    factors, load = clauses.factors(laying, w.put), Load(current, steady, device)
    size, why = clauses.smallest(laying, load, factors)
    clauses.ampacity(laying, size, load, factors, w.put)
    rests = (current, steady, *factors, *((device,) if device else ()))
    value = named("smallest size for " + ", ".join(f"{{{i}}}" for i in range(len(rests))), sizes.area_mm2(size), *rests)
    return w.put("size", draft("A", "Smallest conductor", value, "mm2", clauses.base_source, label=size, limits=why))


class Drop(Ask):
    """Voltage drop along a run; with a negative current it is a rise."""

    current: float = quantity("A", "Current; negative when fed back", symbol="I", ge=-2000, le=2000)
    length: float = quantity("m", "One-way length", symbol="L", gt=0, le=2000)
    size: str = words("size", "Conductor size")
    voltage: float = quantity("V", "Voltage of the circuit", symbol="U", gt=0, le=1500)
    circuit: common.Circuit = choice("Kind of circuit", "DC")
    material: Material = choice("Material", "copper")
    power_factor: float = quantity("", "Power factor", 1.0, symbol="cos_phi", gt=0, le=1)
    conductor_temperature: float | None = quantity("°C", "Conductor temperature, if not 70 °C (IEC)", None, ge=0, le=250)
    sets: int = count("Parallel conductors of each pole", 1, symbol="n_set", ge=1, le=4)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Direct current has no power factor."""
        if self.circuit == "DC" and self.given("power_factor"):
            return "power_factor", "direct current has none. Leave it out, or say that the circuit is single-phase or three-phase."
        return None


def drop(w: Workbook, q: Drop) -> Figure:
    """Drop in percent, with the drop in volts beside it."""
    clauses, core = w.book.wiring, Core(material=q.material, conductor_c=q.conductor_temperature)
    amps, length, r = told(w, q, "current"), told(w, q, "length"), clauses.resistance(core, q.size, w.put)
    if q.circuit == "DC":
        volts = common.drop_v(amps, length, r, q.circuit)
    else:
        x = w.put("reactance", clauses.reactance(core, q.size))
        volts = common.reactive_drop_v(amps, length, (r, x), told(w, q, "power_factor"), q.circuit)
    lost = w.work("drop_v", "dV", "Voltage drop", volts / told(w, q, "sets") if q.sets > 1 else volts, "V", source=clauses.drop_source)
    watts = lost * amps
    w.work("loss", "P_l", "Lost along the route", watts * 3**0.5 if q.circuit == "three-phase" else watts, "W", source="physics")
    pct = w.work("drop_pct", "dv", "Voltage drop", 100 * lost / told(w, q, "voltage"), "%", source=w.book.drop_source)
    if q.current < 0:
        most = w.keep(constant("dv_max", "At most", w.book.rise_limit_pct, "%", w.book.rise_source))
        w.ask(rules.rise_held, rules.Lost(where="run", pct=pct, most=most))
    else:
        most = w.keep(constant("dv_max", "At most", w.book.drop_limit_pct, "%", w.book.drop_source))
        w.ask(rules.drop_wanted, rules.Lost(where="run", pct=pct, most=most))
    return pct


class NextDevice(Ask):
    """Next standard overcurrent device for a load."""

    continuous: float = quantity("A", "Load that runs for three hours or more", symbol="I_c", ge=0, le=2000)
    other: float = quantity("A", "Other load", 0.0, symbol="I_o", ge=0, le=2000)
    fully_rated: bool = choice("Listed for 100 % with its enclosure (NEC)", False)
    family: iec_device.DeviceFamily = choice("Kind of device (IEC)", "breaker")


def next_device(w: Workbook, q: NextDevice) -> Figure:
    """Smallest standard rating at or above what the load asks."""
    return w.book.wiring.device_for(told(w, q, "continuous"), told(w, q, "other"), q.fully_rated, q.family, w.put)


class Earth(Ask):
    """Earth conductor of a circuit."""

    device: float | None = quantity("A", "Overcurrent device (NEC)", None, symbol="I_n", gt=0, le=600)
    line: str = words("size", "Line conductor installed")
    required: str | None = words("size", "Line conductor that the code asks, if smaller (NEC)", None)
    material: Material = choice("Material", "copper")
    fault: float | None = quantity("A", "Fault current, for the heat check (IEC)", None, symbol="I_k", gt=0)
    time: float | None = quantity("s", "Disconnection time (IEC)", None, symbol="t", gt=0, le=5)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """The size follows from the device; the heat check needs current and time."""
        if family == "nec" and self.device is None:
            return "device", "this is needed: the earth conductor follows from the overcurrent device. Give it in A."
        if family == "iec" and (self.fault is None) != (self.time is None):
            return (
                "fault" if self.fault is None else "time"
            ), "the heat check needs both the fault current and its time. Give both, or neither."
        return None


def earth(w: Workbook, q: Earth) -> Figure:
    """Size of the earth conductor, by the book and by heat where a fault is given."""
    line = w.given("line", "A", "Line conductor installed", sizes.area_mm2(q.line), "mm2", label=q.line)
    basis = told(w, q, "device") if q.device is not None else line
    of = EarthFor(basis=basis, code=q.required or q.line, installed=line)
    by_book = w.book.wiring.earth(Core(material=q.material), of, w.put)
    if q.fault is None or q.time is None:
        return by_book
    k = w.keep(constant("k", f"Heat constant, {q.material} PVC core", iec_earth.factor_k(q.material), "A s^0.5/mm2", "iec.54.543"))
    bears = iec_earth.adiabatic_area_mm2(told(w, q, "fault"), told(w, q, "time"), k)
    heat = w.work("heat", "S_k", "Earth conductor by heat", bears, "mm2", source="iec.54.543")
    least = w.work("least", "S_min", "Larger of both", largest(by_book, heat), "mm2", source="iec.54.2")
    size = next((s for s in w.book.wiring.sizes() if sizes.area_mm2(s) >= least.value - 1e-9), q.line)
    value = named("next size from {0}", sizes.area_mm2(size), least)
    return w.put("earth", draft("A_e", "Earth conductor", value, "mm2", "iec.54.2", label=size))

"""The other way round: what does a given conductor carry, which size suits a drop, which is the next size in the other system?"""

from __future__ import annotations

import math
from typing import Literal

from gumboot.core import sizes
from gumboot.core.errors import OutOfRange
from gumboot.core.expression import least, named
from gumboot.core.figure import Figure
from gumboot.core.rulebook.books.wiring import Core, Load
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family import overcurrent
from gumboot.core.rulebook.iec_family.earthing import bonding_area_mm2, loop_impedance_max_ohm
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.demand import SERVICE_SHARE
from gumboot.core.rulebook.north_american.earthing import electrode_size
from gumboot.core.sums.ask import Ask, choice, count, quantity, told, words
from gumboot.core.sums.conductors import Conductor, Material, laying_of
from gumboot.core.workbook import Workbook


class Ampacity(Conductor):
    """What a size carries as laid: the largest load for a cable."""

    current: float = quantity("A", "Load that flows already, if any", 0.0, symbol="I_b", ge=0, le=2000)
    size: str = words("size", "Conductor size", "")

    def unfit(self, family: str) -> tuple[str, str] | None:
        """A size is what is asked about."""
        if not self.size:
            return "size", f"this is needed, such as {'6 AWG' if family == 'nec' else '10 mm2'}."
        return super().unfit(family)


def ampacity(w: Workbook, q: Ampacity) -> Figure:
    """Largest load in A, with what the conductor carries and the largest device beside it."""
    clauses, laying, current = w.book.wiring, laying_of(w, q), told(w, q, "current")
    factors = clauses.factors(laying, w.put)
    device = told(w, q, "device") if q.device is not None else None
    _, usable = clauses.ampacity(laying, q.size, Load(current, current, device), factors, w.put)
    w.put("device_most", clauses.largest_device(laying, q.size, usable))
    at_end = w.figures.get("terminal_ampacity", usable)
    most = least(at_end / 1.25, usable) if w.book.family == "nec" and q.continuous else usable
    holds = "For hours: 125 % of it within the terminal's column." if w.book.family == "nec" and q.continuous else ""
    return w.work("load_most", "I_most", "Largest load", most, "A", source=clauses.base_source, limits=holds)


class SizeForDrop(Ask):
    """The smallest size that keeps a drop. What the current asks of it is another question."""

    current: float = quantity("A", "Current", symbol="I", gt=0, le=2000)
    length: float = quantity("m", "One-way length", symbol="L", gt=0, le=2000)
    voltage: float = quantity("V", "Voltage of the circuit, between its two wires or lines", symbol="U", gt=0, le=1500)
    most: float = quantity("%", "Drop at most", symbol="dv", gt=0, le=20)
    circuit: common.Circuit = choice("Kind of circuit", "DC")
    material: Material = choice("Material", "copper")


def size_for_drop(w: Workbook, q: SizeForDrop) -> Figure:
    """Area in mm2, with the drop and the loss it leaves."""
    clauses, core, along = w.book.wiring, Core(material=q.material), q.length / 1000
    factor = 3**0.5 if q.circuit == "three-phase" else 2.0
    for size in clauses.sizes():
        ohm_km = clauses.resistance(core, size, lambda _, draft: draft)
        if 100 * factor * along * ohm_km.value * q.current / q.voltage <= q.most + 1e-9:
            return _with_size(w, q, size)
    raise OutOfRange(
        "drop", f"{q.most:g} %", f"what {clauses.sizes()[-1]} leaves", "the book's sizes", "Shorten the route, or use parallel conductors."
    )


def _with_size(w: Workbook, q: SizeForDrop, size: str) -> Figure:
    """The size with what it loses."""
    clauses, amps, volts = w.book.wiring, told(w, q, "current"), told(w, q, "voltage")
    ohm_km = clauses.resistance(Core(material=q.material), size, w.put)
    lost = common.drop_v(amps, told(w, q, "length"), ohm_km, q.circuit)
    drop = w.work("drop_v", "dV", f"Drop with {size}", lost, "V", source=clauses.drop_source)
    is_left = w.work("drop_pct", "dv_is", f"Drop with {size}", 100 * drop / volts, "%", source=w.book.drop_source)
    watts = drop * amps
    w.work("loss", "P_l", "Lost along the route", watts * 3**0.5 if q.circuit == "three-phase" else watts, "W", source="physics")
    area = named("smallest size with at most {0}, {1} with it", sizes.area_mm2(size), told(w, q, "most"), is_left)
    holds = "By the drop alone: the conductor must carry its current as well."
    return w.work("size", "A", "Smallest size", area, "mm2", source=clauses.drop_source, label=size, limits=holds)


class WireSize(Ask):
    """A size in the other system, with the next smaller and larger."""

    size: str = words("text", "Size, such as 16 mm2 or 2/0 AWG", min_length=1, max_length=20)


def wire_size(w: Workbook, q: WireSize) -> tuple[Figure, tuple[str, ...]]:
    """Area in mm2; the neighbours in both systems in words."""
    text = q.size.strip().replace("²", "2")
    label = text if text.endswith(("AWG", "kcmil", "mm2")) else f"{text} {'mm2' if text.replace('.', '').isdigit() else 'AWG'}"
    area = sizes.area_mm2(label)
    found = w.given("size", "A_in", "Size", area, "mm2", label=label)
    lines = []
    for system, table in (
        ("AWG and kcmil", {s: nec.conductor(s).area_mm2 for s in nec.SIZES}),
        ("mm2", {f"{s} mm2": sizes.area_mm2(f"{s} mm2") for s in iec.SIZES}),
    ):
        less = max((s for s, a in table.items() if a <= area * (1 + 1e-9)), key=lambda s: table[s], default="none")
        more = min((s for s, a in table.items() if a >= area * (1 - 1e-9)), key=lambda s: table[s], default="none")
        lines.append(f"{system}: {less}" if less == more else f"{system}: next smaller {less}, next larger {more}")
    return w.work("area", "A", "Cross-section", found * 1.0, "mm2", source="nec.ch9t8", label=f"{area:.2f} mm2"), tuple(lines)


class ServiceConductor(Ask):
    """Service conductor of a dwelling, or the feeder that carries all of it (NEC 310.12)."""

    rating: float = quantity("A", "Rating of the service", symbol="I_s", ge=100, le=400)
    material: Material = choice("Material", "copper")


def service_conductor(w: Workbook, q: ServiceConductor) -> Figure:
    """Area in mm2 of the smallest size whose 75 °C column reaches 83 % of the rating."""
    wanted = w.work("wanted", "I_83", "Ampacity wanted", SERVICE_SHARE * told(w, q, "rating"), "A", source="nec.310.12")
    for size in nec.TABLE[q.material]:
        if nec.ampacity_a(size, 75, q.material) >= wanted.value - 1e-9:
            area = named("smallest size of 75 °C for {0}", nec.conductor(size, q.material).area_mm2, wanted)
            holds = "No ambient or grouping adjustment; one dwelling, 100 to 400 A."
            return w.work("size", "A", "Service conductor", area, "mm2", source="nec.310.12", label=size, limits=holds)
    raise OutOfRange("service", f"{q.rating:g} A", "what 500 kcmil carries", "NEC 2023 310.12", "Use parallel sets.")


class Earthing(Ask):
    """Grounding electrode conductor (NEC) or main bonding conductor (IEC) by the supply's."""

    supply: str = words("size", "Largest conductor of the supply")
    supply_material: Material = choice("Its metal (NEC)", "copper")
    electrode: Literal["rod, pipe or plate", "concrete-encased", "ground ring", "water pipe or steel"] = choice(
        "It leads only to a (NEC)", "water pipe or steel"
    )
    material: Material = choice("Metal of the electrode conductor (NEC)", "copper")
    earthed_neutral: bool = choice("The network earths the neutral, BS 7671 (IEC)", False)


def earthing(w: Workbook, q: Earthing) -> Figure:
    """Area in mm2."""
    supply = w.given("supply", "A_s", "Conductor of the supply", sizes.area_mm2(q.supply), "mm2", label=q.supply)
    if w.book.family == "nec":
        size = electrode_size(q.supply, q.supply_material, q.material, kind=q.electrode)
        area = named(f"row of Table 250.66 for {{0}}, to a {q.electrode}", sizes.area_mm2(size), supply)
        return w.work("size", "A_g", "Electrode conductor", area, "mm2", source="nec.250.66", label=size)
    least_mm2 = named("main bonding beside {0}", bonding_area_mm2(supply.value, earthed_neutral=q.earthed_neutral), supply)
    source = "bs.7671.54.8" if q.earthed_neutral else "iec.54.544"
    return w.work("size", "A_b", "Main bonding conductor, copper", least_mm2, "mm2", source=source)


class LoopLimit(Ask):
    """Largest earth-fault loop behind a breaker (IEC)."""

    device: float = quantity("A", "Breaker", symbol="I_n", gt=0, le=125)
    curve: overcurrent.Curve = choice("Curve", "C")
    voltage: float = quantity("V", "Voltage to earth", 230.0, symbol="U_0", gt=0, le=500)
    measured: float | None = quantity("ohm", "Loop as measured, cold", None, symbol="Z_m", gt=0, le=2000)


def _floored(ohm: float) -> str:
    return f"{math.floor(1000 * ohm) / 1000:.3f} ohm"


def loop_limit(w: Workbook, q: LoopLimit) -> tuple[Figure, tuple[str, ...]]:
    """Ohm; four fifths of it is what a cold circuit may show."""
    mean = w.book.loop_trips == "on average"
    trips = overcurrent.mean_trip_a(told(w, q, "device"), q.curve) if mean else overcurrent.instant_trip_a(told(w, q, "device"), q.curve)
    source = w.book.loop_trips_source or "iec.60898"
    trip = w.work("trip", "I_a", "Current that trips it", trips, "A", source=source)
    ohm = loop_impedance_max_ohm(told(w, q, "voltage"), trip, w.book.loop_margin)
    # A limit is never shown larger than it is.
    most = w.work("most", "Z_s", "Largest loop, warm", ohm, "ohm", source="iec.41.411", label=_floored(float(ohm)))
    name, holds = "As measured cold, four fifths", "Conductors warm in a fault."
    cold = w.work("cold", "Z_80", name, 0.8 * most, "ohm", source="cp.loop80", label=_floored(0.8 * most.value), limits=holds)
    if q.measured is None:
        return most, ()
    verdict = "trips in time" if q.measured <= cold.value else "too large: find the joint, enlarge the earth, or fit a residual device"
    return most, (f"{q.measured:g} ohm: {verdict}.",)


class Wrench(Ask):
    """Force at the end of a wrench for a torque."""

    torque: float = quantity("N m", "Torque", symbol="M", gt=0, le=2000)
    length: float = quantity("m", "Length of the wrench, from the screw to the hand", symbol="l", gt=0.02, le=3)
    error: float = quantity("%", "Error of the tool", 4.0, symbol="e", ge=0, le=25)


def wrench(w: Workbook, q: Wrench) -> Figure:
    """Force in N, with the ends that the tool's error leaves."""
    nm, error = told(w, q, "torque"), told(w, q, "error") / 100
    w.work("low", "M_lo", "Torque at the least", nm * (1 - error), "N m", source="physics")
    w.work("high", "M_hi", "Torque at the most", nm * (1 + error), "N m", source="physics")
    return w.work("force", "F", "Force at the hand", nm / told(w, q, "length"), "N", source="physics")


class ReadAddress(Ask):
    """The address that a block of switches shows."""

    places: str = words("text", "Places from switch 1: 1 or on for ON, 0 or off, such as 1010", min_length=1, max_length=60)
    first: Literal["least significant", "most significant"] = choice("Weight of the first switch", "least significant")
    on_is: Literal["one", "zero"] = choice("ON means", "one")
    offset: int = count("The switches show the address less", 0, ge=0, le=8)


def read_address(w: Workbook, q: ReadAddress) -> Figure:
    """The address."""
    tokens = q.places.lower().replace("on", "1").replace("off", "0").replace("f", "")
    bits = [int(c) for c in tokens if c in "01"]
    if not bits or any(c not in "01 ,;-" for c in tokens):
        raise OutOfRange("places", q.places, "1 and 0, or on and off", "the block", "Write them from switch 1 on, such as 1010.")
    meant = [bit if q.on_is == "one" else 1 - bit for bit in bits]
    ordered = meant if q.first == "least significant" else meant[::-1]
    value = sum(bit << n for n, bit in enumerate(ordered)) + q.offset
    return w.work("address", "a", "Address shown", float(value), "", source="cp.dip", limits=f"{len(bits)} switches.")

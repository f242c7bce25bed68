"""Which conductor, which drop, which device, which earth, which conduit?"""

from __future__ import annotations

import math
from collections import Counter
from typing import Literal

from gumboot.core import sizes
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.raceways import inside_area_mm2
from gumboot.core.plan.sizing_iec import bare
from gumboot.core.plan.sizing_nec import smallest_size, usable_ampacity_a
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.iec_family import earthing as iec_earth
from gumboot.core.rulebook.iec_family import overcurrent as iec_device
from gumboot.core.rulebook.iec_family.raceway import outside_diameter_mm, space_factor
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american import earthing as nec_earth
from gumboot.core.rulebook.north_american import overcurrent as nec_device
from gumboot.core.rulebook.north_american.raceway import FILL_WIREWAY, fill_limit, insulated_area_mm2
from gumboot.core.sums.ask import Ask, choice, count, quantity, words
from gumboot.core.workbook import Workbook

Material = Literal["copper", "aluminium"]


class Conductor(Ask):
    """Smallest conductor for a current."""

    current: float = quantity("A", "Design current", gt=0, le=2000)
    ambient: float = quantity("°C", "Hottest air along the route", ge=-40, le=90)
    device: float | None = quantity("A", "Overcurrent device, if chosen", None, gt=0, le=2000)
    material: Material = choice("Material", "copper")
    continuous: bool = choice("Runs for three hours or more", True)
    conductors: int = count("Current-carrying conductors in the raceway (NEC)", 3, ge=1, le=400)
    terminals: Literal[60, 75, 90] = choice("Terminals marked for, °C (NEC)", 75)
    method: iec.Method = choice("Method of installation (IEC)", "B1")
    insulation: iec.Insulation = choice("Insulation (IEC)", "PVC")
    loaded: Literal[2, 3] = choice("Loaded conductors (IEC)", 2)
    circuits: int = count("Circuits laid together (IEC)", 1, ge=1, le=20)
    sets: int = count("Parallel conductors of each pole", 1, ge=1, le=4)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Terminals of 60 °C above 100 A are read at 75 °C by nobody."""
        if family == "nec" and self.terminals == 60 and max(self.current, self.device or 0) > 100:
            return (
                "terminals",
                "above 100 A equipment is listed for 75 °C. A terminal marked 60 °C there is for its maker to explain: no answer is given.",
            )
        return None


def conductor(w: Workbook, q: Conductor) -> Figure:
    """Smallest conductor by the book, with its ampacity as laid."""
    current = w.given("current", "I_b", "Design current", q.current, "A")
    air = w.given("ambient", "T_a", "Hottest air along the route", q.ambient, "°C")
    device = w.given("device", "I_n", "Overcurrent device", q.device, "A") if q.device is not None else None
    if device is not None:
        factor = 1.25 if w.book.family == "nec" and q.continuous else 1.0
        load = w.work(
            "load",
            "I_l",
            "Load that the device carries",
            factor * q.current,
            "A",
            "nec.210.20" if factor > 1 else "iec.43.433",
            f"{factor:g} * I_b",
            (current,),
        )
        w.verdict(
            "DEVICE-SMALL",
            device.value >= load.value - 1e-9,
            "device",
            f"A device of {device.value:g} A is below its load of {load.value:g} A.",
            "Choose the device for the load first, then the conductor for both.",
            found=device,
            limit=load,
        )
    return _conductor_nec(w, q, current, air, device) if w.book.family == "nec" else _conductor_iec(w, q, current, air, device)


def _times(sets: int, formula: str) -> str:
    return f"{sets} * {formula}" if sets > 1 else formula


def _sized(w: Workbook, size: str, source: str, given: tuple[Figure, ...], why: str) -> Figure:
    return w.work("size", "A", "Smallest conductor", sizes.area_mm2(size), "mm2", source, given=given, label=size, limits=why)


def _conductor_nec(w: Workbook, q: Conductor, current: Figure, air: Figure, device: Figure | None) -> Figure:
    n = w.given("conductors", "n_cc", "Current-carrying conductors in the raceway", q.conductors, "")
    factor = 1.25 if q.continuous else 1.0
    least = w.work("least", "I_c", "Current before factors", factor * q.current, "A", "nec.210.19", f"{factor:g} * I_b", (current,))
    f_a = w.work(
        "f_a", "F_a", "Ambient correction", nec.ambient_factor(q.ambient, 90), "", "nec.310.15b", given=(air,), limits="90 °C column."
    )
    f_g = w.work("f_g", "F_g", "Grouping adjustment", nec.grouping_factor(q.conductors), "", "nec.310.15c", given=(n,))
    column = nec.terminal_column_c(q.device if q.device is not None else least.value, q.terminals)
    size = smallest_size(q.current, least.value, q.device, column, f_a.value, f_g.value, q.material, q.sets)
    table = w.work("table", "I_t90", f"Ampacity of {size}, 90 °C column", nec.ampacity_a(size, 90, q.material), "A", "nec.310.16")
    cap = w.work(
        "cap", "I_term", f"Ampacity of {size} at {column} °C terminals", nec.ampacity_a(size, column, q.material), "A", "nec.110.14c"
    )
    usable = q.sets * usable_ampacity_a(size, column, f_a.value, f_g.value, q.material)
    w.work(
        "ampacity",
        "I_z",
        "Ampacity as laid",
        usable,
        "A",
        "nec.310.16",
        _times(q.sets, "min(I_t90 * F_a * F_g, I_term)"),
        (table, f_a, f_g, cap),
    )
    given = (current, least, f_a, f_g, *((device,) if device else ()))
    why = (
        f"{column} °C column reaches the current before factors, 90 °C column after factors the design current, and the device protects it."
    )
    return _sized(w, size, "nec.310.16", given, why)


def _conductor_iec(w: Workbook, q: Conductor, current: Figure, air: Figure, device: Figure | None) -> Figure:
    in_ground = q.method in ("D1", "D2")
    n = w.given("circuits", "n_c", "Circuits laid together", q.circuits, "")
    f_a = w.work("f_a", "F_a", "Ambient factor", iec.ambient_factor(q.ambient, q.insulation, in_ground), "", "iec.52.ambient", given=(air,))
    f_g = w.work("f_g", "F_g", "Grouping factor", iec.grouping_factor(q.circuits), "", "iec.52.grouping", given=(n,))
    least = q.current if q.device is None else max(q.current, iec_device.least_capacity_a(q.device))
    need = w.work(
        "least",
        "I_min",
        "Capacity wanted as laid",
        least,
        "A",
        "iec.43.433",
        "max(I_b, I_n)" if device else "I_b",
        (current, *((device,) if device else ())),
    )
    for number in iec.sizes(q.material):
        table_a = iec.capacity_a(number, q.method, q.insulation, q.loaded, q.material)
        if q.sets * table_a * f_a.value * f_g.value >= least - 1e-9:
            size = f"{number} mm2"
            words_ = f"Capacity of {size}, method {q.method}, {q.insulation}, {q.loaded} loaded"
            table = w.work("table", "I_t", words_, table_a, "A", "iec.52")
            usable = q.sets * table_a * f_a.value * f_g.value
            w.work("ampacity", "I_z", "Capacity as laid", usable, "A", "iec.52", _times(q.sets, "I_t * F_a * F_g"), (table, f_a, f_g))
            return _sized(w, size, "iec.52", (current, need, f_a, f_g), iec.METHODS[q.method].capitalize() + ".")
    from gumboot.core.errors import OutOfRange

    raise OutOfRange(
        "current", f"{least:.0f} A", f"up to {iec.SIZES[-1]} mm2", "IEC 60364-5-52 Annex B", "Use parallel conductors or a better method."
    )


class Drop(Ask):
    """Voltage drop along a run; with a negative current it is a rise."""

    current: float = quantity("A", "Current; negative when fed back", ge=-2000, le=2000)
    length: float = quantity("m", "One-way length", gt=0, le=2000)
    size: str = words("size", "Conductor size")
    voltage: float = quantity("V", "Voltage of the circuit", gt=0, le=1500)
    circuit: common.Circuit = choice("Kind of circuit", "DC")
    material: Material = choice("Material", "copper")
    power_factor: float = quantity("", "Power factor", 1.0, gt=0, le=1)
    conductor_temperature: float | None = quantity("°C", "Conductor temperature, if not 70 °C (IEC)", None, ge=0, le=250)
    sets: int = count("Parallel conductors of each pole", 1, ge=1, le=4)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Direct current has no power factor."""
        if self.circuit == "DC" and self.given("power_factor"):
            return "power_factor", "direct current has none. Leave it out, or say that the circuit is single-phase or three-phase."
        return None


def drop(w: Workbook, q: Drop) -> Figure:
    """Drop in percent, with the drop in volts beside it."""
    amps = w.given("current", "I", "Current", q.current, "A")
    metres = w.given("length", "L", "One-way length", q.length, "m")
    volts = w.given("voltage", "U", "Voltage of the circuit", q.voltage, "V")
    if w.book.family == "nec":
        r = w.work("r", "r", f"Resistance of {q.size} at 75 °C", nec.resistance_ohm_per_km(q.size, q.material), "ohm/km", "nec.ch9t8")
        x = w.work(
            "x", "x", f"Reactance of {q.size}", nec.reactance_ohm_per_km(q.size), "ohm/km", "nec.ch9t9", limits="Plastic raceway, 60 Hz."
        )
    else:
        warm_c = q.conductor_temperature if q.conductor_temperature is not None else 70.0
        warm = iec.resistance_ohm_per_km(bare(q.size), q.material, warm_c)
        r = w.work("r", "r", f"Resistance of {q.size} at {warm_c:g} °C", warm, "ohm/km", "iec.60228")
        x = w.work("x", "x", f"Reactance of {q.size}", iec.REACTANCE_OHM_PER_KM, "ohm/km", "iec.52.g")
    cosine = w.given("power_factor", "cos_phi", "Power factor", q.power_factor, "")
    b = "3 ** 0.5" if q.circuit == "three-phase" else "2"
    x_used = 0.0 if q.circuit == "DC" else x.value
    value = common.drop_v(q.current, q.length, r.value, x_used, q.power_factor, q.circuit) / q.sets
    reactive = "" if q.circuit == "DC" else " + x * (1 - cos_phi ** 2) ** 0.5"
    over = f" / {q.sets}" if q.sets > 1 else ""
    given = (metres, r, cosine, amps, *(() if q.circuit == "DC" else (x,)))
    source = "nec.ch9t9" if w.book.family == "nec" else "iec.52.g"
    lost = w.work("drop_v", "dV", "Voltage drop", value, "V", source, f"{b} * L / 1000 * (r * cos_phi{reactive}) * I{over}", given)
    pct = w.work("drop_pct", "dv", "Voltage drop", 100 * value / q.voltage, "%", w.book.drop_source, "100 * dV / U", (lost, volts))
    rises = q.current < 0
    most = w.book.rise_limit_pct if rises else w.book.drop_limit_pct
    limit = w.keep(constant("dv_max", "At most", most, "%", w.book.rise_source if rises else w.book.drop_source))
    w.verdict(
        "RISE-OVER" if rises else "DROP-OVER",
        abs(pct.value) <= limit.value,
        "run",
        f"{abs(pct.value):.2f} % is {'gained' if rises else 'lost'} along the run; {limit.value:g} % is the most.",
        "Shorten the route or pull a larger conductor.",
        found=pct,
        limit=limit,
    )
    return pct


class NextDevice(Ask):
    """Next standard overcurrent device for a load."""

    continuous: float = quantity("A", "Load that runs for three hours or more", ge=0, le=2000)
    other: float = quantity("A", "Other load", 0.0, ge=0, le=2000)
    fully_rated: bool = choice("Listed for 100 % with its enclosure (NEC)", False)
    family: iec_device.DeviceFamily = choice("Kind of device (IEC)", "breaker")


def next_device(w: Workbook, q: NextDevice) -> Figure:
    """Smallest standard rating at or above what the load asks."""
    steady = w.given("continuous", "I_c", "Continuous load", q.continuous, "A")
    rest = w.given("other", "I_o", "Other load", q.other, "A")
    if w.book.family == "nec":
        factor = 1.0 if q.fully_rated else 1.25
        least_a = nec_device.continuous_minimum_a(q.continuous, q.other, q.fully_rated)
        least = w.work("least", "I_min", "Rating wanted", least_a, "A", "nec.210.20", f"{factor:g} * I_c + I_o", (steady, rest))
        return w.work("device", "I_n", "Next standard device", nec_device.next_standard_a(least_a), "A", "nec.240.6a", given=(least,))
    least = w.work("least", "I_min", "Rating wanted", q.continuous + q.other, "A", "iec.43.433", "I_c + I_o", (steady, rest))
    value = iec_device.next_rating_a(least.value, q.family)
    return w.work("device", "I_n", f"Next standard {q.family}", value, "A", "iec.60898", given=(least,))


class Earth(Ask):
    """Earth conductor of a circuit."""

    device: float | None = quantity("A", "Overcurrent device (NEC)", None, gt=0, le=600)
    line: str = words("size", "Line conductor installed")
    required: str | None = words("size", "Line conductor that the code asks, if smaller (NEC)", None)
    material: Material = choice("Material", "copper")
    fault: float | None = quantity("A", "Fault current, for the heat check (IEC)", None, gt=0)
    time: float | None = quantity("s", "Disconnection time (IEC)", None, gt=0, le=5)

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
    """Size of the earth conductor."""
    line = w.given("line", "A", "Line conductor installed", sizes.area_mm2(q.line), "mm2", q.line)
    if w.book.family == "nec" and q.device is not None:
        device = w.given("device", "I_n", "Overcurrent device", q.device, "A")
        base = nec_earth.grounding_size(q.device, q.material)
        table = w.work(
            "table", "A_e0", "Earth conductor by device", sizes.area_mm2(base), "mm2", "nec.250.122", given=(device,), label=base
        )
        grown = nec_earth.upsized_grounding(base, q.required or q.line, q.line, q.material)
        return w.work("earth", "A_e", "Earth conductor", sizes.area_mm2(grown), "mm2", "nec.250.122b", given=(table, line), label=grown)
    area = iec_earth.protective_area_mm2(float(bare(q.line)))
    least = w.work("least", "S_e", "Earth conductor by line conductor", area, "mm2", "iec.54.2", given=(line,))
    if q.fault is not None and q.time is not None:
        k = w.keep(constant("k", f"Heat constant, {q.material} PVC core", iec_earth.factor_k(q.material), "A s^0.5/mm2", "iec.54.543"))
        amps, seconds = w.given("fault", "I_k", "Fault current", q.fault, "A"), w.given("time", "t", "Disconnection time", q.time, "s")
        heat = iec_earth.adiabatic_area_mm2(q.fault, q.time, k.value)
        w.work("heat", "S_k", "Earth conductor by heat", heat, "mm2", "iec.54.543", "(I_k ** 2 * t) ** 0.5 / k", (amps, seconds, k))
        area = max(area, heat)
    size = next((f"{n} mm2" for n in iec.SIZES if float(n) >= area - 1e-9), q.line)
    return w.work("earth", "A_e", "Earth conductor", sizes.area_mm2(size), "mm2", "iec.54.2", given=(least,), label=size)


class ConduitFill(Ask):
    """Fill of a conduit, trunking or wireway."""

    kind: Literal["EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway", "conduit", "trunking"] = choice("Kind")
    raceway: str = words("text", "Trade size, inside diameter in mm, or width x height in mm", max_length=20)
    wires: tuple[str, ...] = words("sizes", "Every conductor, earth too", min_length=1, max_length=100)
    insulation: Literal["THWN-2", "XHHW-2", "RHW-2"] = choice("Insulation (NEC)", "THWN-2")
    length: float | None = quantity("m", "Length, for a nipple", None, gt=0, le=1000)


def conduit_fill(w: Workbook, q: ConduitFill) -> Figure:
    """Share filled, against the share allowed."""
    nec_book = w.book.family == "nec"
    areas = [insulated_area_mm2(q.insulation, s) if nec_book else math.pi / 4 * outside_diameter_mm(bare(s)) ** 2 for s in q.wires]
    counted = ", ".join(f"{n} × {size}" for size, n in Counter(q.wires).items())
    length_mm = q.length * 1000 if q.length is not None else None
    source = "iec.trunking" if not nec_book else "nec.376.22" if q.kind in ("wireway", "trunking") else "nec.ch9t1"
    share = (
        space_factor(q.kind in ("trunking", "wireway"))
        if not nec_book
        else FILL_WIREWAY
        if q.kind in ("wireway", "trunking")
        else fill_limit(len(areas), length_mm)
    )
    total = w.work("wires", "A_w", f"Conductors: {counted}", sum(areas), "mm2", "nec.ch9t1" if nec_book else "en.50525")
    inside = w.work("inside", "A_in", f"Inside of {q.kind} {q.raceway}", inside_area_mm2(q.kind, q.raceway), "mm2", source)
    fill = w.work("fill", "f", "Share filled", 100 * total.value / inside.value, "%", source, "100 * A_w / A_in", (total, inside))
    limit = w.work("limit", "f_max", "Share that may be filled", 100 * share, "%", source)
    w.verdict(
        "RACEWAY-FULL",
        fill.value <= limit.value + 1e-9,
        f"{q.kind} {q.raceway}",
        f"It is filled to {fill.value:.1f} %; {limit.value:g} % is the most.",
        "Take the next size or a second raceway.",
        found=fill,
        limit=limit,
        source=source,
    )
    return fill

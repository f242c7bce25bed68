"""Which conductor, device and earth does one circuit need, and what does its length cost?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.topology import Circuit
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.rulebook.north_american.earthing import grounding_size, upsized_grounding
from gumboot.core.rulebook.north_american.overcurrent import largest_device_a, next_standard_a

INSULATION_C: nec.Column = 90


@dataclass(frozen=True)
class Demand:
    """What a circuit must carry, before any conductor is chosen."""

    design_a: Figure
    continuous_a: Figure
    volts: Figure
    drop_a: Figure
    maker_min: str
    maker_source: str
    fixed_device_a: Figure | None
    needs_device: bool
    device_place: str


@dataclass(frozen=True)
class Sized:
    """A circuit with its conductors, device, earth and drop."""

    circuit: Circuit
    run: Run
    demand: Demand
    device: Figure | None
    code_size: Figure
    required: Figure
    installed: Figure
    ampacity: Figure
    table_ampacity: Figure
    ambient_factor: Figure
    grouping_factor: Figure
    earth: Figure
    earth_required: Figure
    drop: Figure
    drop_pct: Figure
    length: Figure

    @property
    def size(self) -> str:
        """Trade size that will be pulled."""
        return self.installed.label

    @property
    def earth_size(self) -> str:
        """Trade size of the earth conductor that will be pulled."""
        return self.earth.label


def size_figure(
    ledger: Ledger,
    key: str,
    symbol: str,
    name: str,
    size: str,
    source: str,
    given: tuple[Figure, ...] = (),
    limits: str = "",
    formula: str = "",
) -> Figure:
    """A trade size as a figure: its copper area in mm2, labelled as the trade says it."""
    return ledger.work(key, symbol, name, nec.conductor(size).area_mm2, "mm2", source, formula, given, size, limits)


def _device(ledger: Ledger, cid: str, run: Run, demand: Demand) -> Figure | None:
    if not demand.needs_device:
        return None
    least = ledger.work(
        f"circuits.{cid}.device_min",
        "I_n_min",
        "Smallest standard device",
        next_standard_a(demand.continuous_a.value),
        "A",
        "nec.240.6a",
        given=(demand.continuous_a,),
        limits="Next rating of Table 240.6(A) at or above 125 % of the design current.",
    )
    if demand.fixed_device_a is not None:
        fixed = demand.fixed_device_a
        device = ledger.work(f"circuits.{cid}.device", "I_n", "Overcurrent device", fixed.value, "A", fixed.source, fixed.symbol, (fixed,))
    elif run.device_a is not None:
        device = ledger.work(
            f"circuits.{cid}.device", "I_n", "Overcurrent device, chosen", run.device_a, "A", f"input:runs.{run.id}.device_a"
        )
    else:
        device = ledger.work(f"circuits.{cid}.device", "I_n", "Overcurrent device", least.value, "A", "nec.240.6a", "I_n_min", (least,))
    ledger.verdict(
        "DEVICE-SMALL",
        device.value >= demand.continuous_a.value - 1e-9,
        cid,
        f"A {device.value:.0f} A device carries 80 % of its rating for hours; this circuit needs {demand.continuous_a.value:.1f} A at 125 %.",
        f"Fit {least.value:.0f} A, and the conductor for it.",
        found=device,
        limit=demand.continuous_a,
        field=f"runs.{run.id}.device_a",
    )
    return device


def _factors(ledger: Ledger, cid: str, run: Run) -> tuple[Figure, Figure] | None:
    ambient = ledger.asked(
        f"runs.{run.id}.ambient_c",
        "T_a",
        "Hottest air along the route",
        "°C",
        "circuits",
        f"Hottest air along {cid}?",
        f"Conductor size of {cid}",
    )
    if ambient is None:
        return None
    count = ledger.decided(f"runs.{run.id}.current_carrying", "n_cc", "Current-carrying conductors in the raceway", "")
    try:
        value = nec.ambient_factor(ambient.value, INSULATION_C)
    except OutOfRange as refused:
        ledger.verdict(
            "COND-TOO-HOT", False, cid, str(refused), "Re-route the conductor through a cooler place.", field=f"runs.{run.id}.ambient_c"
        )
        return None
    f_a = ledger.work(
        f"circuits.{cid}.ambient_factor",
        "F_a",
        "Ambient correction",
        value,
        "",
        "nec.310.15b",
        given=(ambient,),
        limits="90 °C column, 30 °C base.",
    )
    f_g = ledger.work(
        f"circuits.{cid}.grouping_factor",
        "F_g",
        "Grouping adjustment",
        nec.grouping_factor(int(count.value)),
        "",
        "nec.310.15c",
        given=(count,),
    )
    return f_a, f_g


def usable_ampacity_a(size: str, column: nec.Column, f_a: float, f_g: float) -> float:
    """Ampacity in A that may be used: the derated insulation column, never above the terminal column."""
    return min(nec.ampacity_a(size, INSULATION_C) * f_a * f_g, nec.ampacity_a(size, column))


def smallest_size(design_a: float, continuous_a: float, device_a: float | None, column: nec.Column, f_a: float, f_g: float) -> str:
    """Smallest copper size that passes 210.19 before factors, 310.15 after them, and 240.4 for its device."""
    for size in nec.SIZES:
        usable = usable_ampacity_a(size, column, f_a, f_g)
        carries = nec.ampacity_a(size, column) >= continuous_a - 1e-9 and usable >= design_a - 1e-9
        if carries and (device_a is None or device_a <= largest_device_a(size, usable) + 1e-9):
            return size
    raise OutOfRange(
        "design current", f"{design_a:.0f} A", "one copper conductor up to 500 kcmil", "NEC 2023 Table 310.16", "Use parallel sets."
    )


def _earth(ledger: Ledger, cid: str, run: Run, basis: Figure, base_required: str, installed: str) -> tuple[Figure, Figure]:
    base = grounding_size(basis.value)
    table = size_figure(ledger, f"circuits.{cid}.earth_table", "A_e0", "Earth conductor by device", base, "nec.250.122", (basis,))
    grown = upsized_grounding(base, base_required, installed)
    required = size_figure(
        ledger,
        f"circuits.{cid}.earth_required",
        "A_e",
        "Earth conductor required",
        grown,
        "nec.250.122b",
        (table,),
        "Grown by the ratio of installed to required circuit conductor; never above the circuit conductor.",
    )
    chosen = run.installed_earth or grown
    earth = size_figure(
        ledger,
        f"circuits.{cid}.earth",
        "A_ei",
        "Earth conductor installed",
        chosen,
        f"input:runs.{run.id}.installed_earth" if run.installed_earth else "nec.250.122b",
        (required,),
    )
    ledger.verdict(
        "EARTH-SMALL",
        nec.conductor(chosen).ordinal >= nec.conductor(grown).ordinal,
        cid,
        f"The earth conductor is {chosen}; {grown} is required.",
        f"Pull {grown}.",
        found=earth,
        limit=required,
        field=f"runs.{run.id}.installed_earth",
    )
    return earth, required


def _check_installed(
    ledger: Ledger, cid: str, run: Run, code: Figure, maker: str, installed: Figure, usable: Figure, device: Figure | None
) -> None:
    ordinal = nec.conductor(installed.label).ordinal
    field = f"runs.{run.id}.installed_size"
    ledger.verdict(
        "COND-SMALL",
        ordinal >= nec.conductor(code.label).ordinal,
        cid,
        f"{installed.label} is pulled; the code asks {code.label}.",
        f"Pull {code.label} or larger.",
        found=installed,
        limit=code,
        field=field,
    )
    ledger.verdict(
        "COND-MAKER",
        not maker or ordinal >= nec.conductor(maker).ordinal,
        cid,
        f"{installed.label} is pulled; the maker asks at least {maker}.",
        f"Pull {maker} or larger.",
        found=installed,
        field=field,
    )
    below = bool(maker) and nec.conductor(maker).ordinal < nec.conductor(code.label).ordinal
    ledger.verdict(
        "COND-MAKER-BELOW",
        not below,
        cid,
        f"The maker's minimum is {maker}; the code asks {code.label}.",
        f"The larger wins: {code.label}.",
        found=code,
    )
    if device is not None:
        most = ledger.work(
            f"circuits.{cid}.device_most",
            "I_n_max",
            "Largest device for this conductor",
            largest_device_a(installed.label, usable.value),
            "A",
            "nec.240.4b",
            given=(usable,),
            limits="Next standard rating above the ampacity; 240.4(D) caps 14, 12 and 10 AWG.",
        )
        ledger.verdict(
            "COND-UNPROTECTED",
            device.value <= most.value,
            cid,
            f"A {device.value:.0f} A device does not protect {installed.label}; the largest is {most.value:.0f} A.",
            f"Pull {code.label} or fit a smaller device.",
            found=device,
            limit=most,
            field=field,
        )


def _drop(ledger: Ledger, cid: str, demand: Demand, installed: Figure, length: Figure) -> tuple[Figure, Figure]:
    ohm_km = ledger.work(
        f"circuits.{cid}.ohm_per_km",
        "r",
        f"Resistance of {installed.label} at 75 °C",
        nec.conductor(installed.label).resistance_ohm_per_km,
        "ohm/km",
        "nec.ch9t8",
    )
    drop = ledger.work(
        f"circuits.{cid}.drop",
        "dV",
        "Voltage drop",
        nec.voltage_drop_v(demand.drop_a.value, installed.label, length.value),
        "V",
        "nec.ch9t8",
        f"2 * L / 1000 * r * {demand.drop_a.symbol}",
        (length, ohm_km, demand.drop_a),
        limits="DC resistance at 75 °C; reactance left out.",
    )
    pct = ledger.work(
        f"circuits.{cid}.drop_pct",
        "dv",
        "Voltage drop",
        100 * drop.value / demand.volts.value,
        "%",
        "nec.210.19in",
        f"100 * dV / {demand.volts.symbol}",
        (drop, demand.volts),
    )
    limit = ledger.decided("preferences.drop_limit_pct", "dv_max", "Drop wanted at most", "%")
    ledger.verdict(
        "DROP-OVER",
        pct.value <= limit.value,
        cid,
        f"{pct.value:.2f} % is lost along {cid}; the wish is at most {limit.value:g} %.",
        "Shorten the route or pull a larger conductor.",
        found=pct,
        limit=limit,
        field=f"runs.{cid}.length_m",
    )
    return drop, pct


def size_circuit(ledger: Ledger, circuit: Circuit, run: Run, demand: Demand, terminal_ratings_c: Sequence[int]) -> Sized | None:
    """Size one circuit; None while a route answer is missing (the gap says which)."""
    cid = circuit.id
    length = ledger.asked(
        f"runs.{run.id}.length_m",
        "L",
        "One-way length",
        "m",
        "circuits",
        f"Length of the {circuit.title}?",
        f"Voltage drop and material of {cid}",
    )
    factors = _factors(ledger, cid, run)
    if length is None or factors is None:
        return None
    f_a, f_g = factors
    device = _device(ledger, cid, run, demand)
    column = nec.terminal_column_c((device or demand.continuous_a).value, min(terminal_ratings_c))
    try:
        code = smallest_size(
            demand.design_a.value, demand.continuous_a.value, device.value if device else None, column, f_a.value, f_g.value
        )
    except OutOfRange as refused:
        ledger.verdict(
            "COND-NONE",
            False,
            cid,
            str(refused),
            "Lower the current, cool the route, or use parallel sets.",
            field=f"runs.{run.id}.installed_size",
        )
        return None
    given = (demand.design_a, demand.continuous_a, f_a, f_g, *((device,) if device else ()))
    code_size = size_figure(
        ledger,
        f"circuits.{cid}.code_size",
        "A_code",
        "Smallest conductor by code",
        code,
        "nec.310.16",
        given,
        f"Smallest size whose {column} °C column reaches 125 % of the current, whose 90 °C column after factors reaches the current, and which its device protects.",
    )
    required = nec.larger(code, demand.maker_min) if demand.maker_min else code
    by_maker = required != code
    required_size = size_figure(
        ledger,
        f"circuits.{cid}.required",
        "A_req",
        "Conductor required",
        required,
        demand.maker_source if by_maker else "nec.310.16",
        (code_size,),
        "The maker's minimum is larger than the code's answer." if by_maker else "The code's answer is at least the maker's minimum.",
    )
    chosen = run.installed_size or required
    source = f"input:runs.{run.id}.installed_size" if run.installed_size else required_size.source
    installed = size_figure(ledger, f"circuits.{cid}.installed", "A", "Conductor pulled", chosen, source, (required_size,))
    table = ledger.work(
        f"circuits.{cid}.table_ampacity",
        "I_t90",
        f"Ampacity of {chosen}, 90 °C column",
        nec.ampacity_a(chosen, INSULATION_C),
        "A",
        "nec.310.16",
    )
    cap = ledger.work(
        f"circuits.{cid}.terminal_ampacity",
        "I_term",
        f"Ampacity of {chosen} at {column} °C terminals",
        nec.ampacity_a(chosen, column),
        "A",
        "nec.110.14c",
    )
    usable = ledger.work(
        f"circuits.{cid}.ampacity",
        "I_z",
        f"Ampacity of {chosen} as laid",
        usable_ampacity_a(chosen, column, f_a.value, f_g.value),
        "A",
        "nec.310.16",
        "min(I_t90 * F_a * F_g, I_term)",
        (table, f_a, f_g, cap),
    )
    _check_installed(ledger, cid, run, code_size, demand.maker_min, installed, usable, device)
    earth, earth_required = _earth(ledger, cid, run, device or demand.design_a, code, chosen)
    drop, pct = _drop(ledger, cid, demand, installed, length)
    return Sized(
        circuit, run, demand, device, code_size, required_size, installed, usable, table, f_a, f_g, earth, earth_required, drop, pct, length
    )

"""Which conductor, device and earth does one circuit need, and what does its length cost?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from gumboot.core import sizes
from gumboot.core.errors import OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.topology import Circuit
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.rulebook.north_american.conductors import battery_cable_allowed, parallel_sets_allowed


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
    flow: common.Circuit = "DC"
    terminal_min: str = ""
    terminal_source: str = ""


@dataclass(frozen=True)
class Sized:
    """A circuit with its conductors, device, earth and drop. ``earth`` is None where no earth runs with it."""

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
    earth: Figure | None
    earth_required: Figure | None
    drop: Figure
    drop_pct: Figure
    length: Figure
    ohm_per_km: Figure

    @property
    def size(self) -> str:
        """Trade size that will be pulled."""
        return self.installed.label

    @property
    def earth_size(self) -> str:
        """Trade size of the earth conductor that will be pulled; empty where none is."""
        return self.earth.label if self.earth else ""


@dataclass(frozen=True)
class Laid:
    """A circuit as it is laid: what every question about its conductors needs."""

    ledger: Ledger
    cid: str
    run: Run
    demand: Demand
    f_a: Figure
    f_g: Figure
    terminal_c: int
    kind: str = ""


class Wiring(Protocol):
    """How one code family sizes a conductor. Each answer is a figure with its working, or a size label."""

    base_source: str
    exhausted: str

    def factors(self, ledger: Ledger, cid: str, run: Run, ambient: Figure) -> tuple[Figure, Figure]:
        """Ambient and grouping factor. Raises OutOfRange outside the tables."""

    def device_min(self, ledger: Ledger, cid: str, demand: Demand, run: Run) -> Figure:
        """Smallest standard device for the circuit. Raises OutOfRange when exhausted."""

    def smallest(self, laid: Laid, device: Figure | None) -> tuple[str, str]:
        """Smallest size by code and the words that say why. Raises OutOfRange when exhausted."""

    def ampacity(self, laid: Laid, size: str, device: Figure | None) -> tuple[Figure, Figure]:
        """Table value and ampacity as laid of a size."""

    def largest_device(self, laid: Laid, size: str, usable: Figure) -> Figure:
        """Largest device that protects the size as laid."""

    def earth(self, laid: Laid, basis: Figure, code: str, installed: str) -> tuple[Figure, str]:
        """Earth conductor required as a figure, and its size."""

    def resistance(self, laid: Laid, size: str) -> Figure:
        """Resistance of the warm conductor, ohm/km."""

    def reactance(self, laid: Laid, size: str) -> Figure:
        """Reactance of the conductor, ohm/km."""


def wiring(family: str) -> Wiring:
    """The sizing of a code family."""
    from gumboot.core.plan.sizing_iec import IecWiring
    from gumboot.core.plan.sizing_nec import NecWiring

    return NecWiring() if family == "nec" else IecWiring()


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
    """A size as a figure: its copper area in mm2, labelled as the trade says it."""
    return ledger.work(key, symbol, name, sizes.area_mm2(size), "mm2", source, formula, given, size, limits)


def _device(ledger: Ledger, cid: str, run: Run, demand: Demand, book: Wiring) -> Figure | None:
    if not demand.needs_device:
        return None
    least = book.device_min(ledger, cid, demand, run)
    if demand.fixed_device_a is not None:
        fixed = demand.fixed_device_a
        device = ledger.work(f"circuits.{cid}.device", "I_n", "Overcurrent device", fixed.value, "A", fixed.source, fixed.symbol, (fixed,))
    elif run.device_a is not None:
        device = ledger.work(
            f"circuits.{cid}.device", "I_n", "Overcurrent device, chosen", run.device_a, "A", f"input:runs.{run.id}.device_a"
        )
    else:
        device = ledger.work(f"circuits.{cid}.device", "I_n", "Overcurrent device", least.value, "A", least.source, "I_n_min", (least,))
    needed = demand.continuous_a
    words = (
        f"A {device.value:.0f} A device carries 80 % of its rating for hours; this circuit needs {needed.value:.1f} A at 125 %."
        if needed is not demand.design_a
        else f"A {device.value:.0f} A device is smaller than the {needed.value:.1f} A it would carry."
    )
    ledger.verdict(
        "DEVICE-SMALL",
        device.value >= needed.value - 1e-9,
        cid,
        words,
        f"Fit {least.value:.0f} A, and the conductor for it.",
        found=device,
        limit=needed,
        field=f"runs.{run.id}.device_a",
    )
    return device


def _factors(ledger: Ledger, cid: str, run: Run, book: Wiring) -> tuple[Figure, Figure] | None:
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
    try:
        return book.factors(ledger, cid, run, ambient)
    except OutOfRange as refused:
        ledger.verdict(
            "COND-TOO-HOT", False, cid, str(refused), "Re-route the conductor through a cooler place.", field=f"runs.{run.id}.ambient_c"
        )
        return None


def _earth(laid: Laid, book: Wiring, basis: Figure, code: str, installed: str) -> tuple[Figure, Figure]:
    ledger, cid, run = laid.ledger, laid.cid, laid.run
    required, grown = book.earth(laid, basis, code, installed)
    chosen = run.installed_earth or grown
    earth = size_figure(
        ledger,
        f"circuits.{cid}.earth",
        "A_ei",
        "Earth conductor installed",
        chosen,
        f"input:runs.{run.id}.installed_earth" if run.installed_earth else required.source,
        (required,),
    )
    ledger.verdict(
        "EARTH-SMALL",
        sizes.area_mm2(chosen) >= sizes.area_mm2(grown) - 1e-9,
        cid,
        f"The earth conductor is {chosen}; {grown} is required.",
        f"Pull {grown}.",
        found=earth,
        limit=required,
        field=f"runs.{run.id}.installed_earth",
    )
    return earth, required


def _check_installed(laid: Laid, book: Wiring, code: Figure, installed: Figure, usable: Figure, device: Figure | None) -> None:
    ledger, cid, run, maker = laid.ledger, laid.cid, laid.run, laid.demand.maker_min
    area, field = installed.value, f"runs.{run.id}.installed_size"
    ledger.verdict(
        "COND-SMALL",
        area >= code.value - 1e-9,
        cid,
        f"{installed.label} is pulled; the code asks {code.label}.",
        f"Pull {code.label} or larger.",
        found=installed,
        limit=code,
        field=field,
    )
    ledger.verdict(
        "COND-MAKER",
        not maker or area >= sizes.area_mm2(maker) - 1e-9,
        cid,
        f"{installed.label} is pulled; the maker asks at least {maker}.",
        f"Pull {maker} or larger.",
        found=installed,
        field=field,
    )
    _check_kind(laid, installed)
    below = bool(maker) and sizes.area_mm2(maker) < code.value - 1e-9
    ledger.verdict(
        "COND-MAKER-BELOW",
        not below,
        cid,
        f"The maker's minimum is {maker}; the code asks {code.label}.",
        f"The larger wins: {code.label}.",
        found=code,
    )
    if device is not None:
        most = book.largest_device(laid, installed.label, usable)
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


def _check_kind(laid: Laid, installed: Figure) -> None:
    """What NEC allows of parallel sets and of welding-type cable."""
    ledger, cid, run = laid.ledger, laid.cid, laid.run
    if ledger.book.family != "nec":
        return
    ledger.verdict(
        "COND-PARALLEL",
        run.sets == 1 or parallel_sets_allowed(installed.label),
        cid,
        f"{run.sets} conductors of {installed.label} lie in parallel; only 1/0 AWG and larger may.",
        "Pull one larger conductor, or sets of 1/0 AWG or more, all alike.",
        found=installed,
        field=f"runs.{run.id}.sets",
    )
    in_bank = cid in {"bat-main", "interlinks"} or cid in {u.id for u in ledger.job.bank.units}
    ledger.verdict(
        "COND-CORD",
        run.cable != "cord" or cid == "generator-feed",
        cid,
        f"{cid} is laid as a portable cord; a cord is no fixed wiring.",
        "Use building wire; a cord may join a portable generator only.",
        found=installed,
        field=f"runs.{run.id}.cable",
    )
    ledger.verdict(
        "COND-FLEX",
        run.cable != "flexible cable" or (in_bank and battery_cable_allowed(installed.label)),
        cid,
        f"{installed.label} welding-type cable is laid; such cable may join a battery to its box from 2/0 AWG, and nothing else.",
        "Use building wire with fine strands in terminals marked for it, or 2/0 AWG and larger at the battery.",
        found=installed,
        field=f"runs.{run.id}.cable",
    )


def _check_pv_wire(ledger: Ledger, cid: str, run: Run) -> None:
    """PV wire of the book: 90 °C wet-rated by NEC, cross-linked insulation for DC by IEC; never PVC of the usual kind."""
    nec = ledger.book.family == "nec"
    ledger.verdict(
        "PV-WIRE",
        run.insulation != "PVC" and (nec or run.insulation is not None),
        cid,
        f"{cid} is laid in PVC: PV runs are hot, wet and at high DC voltage.",
        "Use 90 °C wet-rated conductors." if nec else "Use cross-linked PV cable.",
        field=f"runs.{run.id}.insulation",
    )


def _drop_formula(
    laid: Laid, book: Wiring, installed: Figure, length: Figure, ohm_km: Figure
) -> tuple[float, str, tuple[Figure, ...], str]:
    """Drop in V with its formula: resistance alone at unity power factor, reactance too below it."""
    demand, run = laid.demand, laid.run
    flow = demand.flow
    b = "3 ** 0.5" if flow == "three-phase" else "2"
    pf, r, amps = run.power_factor, ohm_km.value, demand.drop_a.value
    if demand.flow == "DC" or pf == 1:
        value = common.drop_v(amps, length.value, r, circuit=flow)
        return (
            value,
            f"{b} * L / 1000 * {{r}} * {demand.drop_a.symbol}",
            (length, ohm_km, demand.drop_a),
            "Warm resistance at unity power factor.",
        )
    x = book.reactance(laid, installed.label)
    cosine = laid.ledger.decided(f"runs.{run.id}.power_factor", "cos_phi", "Power factor", "")
    value = common.drop_v(amps, length.value, r, x.value, pf, flow)
    formula = f"{b} * L / 1000 * ({{r}} * cos_phi + x * (1 - cos_phi ** 2) ** 0.5) * {demand.drop_a.symbol}"
    return value, formula, (length, ohm_km, demand.drop_a, x, cosine), "Warm resistance and reactance at the power factor given."


def _drop(laid: Laid, book: Wiring, installed: Figure, length: Figure) -> tuple[Figure, Figure, Figure]:
    ledger, cid, demand, run = laid.ledger, laid.cid, laid.demand, laid.run
    ohm_km = book.resistance(laid, installed.label)
    value, formula, given, limits = _drop_formula(laid, book, installed, length, ohm_km)
    source = "nec.ch9t8" if ledger.book.family == "nec" else "iec.52.g"
    if run.sets > 1:
        count = ledger.decided(f"runs.{run.id}.sets", "n_set", "Parallel conductors of each pole", "")
        value, given = value / run.sets, (*given, count)
        formula = formula.format(r="r / n_set") if "x *" not in formula else "(" + formula.format(r="r") + ") / n_set"
    drop = ledger.work(f"circuits.{cid}.drop", "dV", "Voltage drop", value, "V", source, formula.format(r="r"), given, limits=limits)
    pct = ledger.work(
        f"circuits.{cid}.drop_pct",
        "dv",
        "Voltage drop",
        100 * drop.value / demand.volts.value,
        "%",
        ledger.book.drop_source,
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
        field=f"runs.{run.id}.length_m",
    )
    return drop, pct, ohm_km


def _required(demand: Demand, code: str, book: Wiring) -> tuple[str, str, str]:
    """Largest of the code's answer, the maker's minimum and what the terminals can clamp, with its source and why."""
    required, source, words = code, book.base_source, "The code's answer is at least the maker's minimum."
    if demand.maker_min and sizes.larger(required, demand.maker_min) != required:
        required, source, words = demand.maker_min, demand.maker_source, "The maker's minimum is larger than the code's answer."
    if demand.terminal_min and sizes.larger(required, demand.terminal_min) != required:
        required, source, words = demand.terminal_min, demand.terminal_source, "A terminal of this run clamps nothing smaller."
    return required, source, words


def size_circuit(ledger: Ledger, circuit: Circuit, run: Run, demand: Demand, terminal_ratings_c: Sequence[int]) -> Sized | None:
    """Size one circuit by the job's rule book; None while a route answer is missing (the gap says which)."""
    cid, book = circuit.id, wiring(ledger.book.family)
    length = ledger.asked(
        f"runs.{run.id}.length_m",
        "L",
        "One-way length",
        "m",
        "circuits",
        f"Length of the {circuit.title}?",
        f"Voltage drop and material of {cid}",
    )
    factors = _factors(ledger, cid, run, book)
    if length is None or factors is None:
        return None
    laid = Laid(ledger, cid, run, demand, *factors, min(terminal_ratings_c), circuit.kind)
    for label in filter(None, (run.installed_size, run.installed_earth)):
        # A label that neither family knows is a slip of the pen: it is refused outright, not planned with.
        sizes.area_mm2(label)
    try:
        return _sized(laid, book, circuit, length)
    except OutOfRange as refused:
        # Outside its tables a rule does not guess: the circuit is held with the reason.
        ledger.verdict(
            "COND-NONE",
            False,
            cid,
            str(refused),
            "Lower the current, cool the route, choose a size in the table, or use parallel sets.",
            field=f"runs.{run.id}.installed_size",
        )
        return None


def _sized(laid: Laid, book: Wiring, circuit: Circuit, length: Figure) -> Sized:
    """Device, conductor, earth and drop of a circuit as it is laid. Raises OutOfRange outside the tables of the book."""
    ledger, cid, run, demand, factors = laid.ledger, laid.cid, laid.run, laid.demand, (laid.f_a, laid.f_g)
    device = _device(ledger, cid, run, demand, book)
    code, why = book.smallest(laid, device)
    given = tuple(dict.fromkeys((demand.design_a, demand.continuous_a, *factors, *((device,) if device else ()))))
    code_size = size_figure(ledger, f"circuits.{cid}.code_size", "A_code", "Smallest conductor by code", code, book.base_source, given, why)
    required, source, words = _required(demand, code, book)
    required_size = size_figure(ledger, f"circuits.{cid}.required", "A_req", "Conductor required", required, source, (code_size,), words)
    chosen = run.installed_size or required
    source = f"input:runs.{run.id}.installed_size" if run.installed_size else required_size.source
    installed = size_figure(ledger, f"circuits.{cid}.installed", "A", "Conductor pulled", chosen, source, (required_size,))
    table, usable = book.ampacity(laid, chosen, device)
    _check_installed(laid, book, code_size, installed, usable, device)
    earth = earth_required = None
    if circuit.kind == "pv":
        _check_pv_wire(ledger, cid, run)
    if circuit.has_earth:
        earth, earth_required = _earth(laid, book, device or demand.design_a, code, chosen)
    drop, pct, ohm_km = _drop(laid, book, installed, length)
    return Sized(
        circuit,
        run,
        demand,
        device,
        code_size,
        required_size,
        installed,
        usable,
        table,
        *factors,
        earth,
        earth_required,
        drop,
        pct,
        length,
        ohm_km,
    )

"""Which conductor, device and earth does one circuit need, and what does its length cost?"""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core import sizes
from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Expression, named
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits.insulated import check_insulation
from gumboot.core.plan.circuits.laid import laying_of
from gumboot.core.plan.circuits.parts import Demand, Sized
from gumboot.core.rulebook.books.draft import Draft, draft
from gumboot.core.rulebook.books.wiring import EarthFor, Laying, Load, WiringClauses
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.rules import conductors as rules

# How a size by code is told from what it rests on, by the number of that.
SMALLEST_FOR = tuple("smallest size for " + ", ".join(f"{{{i}}}" for i in range(number)) for number in range(6))


class Work(NamedTuple):
    """One circuit while it is sized. ``cid`` is its id, ``book`` are the clauses of conductors."""

    ledger: Ledger
    cid: str
    book: WiringClauses
    circuit: Circuit
    run: Run
    demand: Demand
    laying: Laying
    length: Figure
    factors: tuple[Figure, Figure]

    def put(self, name: str, draft: Draft) -> Figure:
        """Keep a figure of this circuit."""
        return self.ledger.put(f"circuits.{self.cid}.{name}", draft)

    def size(
        self, name: str, symbol: str, title: str, size: str, source: str, *, value: Expression | float | None = None, limits: str = ""
    ) -> Figure:
        """A size as a figure: its area in mm2, labelled as the trade says it."""
        return self.put(
            name, draft(symbol, title, sizes.area_mm2(size) if value is None else value, "mm2", source, label=size, limits=limits)
        )


def _device(w: Work) -> Figure | None:
    if not w.demand.needs_device:
        return None
    least = w.put("device_min", w.book.device_min(w.demand.continuous_a, w.laying))
    fixed, chosen = w.demand.fixed_device_a, w.run.device_a
    if fixed is not None:
        device = w.put("device", draft("I_n", "Overcurrent device", fixed, "A", fixed.source))
    elif chosen is not None:
        device = w.put("device", draft("I_n", "Overcurrent device, chosen", chosen, "A", f"input:runs.{w.run.id}.device_a"))
    else:
        device = w.put("device", draft("I_n", "Overcurrent device", least, "A", least.source))
    needed = w.demand.continuous_a
    facts = rules.Device(
        circuit=w.cid,
        device=device,
        needed=needed,
        least=least,
        is_continuous=needed is not w.demand.design_a,
        field=f"runs.{w.run.id}.device_a",
    )
    w.ledger.ask(rules.device_carries, facts)
    return device


def _required(demand: Demand, code: str, base_source: str) -> tuple[str, str, str]:
    """Largest of the code's answer, the maker's minimum and what the terminals can clamp, with its source and why."""
    required, source, words = code, base_source, "The code's answer is at least the maker's minimum."
    if demand.maker_min and sizes.larger(required, demand.maker_min) != required:
        required, source, words = demand.maker_min, demand.maker_source, "The maker's minimum is larger than the code's answer."
    if demand.terminal_min and sizes.larger(required, demand.terminal_min) != required:
        required, source, words = demand.terminal_min, demand.terminal_source, "A terminal of this run clamps nothing smaller."
    return required, source, words


def _conductor(w: Work, load: Load) -> tuple[Figure, Figure, Figure]:
    """Size by code, size required, and the one that is pulled."""
    code, why = w.book.smallest(w.laying, load, w.factors)
    named_once = {f.key: f for f in (load.design, load.continuous, *w.factors, load.device) if f is not None}
    rests = tuple(named_once.values())
    by_code = named(SMALLEST_FOR[len(rests)], sizes.area_mm2(code), *rests)
    code_size = w.size("code_size", "A_code", "Smallest conductor by code", code, w.book.base_source, value=by_code, limits=why)
    required, source, words = _required(w.demand, code, w.book.base_source)
    wanted = named("largest of {0}, maker's minimum and terminals", sizes.area_mm2(required), code_size)
    required_size = w.size("required", "A_req", "Conductor required", required, source, value=wanted, limits=words)
    chosen = w.run.installed_size
    if chosen is None:
        return code_size, required_size, w.size("installed", "A", "Conductor pulled", required, required_size.source, value=required_size)
    pulled = named("as decided; {0} is required", sizes.area_mm2(chosen), required_size)
    installed = w.size("installed", "A", "Conductor pulled", chosen, f"input:runs.{w.run.id}.installed_size", value=pulled)
    return code_size, required_size, installed


def _check_conductor(w: Work, load: Load, code: Figure, installed: Figure, usable: Figure) -> None:
    ledger, field = w.ledger, f"runs.{w.run.id}.installed_size"
    pulled = rules.Pulled(circuit=w.cid, installed=installed, code=code, maker=w.demand.maker_min, field=field)
    ledger.ask(rules.large_enough, pulled)
    ledger.ask(rules.as_the_maker_asks, pulled)
    kind = rules.Kind(
        circuit=w.cid,
        installed=installed,
        sets=w.run.sets,
        cable=w.run.cable,
        parallel_allowed=w.book.parallel_allowed(installed.label),
        cord_allowed=w.book.cord_allowed(w.circuit.kind),
        flexible_allowed=w.book.flexible_allowed(w.circuit.kind, installed.label),
        run=w.run.id,
    )
    for rule in rules.KINDS:
        ledger.ask(rule, kind)
    ledger.ask(rules.maker_above_code, pulled)
    if load.device is not None:
        most = w.put("device_most", w.book.largest_device(w.laying, installed.label, usable))
        facts = rules.Behind(circuit=w.cid, device=load.device, most=most, size=installed.label, code=code.label, field=field)
        ledger.ask(rules.protected, facts)


def _earth(w: Work, basis: Figure, code: Figure, installed: Figure) -> tuple[Figure, Figure]:
    required = w.book.earth(w.laying, EarthFor(basis=basis, code=code.label, installed=installed), w.put)
    chosen = w.run.installed_earth
    if chosen is None:
        earth = w.size("earth", "A_ei", "Earth conductor installed", required.label, required.source, value=required)
    else:
        source = f"input:runs.{w.run.id}.installed_earth"
        pulled = named("as decided; {0} is required", sizes.area_mm2(chosen), required)
        earth = w.size("earth", "A_ei", "Earth conductor installed", chosen, source, value=pulled)
    facts = rules.Earth(circuit=w.cid, installed=earth, required=required, field=f"runs.{w.run.id}.installed_earth")
    w.ledger.ask(rules.earth_large_enough, facts)
    return earth, required


def _lost_v(w: Work, installed: Figure, ohm_km: Figure) -> tuple[Expression, str]:
    """Drop in V: resistance alone at unity power factor, reactance too below it; parallel conductors share the current."""
    amps, flow = w.demand.losing_a, w.demand.flow
    if flow == "DC" or w.run.power_factor == 1:
        value, limits = common.drop_v(amps, w.length, ohm_km, flow), "Warm resistance at unity power factor."
    else:
        x = w.put("reactance", w.book.reactance(w.laying, installed.label))
        cosine = w.ledger.decided_of(w.run, f"runs.{w.run.id}.power_factor")
        value = common.reactive_drop_v(amps, w.length, (ohm_km, x), cosine, flow)
        limits = "Warm resistance and reactance at the power factor given."
    return (value / w.laying.sets_figure if w.laying.sets_figure is not None else value), limits


def _drop(w: Work, installed: Figure) -> tuple[Figure, Figure, Figure]:
    ledger, ohm_km = w.ledger, w.book.resistance(w.laying, installed.label, w.put)
    value, limits = _lost_v(w, installed, ohm_km)
    drop = w.put("drop", draft("dV", "Voltage drop", value, "V", w.book.drop_source, limits=limits))
    pct = w.put("drop_pct", draft("dv", "Voltage drop", 100 * drop / w.demand.volts, "%", ledger.book.drop_source))
    wish = ledger.decided("preferences.drop_limit_pct")
    ledger.ask(rules.drop_wanted, rules.Lost(where=w.cid, pct=pct, most=wish, field=f"runs.{w.run.id}.length_m"))
    return drop, pct, ohm_km


def _sized(w: Work) -> Sized:
    """Device, conductor, earth and drop of a circuit as it is laid. Raises OutOfRange outside the tables of the book."""
    device = _device(w)
    load = Load(w.demand.design_a, w.demand.continuous_a, device)
    code, required, installed = _conductor(w, load)
    table, usable = w.book.ampacity(w.laying, installed.label, load, w.factors, w.put)
    _check_conductor(w, load, code, installed, usable)
    earth, earth_required = _earth(w, device or w.demand.design_a, code, installed) if w.circuit.has_earth else (None, None)
    drop, pct, ohm_km = _drop(w, installed)
    return Sized(
        circuit=w.circuit,
        run=w.run,
        demand=w.demand,
        device=device,
        code_size=code,
        required=required,
        installed=installed,
        ampacity=usable,
        table_ampacity=table,
        ambient_factor=w.factors[0],
        grouping_factor=w.factors[1],
        earth=earth,
        earth_required=earth_required,
        drop=drop,
        drop_pct=pct,
        length=w.length,
        ohm_per_km=ohm_km,
        sets=w.laying.sets_figure,
    )


def factors_of(ledger: Ledger, cid: str, run: Run, laying: Laying) -> tuple[Figure, Figure] | None:
    """Ambient and grouping factor of a run; None, and a finding, where its insulation may not be used."""
    try:
        return ledger.book.wiring.factors(laying, lambda name, draft: ledger.put(f"circuits.{cid}.{name}", draft))
    except OutOfRange as refused:
        ledger.ask(rules.cool_enough, rules.Refused(circuit=cid, refusal=str(refused), field=f"runs.{run.id}.ambient_c"))
        return None


def size_circuit(ledger: Ledger, circuit: Circuit, run: Run, demand: Demand, terminal_c: int) -> Sized | None:
    """Size one circuit by the job's rule book; None while a route answer is missing (the gap says which)."""
    length, ambient = ledger.asked_of(run, f"runs.{run.id}.length_m"), ledger.asked_of(run, f"runs.{run.id}.ambient_c")
    check_insulation(ledger, circuit, run)
    if ambient is None:
        return None
    laying = laying_of(ledger, circuit, run, demand, ambient, terminal_c=terminal_c)
    factors = factors_of(ledger, circuit.id, run, laying)
    if length is None or factors is None:
        return None
    for label in filter(None, (run.installed_size, run.installed_earth)):
        # A label that neither family knows is a slip of the pen: it is refused outright, not planned with.
        sizes.area_mm2(label)
    work = Work(ledger, circuit.id, ledger.book.wiring, circuit, run, demand, laying, length, factors)
    try:
        return _sized(work)
    except OutOfRange as refused:
        field = f"runs.{run.id}.installed_size"
        ledger.ask(rules.some_conductor, rules.Refused(circuit=circuit.id, refusal=str(refused), field=field))
        return None

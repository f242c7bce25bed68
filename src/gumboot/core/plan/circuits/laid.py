"""How a run's answers say that its conductors are laid."""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.rulebook.books.wiring import Laying

# What a wireway is made of nobody says: as steel it loses more, the safe side.
STEEL = ("EMT", "FMC", "LFMC", "wireway")


def run_for(ledger: Ledger, circuit: Circuit) -> Run:
    """The route answers of a circuit; an empty run while none are entered."""
    return answered(ledger, circuit) or Run(id=circuit.id)


def answered(ledger: Ledger, circuit: Circuit) -> Run | None:
    """The route answers of a circuit, None while none are entered."""
    wanted = circuit.id
    for run in ledger.job.runs:
        if run.id == wanted:
            return run
    return None


def _together(ledger: Ledger, circuit: Circuit, said: Figure) -> Figure:
    """What is counted for grouping: as many as are said, or as many as lie in the raceway where those are more."""
    raceway = ledger.house.raceway_of(circuit.id)
    if raceway is None:
        return said
    house, clauses, poles = ledger.house.whole, ledger.book.wiring, list[int]()
    for other in [house.by_id[name] for name in raceway.runs if name in house.by_id]:
        poles += [len([core for core in other.cores if core.role not in ("neutral", "earth")])] * house.sets_of(other)
    lying = clauses.lying(poles, raceway.kind, raceway.length_mm)
    if lying <= said.value:
        return said
    name, limits = f"{said.name}, as they lie", f"{lying} lie there, {' and '.join(raceway.runs)} together; {said.value:g} were said."
    return ledger.work(
        f"circuits.{circuit.id}.together", said.symbol, name, float(lying), "", source=clauses.grouping_source, limits=limits
    )


def laying_of(ledger: Ledger, circuit: Circuit, run: Run, demand: Demand, ambient: Figure, *, terminal_c: int) -> Laying:
    """A run as the books ask about it."""
    path, counted = f"runs.{run.id}", ledger.book.wiring.counted

    def told(field: str) -> Figure | None:
        return None if getattr(run, field) is None else ledger.told(run, f"{path}.{field}")

    return Laying(
        ambient=ambient,
        together=_together(ledger, circuit, ledger.told(run, f"{path}.{counted}")),
        terminal_c=terminal_c,
        kind=circuit.kind,
        material=run.material,
        insulation=run.insulation or ledger.book.usual_insulation(pv=circuit.kind == "pv"),
        cable=run.cable,
        earth_laid=run.earth_laid,
        method=run.method,
        single_layer=run.single_layer,
        soil=told("soil_km_per_w"),
        roof_height=told("roof_height_mm"),
        loaded=3 if demand.flow == "three-phase" else 2,
        sets=run.sets,
        sets_figure=told("sets") if run.sets > 1 else None,
        device_kind=run.device_kind,
        fine_strand=run.wire_class == "fine strand",
        steel=run.raceway in STEEL,
        fully_rated=run.fully_rated,
    )

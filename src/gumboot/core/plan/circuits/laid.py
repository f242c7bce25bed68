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


def laying_of(ledger: Ledger, circuit: Circuit, run: Run, demand: Demand, ambient: Figure, *, terminal_c: int) -> Laying:
    """A run as the books ask about it."""
    path = f"runs.{run.id}"

    def told(field: str) -> Figure | None:
        return None if getattr(run, field) is None else ledger.told(run, f"{path}.{field}")

    return Laying(
        ambient=ambient,
        together=ledger.told(run, f"{path}.{ledger.book.wiring.counted}"),
        terminal_c=terminal_c,
        kind=circuit.kind,
        material=run.material,
        insulation=run.insulation,
        cable=run.cable,
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

"""Is the insulation of a run one that the book knows, and does it lie where it may?"""

from __future__ import annotations

from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.rules import insulation as rules


def _astray(ledger: Ledger, circuit: Circuit, run: Run) -> str:
    """Where non-metallic cable lies that it may not (334.10, 334.12)."""
    if run.insulation != "NM-B":
        return ""
    if circuit.is_dc:
        return "on the DC side"
    if run.roof_height_mm is not None:
        return "on a roof"
    if run.raceway is not None:
        return "in a raceway, whose fill nobody can tell"
    ends = {circuit.source, circuit.load}
    outdoors = any(wall.room == "outdoor" and place.id in ends for wall in ledger.job.walls for place in wall.placements)
    return "to a box outdoors" if outdoors else ""


def check_insulation(ledger: Ledger, circuit: Circuit, run: Run) -> None:
    """That the book knows the insulation, that it lies where it may, and that a PV run lies in what it must."""
    field = f"runs.{run.id}.insulation"
    if run.insulation is not None and run.cable == "building wire":
        known, astray = ledger.book.wiring.insulations, _astray(ledger, circuit, run)
        facts = rules.Insulated(circuit=circuit.id, insulation=run.insulation, known=known, astray=astray, field=field)
        ledger.ask(rules.insulation_known, facts)
        ledger.ask(rules.cable_in_its_place, facts)
    if circuit.kind == "pv":
        clauses = ledger.book.strings
        taken = clauses.takes_insulation(run.insulation)
        ledger.ask(rules.pv_wire, rules.PvWire(circuit=circuit.id, taken=taken, advice=clauses.wire_advice, field=field))

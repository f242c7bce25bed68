"""Which residual device does each AC circuit need: whether, of which type, of which rating?"""

from __future__ import annotations

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.rulebook.iec_family.earthing import FIRE_LIMIT_MA, TOUCH_VOLTAGE_V, residual_resistance_max_ohm, residual_type
from gumboot.core.rules import shock as rules
from gumboot.core.seats import Converter

TOUCH = constant("U_touch", "Touch voltage that may stand", TOUCH_VOLTAGE_V, "V", "iec.41.tt")
FIRE = constant("I_fire", "Residual rating that still guards against fire", FIRE_LIMIT_MA, "mA", "iec.42.422")
# Circuits on which an inverter's own leakage flows.
LEAKING = ("grid", "pv-ac")


def _electrode_most(ledger: Ledger, cid: str, rating: Figure) -> Figure:
    name = "Electrode resistance behind this residual device at most"
    ohm = residual_resistance_max_ohm(TOUCH, rating)
    return ledger.work(f"circuits.{cid}.electrode_most", "R_max", name, ohm, "ohm", source="iec.41.tt")


def _check_rating(ledger: Ledger, sized: Sized, card: Converter, rating: Figure) -> None:
    cid, run = sized.circuit.id, sized.run.id
    ledger.ask(rules.guards_against_fire, rules.Rated(circuit=cid, rating=rating, limit=FIRE, run=run))
    if sized.circuit.kind in LEAKING and (least := ledger.stated(card, "source.residual_min_ma")) is not None:
        ledger.ask(rules.rating_fits, rules.Stays(circuit=cid, rating=rating, run=run, least=least))
    if ledger.job.site.earthing == "TT" and (ohm := ledger.asked("site.electrode_ohm")) is not None:
        most = _electrode_most(ledger, cid, rating)
        ledger.ask(rules.rating_fits, rules.Stays(circuit=cid, rating=rating, run=run, electrode=ohm, electrode_most=most))


def _because(ledger: Ledger, kind: str, card: Converter) -> str:
    """Why a circuit needs a residual device; empty where it needs none."""
    if ledger.job.site.earthing == "TT":
        return "a TT supply disconnects by residual current alone"
    least = card.source.residual_min_ma
    return f"the maker asks one of {least:g} mA or more" if least is not None and kind in LEAKING else ""


def _check(ledger: Ledger, sized: Sized, card: Converter) -> None:
    cid, run, source = sized.circuit.id, sized.run, card.source
    rating = ledger.decided_of(run, f"runs.{run.id}.residual_ma") if run.residual_ma is not None else None
    facts = rules.Residual(
        circuit=cid,
        required_because=_because(ledger, sized.circuit.kind, card),
        rating=rating,
        type_fitted=run.residual_type,
        type_wanted=residual_type("smooth", source.residual_monitor, source.residual_type_a),
        run=run.id,
    )
    ledger.ask(rules.residual_fitted, facts)
    if rating is not None:
        ledger.ask(rules.residual_type_sees, facts)
        _check_rating(ledger, sized, card, rating)


def check_residuals(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every AC circuit's residual device."""
    others = {other.id: other.card for other in ledger.seats.pv_inverters}
    for sized in plan.sized.values():
        circuit = sized.circuit
        # What leads from an inverter to a manual switch is guarded at the switch.
        apart = circuit.kind == "through" and circuit.id.startswith("inverter-out")
        if circuit.kind in ("grid", "through", "output", "backup", "feeder", "pv-ac") and not apart:
            card: Converter = others.get(circuit.owner) or ledger.house.inverter(circuit.owner).card
            _check(ledger, sized, card)

"""Does every port carry what its circuit asks, and stand its voltage?"""

from __future__ import annotations

from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.rules import connection as rules


def check_ports(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every port whose card says how much it carries or stands, at both ends of every circuit; in a board the device too."""
    for sized in plan.sized.values():
        ends = dict.fromkeys((end.place, end.port) for core in sized.circuit.cores if core.role != "earth" for end in core.ends)
        for place, port in ends:
            _check(ledger, sized, place, port)


def _check(ledger: Ledger, sized: Sized, place: str, port: str) -> None:
    card = ledger.house.whole.cards[place]
    told = next((p for p in card.ports if p.id == port), None)
    if told is None:
        return
    where, title, cid = f"{place} {port}", f"{told.title} of {card.title}", sized.circuit.id
    field = f"things.{place}.card" if any(s.id == place for s in ledger.seats.all()) else f"runs.{sized.run.id}.device_a"
    if told.max_v is not None:
        stands = ledger.read(card, f"ports.{port}.max_v")
        highest = sized.demand.standing_v
        ledger.ask(rules.port_stands, rules.PortVolts(where=where, title=title, highest=highest, most=stands, field=field))
    if told.max_a is None:
        return
    most = ledger.read(card, f"ports.{port}.max_a")
    facts = rules.Port(where=where, title=title, amps=sized.demand.design_a, most=most, field=field)
    held = ledger.ask(rules.port_carries, facts)
    # A feeder between main boards leaves by a slot of its own, of which the card of neither speaks.
    in_slot = card.kind == "board" and not sized.circuit.is_dc and sized.circuit.kind != "main-feeder"
    if held and in_slot and sized.device is not None:
        field = f"runs.{sized.run.id}.device_a" if cid in {run.id for run in ledger.job.runs} else field
        ledger.ask(rules.port_carries, facts.but(amps=sized.device, device=True, field=field))

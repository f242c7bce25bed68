"""Every termination, in the order in which they are landed."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from gumboot.core.installation import Circuit, End
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.circuits.laid import answered
from gumboot.core.plan.terminations.landing import land, pulled_of
from gumboot.core.plan.terminations.parts import Termination
from gumboot.core.plan.terminations.unsized import check_unsized
from gumboot.core.rules import terminations as rules


def _sources(ledger: Ledger) -> list[str]:
    """Places where something live stands, in the order they are landed: street, generator, roof, and the battery last."""
    seats = ledger.seats
    street = [b.id for b in seats.mains]
    outside = [g.id for g in seats.generators] + [r.id for r in seats.roof_boxes]
    return [*street, *outside, *(u.id for bank in seats.banks for u in bank.thing.units)]


def _check_company(ledger: Ledger, circuits: tuple[Circuit, ...]) -> None:
    """Conductors that share a clamp, those of circuits without a size yet too: each clamp is asked about once."""
    clamps: dict[End, int] = {}
    for circuit in circuits:
        sets = ledger.house.sets_of(circuit)
        for end in (end for core in circuit.cores for end in core.ends):
            clamps[end] = clamps.get(end, 0) + sets
    for end, conductors in clamps.items():
        most = ledger.house.cards[end.place].terminal(end.port, end.terminal).max_conductors
        ledger.ask(rules.one_clamp, rules.Crowded(where=f"{end.place} {end.port} {end.terminal}", conductors=conductors, most=most))


def _landed(sized: Sized, ledger: Ledger) -> list[Termination]:
    """Both ends of every conductor of a circuit, each of a set."""
    roof = [b.id for b in ledger.seats.roof_boxes]
    sets, pulled = ledger.house.sets_of(sized.circuit), [(pulled_of(ledger, sized, core.role), core.ends) for core in sized.circuit.cores]
    first = [land(ledger, conductor, end, roof) for conductor, ends in pulled for end in ends]
    # Conductors in parallel are alike: a terminal is asked about the first.
    return first if sets == 1 else [t.one_of(nth, sets) for nth in range(1, sets + 1) for t in first]


def _check_waiting(ledger: Ledger, circuit: Circuit) -> None:
    """Ends of a circuit that has its answers and no size yet."""
    run = answered(ledger, circuit)
    if run is None or (run.installed_size is None and circuit.id in ledger.house.standing()):
        return
    ledger.piece(circuit.id, (circuit, run), partial(check_unsized, circuit=circuit, run=run))


# The schools of landing, by what a circuit carries; earth comes first and live ends last in each.
SCHOOLS: Mapping[str, tuple[str, ...]] = {"AC, PV, battery": ("ac", "pv", "battery"), "battery, PV, AC": ("battery", "pv", "ac")}


def _turn_by_school(ledger: Ledger, circuit: Circuit, place: str) -> int:
    """When a circuit is landed at an inverter by the crew's school; alike for all where the maker asks for an order of its own."""
    school, card = SCHOOLS.get(ledger.job.preferences.landing), ledger.house.cards[place]
    if school is None or card.kind != "inverter" or card.landing_asked:
        return 1
    return 1 + school.index("pv" if circuit.kind == "pv" else "battery" if circuit.is_dc else "ac")


def plan_terminations(ledger: Ledger, plan: CircuitsPlan) -> tuple[Termination, ...]:
    """All terminations, in landing order at the inverter and by enclosure elsewhere.

    Both ends of a circuit between things that stay are judged and are no landings: one look is taken at it.
    """
    ends = [t for cid, z in plan.sized.items() for t in ledger.piece(cid, (z,), partial(_landed, z))]
    waiting = [c for c in plan.all if c.id not in plan.sized]
    for circuit in waiting:
        _check_waiting(ledger, circuit)
    _check_company(ledger, (*(z.circuit for z in plan.sized.values()), *(c for c in waiting if answered(ledger, c))))
    standing = ledger.house.standing()
    ends = [t for t in ends if t.circuit not in standing]
    # Of one conductor the end at a source comes after its other end: nobody then holds the far end of a live one.
    sources, leading = _sources(ledger), ledger.seats.inverter.landing_order
    cards = ledger.house.cards
    places = {p: n for n, p in enumerate([p for p in cards if p not in sources] + sources)}
    orders = {p: card.landing_order if card.kind == "inverter" else leading for p, card in cards.items()}

    def at(t: Termination) -> tuple[int, int, int, str, float, float]:
        order, terminal, port = orders[t.place], t.terminal, t.port
        turn = 0 if t.role == "earth" else (order.index(port) + 1 if port in order else 99)
        school = 0 if t.role == "earth" else _turn_by_school(ledger, plan.sized[t.circuit].circuit, t.place)
        return places[t.place], school, turn, port, terminal.y, terminal.x

    return tuple(sorted(ends, key=at))

"""Every circuit of the installation whose answers are there, sized."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import banks_of
from gumboot.core.plan.bank.supply import Supplies
from gumboot.core.plan.circuits import demand_ac, demand_boards, demand_dc
from gumboot.core.plan.circuits.laid import answered
from gumboot.core.plan.circuits.parts import Demand, Sized
from gumboot.core.plan.circuits.sizing import size_circuit
from gumboot.core.plan.sources import joining
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.sizes import area_mm2
from gumboot.core.values import Values


class CircuitsPlan(Values):
    """All circuits; ``sized`` lacks those whose answers are missing."""

    all: tuple[Circuit, ...]
    sized: dict[str, Sized]
    busbar_sum: Figure | None = None
    busbar_limit: Figure | None = None


class Known(Values):
    """What is worked out before the circuits are sized."""

    strings: StringsPlan | None
    supply: Supplies
    running: Mapping[str, Mapping[str, Figure]]


def _at_terminals(ledger: Ledger, circuit: Circuit, demand: Demand) -> tuple[Demand, int]:
    """The demand with the smallest conductor that every terminal of the run can clamp, and the lowest temperature they are rated for."""
    (least, source), lowest, cards = ("", ""), 1000, ledger.house.cards
    for core in circuit.cores:
        for end in core.ends:
            card = cards[end.place]
            terminal = card.terminal(end.port, end.terminal)
            lowest = min(lowest, terminal.rated_c)
            smallest = terminal.size_min if core.role != "earth" else least
            if smallest != least and (not least or area_mm2(smallest) > area_mm2(least)):
                least, source = smallest, f"card:{card.id}:ports.{end.port}.{end.terminal}.size_min"
    return demand.but(terminal_min=least, terminal_source=source), lowest


def _upstream(ledger: Ledger, circuit: Circuit, sized: dict[str, Sized]) -> list[Figure]:
    """Devices that feed a backed-up feed in pass-through: where inverters are combined, the panel's main."""
    house = ledger.house
    panels = [b.card for b in ledger.seats.boards if b.thing.duty == "combining"]
    mains = [f for card in panels if (f := ledger.stated(card, "main_device_a")) is not None]
    if circuit.source in {t.id for t in ledger.seats.transfers}:
        # What the transfer equipment passes: from the panel or inverter, and from the grid.
        feeders = [c.id for c in house.at(circuit.source) if c.load == circuit.source]
    else:
        feeders = [] if panels else [c.id for c in house.of_kind("grid")][:1]
    return [*mains, *(device for name in feeders if name in sized and (device := sized[name].device))]


def _demand(ledger: Ledger, run: Run, circuit: Circuit, known: Known, sized: dict[str, Sized]) -> Demand | None:
    running = known.running[ledger.house.lead.id]
    match circuit.kind:
        case "pv":
            return demand_dc.of_pv(ledger, circuit, known.strings) if known.strings else None
        case "battery-unit":
            return demand_dc.of_unit(ledger, circuit)
        case "battery" | "interlink":
            return demand_dc.of_main(ledger, circuit, known.supply)
        case "grid":
            return demand_ac.of_grid(ledger, circuit, running)
        case "through" | "output":
            return demand_ac.of_through(ledger, circuit, running)
        case "backup":
            return demand_boards.of_backup(ledger, circuit, running, _upstream(ledger, circuit, sized))
        case "feeder":
            return demand_boards.of_feeder(ledger, circuit, running)
        case "main-feeder":
            return demand_boards.of_main_feeder(ledger, circuit, run)
        case "generator":
            return demand_boards.of_generator(ledger, circuit)
        case "pv-ac":
            return demand_boards.of_pv_inverter(ledger, circuit)


def _rests_on(ledger: Ledger, circuit: Circuit, known: Known) -> tuple[object, ...]:
    """What of the steps before, or of the house, the demand of a circuit is made from."""
    match circuit.kind:
        case "pv":
            return (known.strings,)
        case "battery" | "interlink":
            return (known.supply,)
        case "grid" | "through" | "output" | "backup" | "feeder":
            return (known.running,)
        case "main-feeder":
            units, others = joining(ledger, circuit.load)
            return (*(unit.id for unit in units), *(other.id for other in others), ledger.house.legs)
        case _:
            return ()


def _size(circuit: Circuit, known: Known, sized: dict[str, Sized], ledger: Ledger, *, stays: bool) -> Sized | None:
    """One circuit, None while its answers are missing."""
    run = answered(ledger, circuit)
    if run is None:
        ledger.gap(f"runs.{circuit.id}", "circuits", f"How does {circuit.title.lower()} run?", f"Size of {circuit.id}")
        return None
    if stays and run.installed_size is None:
        # What lies there was chosen by somebody else: what the code would ask for says nothing of it.
        question = f"{circuit.title}: which size of conductor lies there already?"
        ledger.gap(f"runs.{run.id}.installed_size", "circuits", question, f"Whether {circuit.id}, which stays, is large enough")
        return None
    # A feeder between main boards is of no island: it carries what the sources of all of them give.
    ledger = ledger if circuit.kind == "main-feeder" else ledger.within(ledger.house.island_of(circuit.id))
    demand = _demand(ledger, run, circuit, known, sized)
    if demand is None:
        return None
    return size_circuit(ledger, circuit, run, *_at_terminals(ledger, circuit, demand))


def plan_circuits(ledger: Ledger, known: Known) -> CircuitsPlan:
    """Size every circuit whose answers are there."""
    everything, standing = ledger.house.circuits, ledger.house.standing()
    sized: dict[str, Sized] = {}
    if ledger.job.strings and ledger.seats.roof_box is None:
        ledger.gap("things.roof.card", "circuits", "Where do the strings come down to: which box or isolator?", "Size of the PV runs")
    for circuit in everything:
        part = ledger.within(ledger.house.island_of(circuit.id))
        ahead = tuple(_upstream(part, circuit, sized)) if circuit.kind == "backup" else ()
        stays = circuit.id in standing
        rests, size = (circuit, stays, *_rests_on(ledger, circuit, known), *ahead), partial(_size, circuit, known, sized, stays=stays)
        done = ledger.piece(circuit.id, rests, size, holds=(f"runs.{circuit.id}",))
        if done:
            sized[circuit.id] = done
    for bank in banks_of(ledger):
        bank.volts("nominal_v")
    return CircuitsPlan(all=everything, sized=sized)

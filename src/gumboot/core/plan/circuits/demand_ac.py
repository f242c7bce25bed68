"""What do the grid feed, the backed-up feed, the transfer circuits, the generator feed and AC-coupled PV carry?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.expression import Expression, largest, root_three, total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import bank_of
from gumboot.core.plan.circuits.demand_dc import continuous
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.group import leg_output_a, line_v, output_kind, shared_by
from gumboot.core.plan.loads import powers
from gumboot.core.plan.sources import joining, sources_of
from gumboot.core.rulebook.common.conductors import Circuit as Flow
from gumboot.core.rules import connection as rules
from gumboot.core.seats import InverterSeat

FLOWS: dict[str, Flow] = {"single phase": "single-phase", "split phase": "split-phase", "three phase": "three-phase"}


def running_on(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Mapping[str, Figure]:
    """What runs on each leg of the boards that a circuit leads to: all of the island, or the loads of some of its boards."""
    house, boards = ledger.house, ledger.house.boards_of(circuit)
    if len(boards) == len(house.boards):
        return running
    loads, names = house.loads_on(boards), ", ".join(b.name for b in boards)
    return {
        leg: powers.running(ledger, f"circuits.{circuit.id}.running.{leg}", f"Running on {leg} of {names}", loads, leg) for leg in running
    }


def leg_current(ledger: Ledger, cid: str, running: Mapping[str, Figure], legs: Sequence[str] = (), share: int = 1) -> Figure:
    """Current of the heaviest of some legs of the backed-up side, or an inverter's share of it."""
    running = {leg: f for leg, f in running.items() if leg in legs} or running
    leg = max(running.values(), key=BY_VALUE)
    name = "Heavier leg of the backed-up side" if len(running) > 1 else "Current of the backed-up side"
    amps: Expression = leg / ledger.read(ledger.seats.inverter, "leg_v")
    if share > 1:
        name, amps = f"{name}, shared by {share}", amps / share
    return ledger.work(f"circuits.{cid}.leg_a", "I_leg", name, amps, "A", source="physics")


def _by_root(amps: Expression, output: str) -> Expression:
    return amps / root_three(amps) if output == "three phase" else amps


def _own_legs(ledger: Ledger, cid: str, running: Mapping[str, Figure], inverter: InverterSeat) -> Figure:
    """What one inverter carries of the backed-up side."""
    return leg_current(ledger, cid, running, ledger.house.phases_of(inverter), shared_by(ledger, inverter))


def charging(ledger: Ledger, cid: str, inverter: InverterSeat) -> Figure:
    """AC current while an inverter charges its battery from the grid."""
    card = inverter.card
    watts = ledger.decided("settings.grid_charge_a") * bank_of(ledger, inverter).volts("v_max")
    amps = watts / (ledger.read(card, "battery.efficiency") * ledger.read(card, "output_v"))
    return ledger.work(f"circuits.{cid}.charging_a", "I_ch", "Charging, AC side", _by_root(amps, card.output), "A", source="physics")


def of_grid(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """The grid feed: backed-up loads and charging together, or the inverter's own output."""
    inverter, cid, running = ledger.house.inverter(circuit.owner), circuit.id, running_on(ledger, circuit, running)
    card, output = inverter.card, ledger.read(inverter.card, "output_current_a")
    most = largest(_own_legs(ledger, cid, running, inverter) + charging(ledger, cid, inverter), output)
    limits = "Backed-up loads and charging together, or the inverter's own output."
    name = f"Design current of the {circuit.title[:1].lower()}{circuit.title[1:]}"
    design = ledger.work(f"circuits.{cid}.design_a", "I_b", name, most, "A", source="physics", limits=limits)
    ledger.ask(rules.pass_through, rules.Through(design=design, most=ledger.read(card, "pass_through_a"), where=cid))
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v"),
        maker_min=card.grid_conductor_min,
        maker_source=f"card:{card.id}:grid_conductor_min",
        device_place="main board",
        flow=FLOWS[card.output],
    )


def of_through(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """What leaves an inverter or passes the transfer equipment: output, charging, or the grid feeding the backed-up side."""
    inverter, cid, house = ledger.house.inverter(circuit.owner), circuit.id, ledger.house
    card, combined, running = inverter.card, circuit.owner in house.panels, running_on(ledger, circuit, running)
    output = leg_output_a(ledger) if combined else ledger.read(card, "output_current_a")
    legs = leg_current(ledger, cid, running, house.legs) if combined else _own_legs(ledger, cid, running, inverter)
    most = largest(legs, output) if circuit.kind == "output" else largest(legs, charging(ledger, cid, inverter), output)
    name = f"Design current, {circuit.title[:1].lower()}{circuit.title[1:]}"
    design = ledger.work(f"circuits.{cid}.design_a", "I_b", name, most, "A", source="physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger) if combined else ledger.read(card, "output_v"),
        maker_min="" if combined else card.load_conductor_min,
        maker_source="" if combined else f"card:{card.id}:load_conductor_min",
        device_place="combining panel" if circuit.kind == "output" else "at its source",
        flow=FLOWS[output_kind(ledger) if combined else card.output],
    )


def _backup_device(ledger: Ledger, circuit: Circuit, upstream: list[Figure]) -> Figure:
    """The device the backed-up feed must bear: its own main, or the breaker that feeds it in pass-through, whichever is larger."""
    board = next((b.card for b in ledger.house.boards if b.id == circuit.load), None) or ledger.seats.sub_board
    main = ledger.read(board, "main_device_a")
    if not upstream:
        return main
    feeding = max(upstream, key=BY_VALUE)
    return ledger.work(
        f"circuits.{circuit.id}.upstream",
        "I_up",
        "Larger of main and grid breaker",
        largest(main, feeding),
        "A",
        source=ledger.book.wiring.protection_source,
        limits="In pass-through the grid breaker feeds this conductor through the inverter or the transfer equipment.",
    )


def of_backup(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure], upstream: list[Figure]) -> Demand:
    """The backed-up feed; ``upstream`` are the devices that feed it in pass-through."""
    inverter, carried = ledger.seats.inverter, running_on(ledger, circuit, running)
    leg, panel = leg_current(ledger, circuit.id, carried, ledger.house.legs), circuit.owner in ledger.house.panels
    return Demand(
        design_a=leg,
        continuous_a=continuous(ledger, circuit, leg),
        volts=line_v(ledger),
        maker_min="" if panel else inverter.load_conductor_min,
        maker_source="" if panel else f"card:{inverter.id}:load_conductor_min",
        fixed_device_a=_backup_device(ledger, circuit, upstream),
        device_place="backed-up board",
        flow=FLOWS[output_kind(ledger)],
    )


def of_feeder(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """The feed of a board behind another, through a breaker of the board ahead: what runs on it, or what its PV inverters give back."""
    house, cid = ledger.house, circuit.id
    design = leg_current(ledger, cid, running_on(ledger, circuit, running), house.legs)
    own = {circuit.load, *house.below(circuit.load)}
    back = [ledger.read(pv.card, "output_current_a") for pv in ledger.seats.pv_inverters if pv.thing.feeds in own]
    if back:
        name = f"Design current of the {circuit.title[:1].lower()}{circuit.title[1:]}"
        design = ledger.work(f"circuits.{cid}.design_a", "I_b", name, largest(design, total(back, back[0])), "A", source="physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger),
        device_place="the board ahead",
        flow=FLOWS[output_kind(ledger)],
    )


def of_main_feeder(ledger: Ledger, circuit: Circuit, run: Run) -> Demand | None:
    """The feed of a main board behind another, which carries back what the sources there give; None where none of them gives any.

    What it carries to the loads there the survey does not say: its device holds that, and is asked for.
    """
    units, others = joining(ledger, circuit.load)
    if not units and not others:
        return None
    if run.device_a is None:
        question = f"Which device guards the feed of {circuit.load} in the board ahead?"
        ledger.gap(f"runs.{run.id}.device_a", "circuits", question, f"Whether the conductors to {circuit.load} are guarded")
    design = sources_of(ledger, units, others, circuit.load)
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=line_v(ledger),
        needs_device=run.device_a is not None,
        device_place="the board ahead",
        flow=FLOWS[output_kind(ledger)],
    )


def of_generator(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """The generator feed."""
    card = next((g.card for g in ledger.seats.generators if g.id == circuit.owner), None)
    if card is None:
        return None
    inverter = ledger.house.inverter(next(g.thing.feeds for g in ledger.seats.generators if g.id == circuit.owner)).card
    volts = ledger.read(card, "voltage_v")
    amps = _by_root(ledger.read(card, "power_w") / volts, inverter.output)
    design = ledger.work(f"circuits.{circuit.id}.design_a", "I_b", "Generator's full current", amps, "A", source="physics")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=volts,
        fixed_device_a=ledger.read(card, "device_a"),
        device_place="on the generator",
        flow=FLOWS[inverter.output],
    )


def of_pv_inverter(ledger: Ledger, circuit: Circuit) -> Demand | None:
    """AC-coupled PV."""
    card = next((p.card for p in ledger.seats.pv_inverters if p.id == circuit.owner), None)
    if card is None:
        return None
    design = ledger.read(card, "output_current_a")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v"),
        maker_min=card.conductor_min,
        maker_source=f"card:{card.id}:conductor_min",
        device_place="backed-up board",
        flow=FLOWS[card.output],
    )

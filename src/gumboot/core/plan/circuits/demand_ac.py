"""What do the grid feed, what leaves an inverter and the transfer circuits carry?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.expression import Expression, largest, root_three, total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import Circuit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import bank_of
from gumboot.core.plan.circuits.demand_dc import continuous
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.group import leg_output_a, line_v, output_kind, shared_by
from gumboot.core.plan.loads import powers
from gumboot.core.plan.sources import pv_behind, sources_of
from gumboot.core.rulebook.common.conductors import Circuit as Flow
from gumboot.core.rules import connection as rules
from gumboot.core.seats import InverterSeat
from gumboot.core.wording import within

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


def by_root(amps: Expression, output: str) -> Expression:
    """A current from power over the voltage between lines: over the square root of three where there are three."""
    return amps / root_three(amps) if output == "three phase" else amps


def _own_legs(ledger: Ledger, cid: str, running: Mapping[str, Figure], inverter: InverterSeat) -> Figure:
    """What one inverter carries of the backed-up side."""
    return leg_current(ledger, cid, running, ledger.house.phases_of(inverter), shared_by(ledger, inverter))


def charging(ledger: Ledger, cid: str, inverter: InverterSeat, mark: str = "") -> Figure:
    """AC current while an inverter charges its battery from the grid."""
    card = inverter.card
    watts = ledger.decided("settings.grid_charge_a") * bank_of(ledger, inverter).volts("v_max")
    amps = watts / (ledger.read(card, "battery.efficiency") * ledger.read(card, "output_v"))
    return ledger.work(
        f"circuits.{cid}.charging_a{mark}",
        "I_ch",
        f"Charging, AC side{mark and f', {inverter.id}'}",
        by_root(amps, card.output),
        "A",
        source="physics",
    )


def coming_back(ledger: Ledger, circuit: Circuit) -> list[Figure]:
    """What the PV inverters behind a circuit give back along it."""
    return [ledger.read(pv.card, "output_current_a") for pv in pv_behind(ledger, circuit)]


def _all_charging(ledger: Ledger, cid: str, units: Sequence[InverterSeat]) -> Expression:
    """AC current while the inverters on the leg that most of them stand on charge from the grid."""
    if len(units) == 1:
        return charging(ledger, cid, units[0])
    house = ledger.house
    on = max(([i for i in units if leg in house.phases_of(i)] for leg in house.legs), key=len)
    parts = [charging(ledger, cid, unit, f".{unit.id}") for unit in on]
    return total(parts, parts[0])


def of_grid(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """The grid feed of an inverter, or of a gateway and all that feed it: loads and charging together, or all that comes back along it."""
    house, cid, running = ledger.house, circuit.id, running_on(ledger, circuit, running)
    inverter, behind = house.inverter(circuit.owner), pv_behind(ledger, circuit)
    card, alone = inverter.card, circuit.load == inverter.id
    units = (inverter,) if alone else house.feeding(circuit.load)
    legs = _own_legs(ledger, cid, running, inverter) if alone else leg_current(ledger, cid, running, house.legs)
    back = sources_of(ledger, units, () if alone else behind, cid if len(units) > 1 or behind else "")
    if alone and behind:
        shared = back + total(coming_back(ledger, circuit), back) / shared_by(ledger, inverter)
        words = f"Output and PV behind, back along the {within(circuit.title)}"
        back = ledger.work(f"circuits.{cid}.back_a", "I_back", words, shared, "A", source="physics", limits="PV shared by the inverters.")
    most = largest(legs + _all_charging(ledger, cid, units), back)
    own = "the inverter's own output" if len(units) == 1 else "the output of all inverters"
    limits = f"Backed-up loads and charging together, or {own}{' and what PV behind it gives back' if behind else ''}."
    name = f"Design current of the {within(circuit.title)}"
    design = ledger.work(f"circuits.{cid}.design_a", "I_b", name, most, "A", source="physics", limits=limits)
    if alone:
        ledger.ask(rules.pass_through, rules.Through(design=design, most=ledger.read(card, "pass_through_a"), where=cid))
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v") if len(units) == 1 else line_v(ledger),
        maker_min=card.grid_conductor_min,
        maker_source=f"card:{card.id}:grid_conductor_min",
        device_place="main board",
        flow=FLOWS[card.output if len(units) == 1 else output_kind(ledger)],
        back_a=back,
    )


def _leaving(ledger: Ledger, circuit: Circuit) -> Figure:
    """What flows out of an inverter, or of a panel with all that feed it."""
    house = ledger.house
    if circuit.owner not in house.panels:
        return ledger.read(house.inverter(circuit.owner).card, "output_current_a")
    units, others = house.feeding(circuit.owner), [pv for pv in ledger.seats.pv_inverters if pv.thing.feeds == circuit.owner]
    every = len(units) == len(ledger.seats.inverters) and not others
    return leg_output_a(ledger) if every else sources_of(ledger, units, others, circuit.id)


def of_through(ledger: Ledger, circuit: Circuit, running: Mapping[str, Figure]) -> Demand:
    """What leaves an inverter or passes the transfer equipment: output, charging, or the grid feeding the backed-up side."""
    inverter, cid, house = ledger.house.inverter(circuit.owner), circuit.id, ledger.house
    card, combined, running = inverter.card, circuit.owner in house.panels, running_on(ledger, circuit, running)
    # What comes from the grid to a switch feeds all behind it, however many inverters share that on the other side.
    at_inverter = inverter.id in (circuit.source, circuit.load)
    legs = _own_legs(ledger, cid, running, inverter) if at_inverter else leg_current(ledger, cid, running, house.legs)
    one = at_inverter or (not combined and len(house.feeding(circuit.load)) == 1)
    ways: list[Expression] = [legs] if not combined and not one else [legs, _leaving(ledger, circuit)]
    if one and circuit.kind != "output":
        ways.insert(1, charging(ledger, cid, inverter))
    most = largest(*ways)
    name = f"Design current, {within(circuit.title)}"
    design = ledger.work(f"circuits.{cid}.design_a", "I_b", name, most, "A", source="physics")
    if circuit.load == inverter.id:
        ledger.ask(rules.pass_through, rules.Through(design=design, most=ledger.read(card, "pass_through_a"), where=cid))
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=ledger.read(card, "output_v") if one else line_v(ledger),
        maker_min="" if combined else card.load_conductor_min,
        maker_source="" if combined else f"card:{card.id}:load_conductor_min",
        device_place="combining panel" if circuit.kind == "output" else "at its source",
        flow=FLOWS[card.output if one else output_kind(ledger)],
    )

"""What batteries, strings and the inverters between them can push into a fault at each place of the DC side."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gumboot.core.expression import Expression, largest, total
from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, OneBank, banks_of
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.faults.ac import cold_mohm
from gumboot.core.plan.faults.parts import FaultAt
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.rulebook.common import bank as network
from gumboot.core.seats import InverterSeat

CHARGING = "Inverters go on charging into it at their largest charge current."


def _charging(bank: OneBank, but: InverterSeat | None = None) -> list[Figure]:
    """What the inverters of a bank charge with."""
    return [bank.ledger.read(i.card, "battery.charge_a") for i in bank.inverters if i is not but]


def _at_bars(bank: OneBank, plan: BankPlan) -> Figure:
    """All batteries and all inverters, at the bars or at the bank's terminals."""
    parts = [plan.supply.fault_a, *_charging(bank)]
    name = "Largest fault current at the busbars" if plan.supply.shares else "Largest fault current at the bank's terminals"
    return bank.work("fault.bars", "I_k", name, total(parts, parts[0]), "A", source="physics", limits=f"Leads are neglected. {CHARGING}")


def _at_units(bank: OneBank, plan: BankPlan) -> Figure:
    """At a battery: from its own cells, or from the others and the inverters."""
    one, charging = bank.ledger.read(bank.card, "fault_a"), _charging(bank)
    others: list[Expression] = [(plan.supply.parallel - 1) * one] if plan.supply.shares else []
    beyond = total([*others, *charging], 0.0 * one)
    holds = f"Beyond its breaker from its own cells, before it from what else hangs there. {CHARGING}"
    return bank.work("fault.unit", "I_k", "Largest fault current at a battery", largest(one, beyond), "A", source="physics", limits=holds)


def _at_inverter(bank: OneBank, plan: BankPlan, inverter: InverterSeat, main: Sized | None, bars: Figure) -> Figure:
    """At an inverter's battery terminals: what comes along its main, the bank's own resistance and the main's counted."""
    inner = plan.inner_mohm
    if main is None or inner is None:
        return bars
    amps = network.fault_current_a(bank.volts("v_max"), inner, cold_mohm(bank.ledger, main, there_and_back=True))
    parts = [amps, *_charging(bank, inverter)]
    name = f"Largest fault current at {inverter.name}, battery"
    holds = f"Conductors at 20 °C. {CHARGING}"
    return bank.ledger.work(f"fault.{inverter.id}.battery", "I_k", name, total(parts, amps), "A", source="physics", limits=holds)


def _of_bank(bank: OneBank, plan: BankPlan, sized: dict[str, Sized]) -> Iterator[FaultAt]:
    house = bank.ledger.house.whole
    bars, names = _at_bars(bank, plan), (bank.id, *(i.name for i in bank.inverters))
    at_unit = _at_units(bank, plan)
    for unit in bank.units:
        yield FaultAt(place=unit.id, side="battery", amps=at_unit, sources=names)
    if bank.box is not None:
        yield FaultAt(place=bank.box.id, side="battery", amps=bars, sources=names)
    mains = {c.owner: c.id for c in house.mains_of(bank.id)}
    for inverter in bank.inverters:
        switch = house.switch_fuse_of(inverter.id)
        if switch is not None:
            yield FaultAt(place=switch.id, side="battery", amps=bars, sources=names)
        amps = _at_inverter(bank, plan, inverter, sized.get(mains.get(inverter.id, "")), bars)
        yield FaultAt(place=inverter.id, side="battery", amps=amps, sources=names)


def _of_strings(ledger: Ledger, strings: StringsPlan) -> Iterator[FaultAt]:
    """Strings of an input in parallel, at the input and at its box: the largest of several inputs at one place."""
    at: dict[str, list[tuple[str, Figure]]] = {}
    for tracker in strings.trackers:
        box = ledger.house.whole.roof_box_of(tracker.place)
        for place in (*([box.id] if box is not None else []), tracker.place):
            at.setdefault(place, []).append((tracker.name, tracker.maximum_a))
    for place, flows in at.items():
        amps = max((amps for _, amps in flows), key=BY_VALUE)
        yield FaultAt(place=place, side="PV", amps=amps, sources=tuple([name for name, _ in flows]))


def dc_faults(ledger: Ledger, strings: StringsPlan | None, banks: Sequence[BankPlan], plan: CircuitsPlan) -> list[FaultAt]:
    """The fault current at every place of batteries and strings."""
    found = list(_of_strings(ledger, strings)) if strings is not None else []
    planned = {bank.id: bank for bank in banks}
    for bank in banks_of(ledger):
        if bank.id in planned:
            found += _of_bank(bank, planned[bank.id], plan.sized)
    return found

"""What do the PV runs, the battery leads and the battery main carry?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit, main_name
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank.one import OneBank, bank_of, banks_of
from gumboot.core.plan.bank.supply import Supplies
from gumboot.core.plan.circuits.laid import run_for
from gumboot.core.plan.circuits.parts import Demand
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.rules import bank as rules
from gumboot.core.seats import InverterSeat


def continuous(ledger: Ledger, circuit: Circuit, design: Figure) -> Figure:
    """What conductor and device are chosen for before factors, by the book."""
    draft = ledger.book.wiring.continuous(design, run_for(ledger, circuit).fully_rated)
    return design if draft is None else ledger.put(f"circuits.{circuit.id}.continuous_a", draft)


def of_pv(ledger: Ledger, circuit: Circuit, plan: StringsPlan) -> Demand | None:
    """A PV run; None while its input is not worked out."""
    tracker = next((t for t in plan.trackers if t.circuit == circuit.id), None)
    if tracker is None:
        return None
    before_factors = tracker.maximum_a
    if (found := ledger.book.strings.conductor_current(tracker.maximum_a)) is not None:
        key, name = f"circuits.{circuit.id}.continuous_a", "125 % of the maximum circuit current"
        before_factors = ledger.work(key, "I_c", name, found[0], "A", source=found[1])
    alone = len(tracker.strings) == 1
    return Demand(
        design_a=tracker.maximum_a,
        continuous_a=before_factors,
        volts=tracker.hot_v,
        highest_v=tracker.cold_v,
        drop_a=tracker.operating_a,
        needs_device=False,
        device_place="none: one string cannot feed a fault with more than its own current"
        if alone
        else "string fuses where others can feed a fault",
    )


def _owner(ledger: Ledger, circuit: Circuit) -> OneBank:
    """The bank of a lead, a link between blocks or a battery main."""
    if circuit.kind == "battery":
        return bank_of(ledger, ledger.house.inverter(circuit.owner))
    return next(bank for bank in banks_of(ledger) if bank.id == circuit.owner)


def of_unit(ledger: Ledger, circuit: Circuit) -> Demand:
    """The lead of one battery of a parallel bank."""
    bank = _owner(ledger, circuit)
    card = bank.card
    design, own = ledger.read(card, "discharge_a"), ledger.stated(card, "breaker_a")
    if bank.of_strings:
        # A string that fails is fed by all others, but for a fuse of its own.
        own = ledger.asked(f"banks.{bank.id}.string_fuse_a")
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=bank.volts("nominal_v"),
        highest_v=bank.volts("v_max"),
        maker_min=card.lead_min,
        maker_source=f"card:{card.id}:lead_min",
        fixed_device_a=own,
        needs_device=own is not None,
        device_place="at the bars" if bank.of_strings else "in the battery",
    )


def main_device(ledger: Ledger, inverter: InverterSeat) -> Figure | None:
    """The overcurrent device between the bank and an inverter."""
    switch = ledger.house.switch_fuse_of(inverter.id)
    if switch is not None:
        return ledger.read(switch.card, "rated_a")
    bank = bank_of(ledger, inverter)
    one = ledger.stated(bank.card, "breaker_a")
    if one is None or len(bank.heads) == 1:
        return one
    parallel, limits = bank.counts()[2], "Each battery feeds the bars behind a breaker of its own; what leaves them bears all of these."
    return bank.work("bank.breakers_a", "I_nb", "Breakers of all batteries together", parallel * one, "A", source="arith", limits=limits)


def of_main(ledger: Ledger, circuit: Circuit, supplies: Supplies) -> Demand:
    """The battery main of an inverter, and the links between blocks in series."""
    joints, bank = circuit.kind == "interlink", _owner(ledger, circuit)
    inverter = bank.inverters[0] if joints else ledger.house.inverter(circuit.owner)
    card, device, supply = inverter.card, main_device(ledger, inverter), supplies.of(bank.id)
    where = main_name(ledger.house, inverter) if joints else circuit.id
    ledger.ask(rules.device_between, rules.Guarded(where=where, device=device))
    design = supply.design_a if joints else supply.mains[inverter.id]
    return Demand(
        design_a=design,
        continuous_a=continuous(ledger, circuit, design),
        volts=bank.volts("v_low_operating"),
        highest_v=bank.volts("v_max"),
        maker_min=card.battery.conductor_min,
        maker_source=f"card:{card.id}:battery.conductor_min",
        fixed_device_a=device,
        needs_device=device is not None,
        device_place="in the switch-fuse" if ledger.house.switch_fuse_of(inverter.id) is not None else "in the battery",
    )

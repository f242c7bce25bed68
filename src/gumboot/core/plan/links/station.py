"""The Links station."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card.parts import DataPort, Protocol
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.links.chain import ChainUnit, LeadCore, chain_of, check_chain, lead_cores
from gumboot.core.plan.links.group import TERMINATOR, GroupLink, group_link
from gumboot.core.rules import links as rules


@dataclass(frozen=True)
class LinksPlan:
    """The battery bus."""

    protocol: Protocol | None
    battery_protocol: Protocol | None
    lead: tuple[LeadCore, ...] = ()
    chain: tuple[ChainUnit, ...] = ()
    pair_ohm: Figure | None = None
    inverter_port: DataPort | None = None
    battery_port: DataPort | None = None
    none_because: str = ""
    group: GroupLink | None = None


def _no_bus(ledger: Ledger) -> str:
    """Why this system has no battery bus to wire; empty when it has one."""
    inverter, battery = ledger.seats.inverter, ledger.seats.battery
    if battery.arrangement == "docked" or inverter.bank_internal:
        return "The batteries dock inside this unit: their data link is made by the plug, and nothing is wired."
    if not battery.data_ports:
        return "This battery has no data link: the inverter works by the voltages that are set (open loop)."
    return ""


def _check_protocols(ledger: Ledger, chosen: Protocol | None, common: Protocol | None) -> None:
    """The inverter's choice, firmware at both ends, and what each battery is set to."""
    inverter, battery = ledger.seats.inverter, ledger.seats.battery
    shared = [f"{p.number} {p.name}" for p in inverter.protocols if any(p.name == b.name for b in battery.protocols)]
    facts = rules.Spoken(where="inverter", wanted=chosen, common=common, shared=shared, field=".inverter_protocol")
    ledger.ask_of_bank(rules.one_protocol, facts)
    ledger.ask_of_bank(rules.firmware_suffices, rules.Firmware(title=inverter.title, version=inverter.firmware, protocol=chosen))
    ledger.ask_of_bank(rules.firmware_suffices, rules.Firmware(title=battery.title, version=battery.firmware, protocol=common))
    theirs, units = {p.number: p for p in battery.protocols}, ledger.job.banks[0].units
    # Modules of a stack are one battery on the bus.
    for unit in units[:1] if battery.arrangement == "stack" else units:
        field = f".units.{unit.id}.protocol"
        facts = rules.Spoken(where=unit.id, wanted=chosen, spoken=theirs.get(unit.protocol), common=common, field=field)
        ledger.ask_of_bank(rules.one_protocol, facts)


def _check_lead(ledger: Ledger, lead: tuple[LeadCore, ...]) -> None:
    made = frozenset((p.inverter_pin, p.battery_pin) for p in ledger.job.banks[0].lead_as_made)
    needed = frozenset((c.inverter_pin, c.battery_pin) for c in lead)
    ledger.ask_of_bank(rules.lead_joins_like, rules.Lead(where="battery lead", made=made, needed=needed))


def _pair(ledger: Ledger, chain: tuple[ChainUnit, ...], bus: str) -> Figure:
    """Resistance across the dead pair, by the terminators that are on the bus."""
    fitted, limits = float(1 + sum(c.unit.terminator for c in chain)), "One is built into the inverter."
    ends = ledger.work("links.terminators", "n_t", "Terminators on the bus", fitted, "", "arith", limits=limits)
    ohm, limits = TERMINATOR / ends, "60 ohm: both ends. 120: one is missing. 40: one too many."
    return ledger.work("links.pair_ohm", "R", f"Across the dead {bus} pair", ohm, "ohm", "physics", limits=limits)


def plan_links(ledger: Ledger) -> LinksPlan:
    """Work out the Links station."""
    inverter, battery = ledger.seats.inverter, ledger.seats.battery
    if why := _no_bus(ledger):
        return LinksPlan(None, None, none_because=why, group=group_link(ledger))
    chosen = next((p for p in inverter.protocols if p.number == ledger.job.banks[0].inverter_protocol), None)
    common = next((p for p in battery.protocols if chosen and p.name == chosen.name), None)
    _check_protocols(ledger, chosen, common)
    chain, bus = chain_of(ledger), chosen.bus if chosen else "CAN"
    check_chain(ledger, chain)
    inv_port = next((p for p in inverter.data_ports if p.bus == bus), None)
    bat_port = next((p for p in battery.data_ports if p.bus == bus), None)
    if inv_port is None or bat_port is None:
        titles = (inverter.title, battery.title)
        facts = rules.Spoken(where="sockets", wanted=chosen, titles=titles, lacking_bus=bus, field=".card")
        ledger.ask_of_bank(rules.one_protocol, facts)
        return LinksPlan(
            chosen,
            common,
            chain=chain,
            none_because=f"{titles[0]} and {titles[1]} have no {bus} socket in common.",
            group=group_link(ledger),
        )
    lead = lead_cores(inv_port, bat_port)
    _check_lead(ledger, lead)
    return LinksPlan(chosen, common, lead, chain, _pair(ledger, chain, bus), inv_port, bat_port, group=group_link(ledger))

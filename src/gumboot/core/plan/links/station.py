"""The Links station."""

from __future__ import annotations

from gumboot.core.card.parts import DataPort, Protocol
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.links.chain import ChainUnit, LeadCore, chain_of, check_chain, lead_cores
from gumboot.core.plan.links.group import TERMINATOR, GroupLink, group_link
from gumboot.core.record import Record
from gumboot.core.rules import links as rules
from gumboot.core.seats import BankSeat, InverterSeat


class BatteryBus(Record):
    """The bus between one bank and its first inverter. ``mark`` and ``of`` tell it apart in ids and titles where there are several."""

    seat: BankSeat
    inverter: InverterSeat
    mark: str
    of: str
    protocol: Protocol | None = None
    battery_protocol: Protocol | None = None
    lead: tuple[LeadCore, ...] = ()
    chain: tuple[ChainUnit, ...] = ()
    pair_ohm: Figure | None = None
    inverter_port: DataPort | None = None
    battery_port: DataPort | None = None
    none_because: str = ""


class LinksPlan(Record):
    """The battery bus of each bank, and the link between the inverters of each group."""

    buses: tuple[BatteryBus, ...]
    groups: tuple[GroupLink, ...] = ()

    @property
    def wired(self) -> tuple[BatteryBus, ...]:
        """The buses with a lead to make."""
        return tuple(bus for bus in self.buses if bus.inverter_port is not None)


def _no_bus(bank: OneBank) -> str:
    """Why this bank has no battery bus to wire; empty when it has one."""
    if bank.is_docked:
        return "The batteries dock inside this unit: their data link is made by the plug, and nothing is wired."
    if not bank.card.data_ports:
        return "This battery has no data link: the inverter works by the voltages that are set (open loop)."
    return ""


def _check_protocols(bank: OneBank, chosen: Protocol | None, common: Protocol | None) -> None:
    """The inverter's choice, firmware at both ends, and what each battery is set to."""
    inverter, battery = bank.inverter, bank.card
    shared = [f"{p.number} {p.name}" for p in inverter.protocols if any(p.name == b.name for b in battery.protocols)]
    facts = rules.Spoken(where="inverter", wanted=chosen, common=common, shared=shared, field=".inverter_protocol")
    bank.ask(rules.one_protocol, facts)
    bank.ask(rules.firmware_suffices, rules.Firmware(title=inverter.title, version=inverter.firmware, protocol=chosen))
    bank.ask(rules.firmware_suffices, rules.Firmware(title=battery.title, version=battery.firmware, protocol=common))
    theirs = {p.number: p for p in battery.protocols}
    # Modules of a stack are one battery on the bus.
    for unit in bank.heads if battery.arrangement == "stack" else bank.units:
        field = f".units.{unit.id}.protocol"
        facts = rules.Spoken(where=unit.id, wanted=chosen, spoken=theirs.get(unit.protocol), common=common, field=field)
        bank.ask(rules.one_protocol, facts)


def _check_lead(bank: OneBank, lead: tuple[LeadCore, ...]) -> None:
    made = frozenset((p.inverter_pin, p.battery_pin) for p in bank.seat.thing.lead_as_made)
    needed = frozenset((c.inverter_pin, c.battery_pin) for c in lead)
    bank.ask(rules.lead_joins_like, rules.Lead(where=bank.of("battery lead"), made=made, needed=needed))


def _pair(bank: OneBank, chain: tuple[ChainUnit, ...], bus: str) -> Figure:
    """Resistance across the dead pair, by the terminators that are on the bus."""
    fitted, limits = float(1 + sum(c.unit.terminator for c in chain)), "One is built into the inverter."
    ends = bank.work("links.terminators", "n_t", "Terminators on the bus", fitted, "", source="arith", limits=limits)
    ohm, limits = TERMINATOR / ends, "60 ohm: both ends. 120: one is missing. 40: one too many."
    return bank.work("links.pair_ohm", "R", f"Across the dead {bus} pair", ohm, "ohm", source="physics", limits=limits)


def _bus(bank: OneBank) -> BatteryBus:
    bare = BatteryBus(seat=bank.seat, inverter=bank.inverters[0], mark=bank.mark, of=bank.of(""))
    if why := _no_bus(bank):
        return bare.but(none_because=why)
    inverter, battery = bank.inverter, bank.card
    chosen = next((p for p in inverter.protocols if p.number == bank.seat.thing.inverter_protocol), None)
    common = next((p for p in battery.protocols if chosen and p.name == chosen.name), None)
    _check_protocols(bank, chosen, common)
    chain, bus = chain_of(bank), chosen.bus if chosen else "CAN"
    check_chain(bank, chain)
    spoken = bare.but(protocol=chosen, battery_protocol=common, chain=chain)
    inv_port = next((p for p in inverter.data_ports if p.bus == bus), None)
    bat_port = next((p for p in battery.data_ports if p.bus == bus), None)
    if inv_port is None or bat_port is None:
        titles = (inverter.title, battery.title)
        facts = rules.Spoken(where="sockets", wanted=chosen, titles=titles, lacking_bus=bus, field=".card")
        bank.ask(rules.one_protocol, facts)
        return spoken.but(none_because=f"{titles[0]} and {titles[1]} have no {bus} socket in common.")
    lead = lead_cores(inv_port, bat_port)
    _check_lead(bank, lead)
    return spoken.but(lead=lead, pair_ohm=_pair(bank, chain, bus), inverter_port=inv_port, battery_port=bat_port)


def plan_links(ledger: Ledger) -> LinksPlan:
    """Work out the Links station."""
    groups = tuple(link for part in ledger.islands if (link := group_link(part)) is not None)
    return LinksPlan(buses=tuple(_bus(bank) for bank in banks_of(ledger)), groups=groups)

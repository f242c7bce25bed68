"""The Links station."""

from __future__ import annotations

from gumboot.core.card.parts import DataPort, Protocol
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import OneBank, banks_of
from gumboot.core.plan.links.cable import check_cable
from gumboot.core.plan.links.chain import ChainUnit, LeadCore, chain_of, check_chain, lead_cores, pins_of
from gumboot.core.plan.links.group import GroupLink, Pair, across, group_link
from gumboot.core.plan.links.modbus import ModbusLine, modbus_lines
from gumboot.core.plan.links.sockets import check_gateways, meant_for, missing_signals, of_the_group
from gumboot.core.plan.links.switches import dip_block
from gumboot.core.rulebook.common.signals import PAIRS, is_pair, may_end, reach_m
from gumboot.core.rules import leads
from gumboot.core.rules import links as rules
from gumboot.core.seats import BankSeat, InverterSeat
from gumboot.core.values import Values


class BatteryBus(Values):
    """The bus between one bank and its first inverter. ``mark`` and ``of`` tell it apart in ids and titles where there are several.

    ``programming`` is how the switches of a battery stand while its protocol is chosen, True for ON; empty where the maker asks for nothing.
    """

    seat: BankSeat
    inverter: InverterSeat
    mark: str
    of: str
    protocol: Protocol | None = None
    battery_protocol: Protocol | None = None
    lead: tuple[LeadCore, ...] = ()
    chain: tuple[ChainUnit, ...] = ()
    programming: tuple[bool, ...] = ()
    pair_ohm: Figure | None = None
    inverter_port: DataPort | None = None
    battery_port: DataPort | None = None
    none_because: str = ""


class LinksPlan(Values):
    """The battery bus of each bank, the link between the inverters of each group, and the Modbus line of each inverter."""

    buses: tuple[BatteryBus, ...]
    groups: tuple[GroupLink, ...] = ()
    modbus: tuple[ModbusLine, ...] = ()

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


def _check_lead(bank: OneBank, lead: tuple[LeadCore, ...], ports: tuple[DataPort, DataPort], bus: str) -> None:
    made = frozenset((p.inverter_pin, p.battery_pin) for p in bank.seat.thing.lead_as_made)
    needed = frozenset((c.inverter_pin, c.battery_pin) for c in lead)
    may_stay = frozenset((c.inverter_pin, c.battery_pin) for c in lead if may_end(c.signal, bus))
    idle = tuple(frozenset(range(1, 9)) - {p.pin for p in port.pins} for port in ports)
    facts = leads.Lead(where=bank.of("battery lead"), made=made, needed=needed, open=may_stay, idle=(idle[0], idle[1]))
    bank.ask(leads.lead_joins_like, facts)


def _check_ends(bank: OneBank, ports: tuple[DataPort, DataPort], bus: str, spoken: Protocol) -> None:
    """What each socket lacks, whether its pair is one of a ready-made lead, and whether the bus reaches."""
    titles, where = (bank.inverter.title, bank.card.title), bank.of("battery lead")
    missing = missing_signals((titles[0], ports[0]), (titles[1], ports[1]), bus)
    bank.ask(leads.every_signal_has_a_partner, leads.Signals(where=where, missing=missing))
    for title, port in zip(titles, ports, strict=True):
        pins = pins_of(port, bus)
        if len(pins) == len(PAIRS.get(bus, ())) and pins:
            bank.ask(leads.in_one_pair, leads.Twisted(where=where, title=title, pins=pins, is_pair=is_pair(pins)))
    most = reach_m(bus, spoken.kbit_s)
    if bank.seat.thing.lead_m is not None and most is not None:
        length = bank.ledger.decided(f"banks.{bank.id}.lead_m")
        name = f"Reach of a {spoken.kbit_s:g} kbit/s {bus} bus"
        reach = bank.work("links.reach_m", "L_max", name, most, "m", source="cp.busreach")
        speed = f"{spoken.kbit_s:g} kbit/s {bus}"
        bank.ask(leads.within_reach, leads.Reach(where=where, length=length, most=reach, speed=speed))


def _pair(bank: OneBank, chain: tuple[ChainUnit, ...], bus: str) -> Figure:
    """Resistance across the dead pair, by the terminators that are on the bus."""
    fitted, built_in = 1 + sum(c.unit.terminator for c in chain), "One is built into the inverter."
    called = Pair("links.terminators", "links.pair_ohm", "Terminators on the bus", f"Across the dead {bus} pair", built_in)
    return across(bank.work, called, fitted)


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
    spoken = bare.but(protocol=chosen, battery_protocol=common, chain=chain, programming=dip_block(battery).programming)
    theirs = meant_for(inverter.data_ports, "battery", bus, of_the_group(inverter))
    ours = meant_for(battery.data_ports, "battery", bus)
    if not theirs or not ours:
        titles = (inverter.title, battery.title)
        facts = rules.Spoken(where="sockets", wanted=chosen, titles=titles, lacking_bus=bus, field=".card")
        bank.ask(rules.one_protocol, facts)
        return spoken.but(none_because=f"{titles[0]} and {titles[1]} have no {bus} socket in common.")
    for title, sockets in ((inverter.title, theirs), (battery.title, ours)):
        bank.ask(leads.one_socket, leads.Sockets(where=bank.of("battery lead"), title=title, bus=bus, sockets=[p.title for p in sockets]))
    if len(theirs) > 1 or len(ours) > 1:
        return spoken.but(none_because="Which socket is meant is not said: see the stop.")
    inv_port, bat_port = theirs[0], ours[0]
    lead = lead_cores(inv_port, bat_port, bus, bank.seat.thing.lead_scheme)
    _check_lead(bank, lead, (inv_port, bat_port), bus)
    if chosen is not None:
        _check_ends(bank, (inv_port, bat_port), bus, chosen)
        check_cable(bank, chain, chosen)
    return spoken.but(lead=lead, pair_ohm=_pair(bank, chain, bus), inverter_port=inv_port, battery_port=bat_port)


def plan_links(ledger: Ledger) -> LinksPlan:
    """Work out the Links station."""
    check_gateways(ledger)
    groups = tuple(link for part in ledger.islands if (link := group_link(part)) is not None)
    return LinksPlan(buses=tuple(_bus(bank) for bank in banks_of(ledger)), groups=groups, modbus=modbus_lines(ledger))

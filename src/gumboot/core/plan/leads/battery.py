"""The leads of the battery buses and of the links between inverters."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from gumboot.core.card import BatteryCard
from gumboot.core.card.parts import DataPort
from gumboot.core.plan.leads.joined import lacking, wires_of
from gumboot.core.plan.leads.parts import Lead, LeadEnd, LeadKind
from gumboot.core.plan.links.group import GroupLink
from gumboot.core.plan.links.station import BatteryBus

SCREENED = "Screened cable, one twisted pair for the signal"


def _onward(card: BatteryCard, inward: DataPort) -> DataPort:
    """The socket from which the bus goes on to the next battery: its own, or, where the card names none, the one that it came in by."""
    return next((port for port in card.data_ports if port.onward and port.bus == inward.bus), inward)


def battery_leads(bus: BatteryBus) -> Iterator[Lead]:
    """From the inverter to the first battery, and from each battery to the next."""
    if bus.inverter_port is None or bus.battery_port is None:
        return
    card, spoken, scheme = bus.seat.card, bus.inverter_port.bus, bus.seat.thing.lead_scheme
    heads = [each.unit.id for each in bus.chain]
    inverter = LeadEnd.at(bus.inverter.id, bus.inverter.name, bus.inverter_port)
    first = LeadEnd.at(heads[0], heads[0], bus.battery_port)
    yield Lead(
        id=f"battery.{bus.seat.id}",
        kind=LeadKind.BATTERY,
        title=f"Battery lead{bus.of}",
        ends=(inverter, first),
        cable=SCREENED,
        wires=wires_of(inverter, first, spoken, scheme),
        lacks=lacking(inverter, first, spoken),
    )
    out = _onward(card, bus.battery_port)
    for one, other in itertools.pairwise(heads):
        near, far = LeadEnd.at(one, one, out).but(is_earthed=inverter.is_earthed), LeadEnd.at(other, other, bus.battery_port)
        yield Lead(
            id=f"chain.{one}.{other}",
            kind=LeadKind.CHAIN,
            title=f"{one} to {other}",
            ends=(near, far),
            cable=SCREENED,
            wires=wires_of(near, far, spoken, scheme),
            lacks=lacking(near, far, spoken),
            told="" if out.onward else f"The card of {card.title} names no socket from which its bus goes on: ask its maker.",
        )


def group_leads(group: GroupLink) -> Iterator[Lead]:
    """From each inverter of a group to the next."""
    for one, other in itertools.pairwise(group.units):
        near, far = (LeadEnd.at(unit.seat.id, unit.title, group.port) for unit in (one, other))
        yield Lead(
            id=f"parallel.{one.seat.id}.{other.seat.id}",
            kind=LeadKind.PARALLEL,
            title=f"{one.title} to {other.title}",
            ends=(near, far),
            cable="Ready-made lead, straight through",
            wires=wires_of(near, far, group.port.bus),
        )

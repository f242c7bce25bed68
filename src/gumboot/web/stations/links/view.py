"""What the station Links is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.acts import Act, Kind
from gumboot.core.job.modbus import BusDevice
from gumboot.core.plan.links.chain import LeadCore
from gumboot.core.plan.links.station import BatteryBus
from gumboot.drawing import links
from gumboot.web.act_words import house_notes
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class UnitFields:
    """A battery on the bus: what its fields are called, and whether its address is set at all."""

    title: str
    at: str
    has_address: bool


@dataclass(frozen=True, slots=True)
class Bus:
    """A battery bus, and the lead to it; or why there is none."""

    heading: str
    place: str
    at: str
    none_because: str
    of: str = ""
    drawing: Markup | None = None
    lead: Markup | None = None
    cores: tuple[LeadCore, ...] = ()
    units: tuple[UnitFields, ...] = ()
    is_chain: bool = False


@dataclass(frozen=True, slots=True)
class GroupUnit:
    """An inverter of a group on their own line."""

    title: str
    at: str
    has_phase: bool


@dataclass(frozen=True, slots=True)
class Group:
    """The line between the inverters."""

    title: str
    note: str
    drawing: Markup
    units: list[GroupUnit]


@dataclass(frozen=True, slots=True)
class Line:
    """A Modbus line."""

    title: str
    drawing: Markup


@dataclass(frozen=True, slots=True)
class LinksView:
    """The station Links."""

    buses: list[Bus]
    groups: list[Group]
    lines: list[Line]
    devices: list[BusDevice]
    askers: list[str]
    tasks: list[Act]
    notes: list[str]


def _bus(b: Bench, bus: BatteryBus) -> Bus:
    at = f"banks.{bus.seat.id}"
    heading = bus.seat.id if len(b.plan.links.buses) > 1 else ""
    if bus.none_because:
        return Bus(heading, f"at {bus.inverter.name}", at, bus.none_because)
    several = len(bus.chain) > 1
    units = tuple(UnitFields(c.unit.id if c.set_dip or several else "stack", f"{at}.units.{c.unit.id}", bool(c.set_dip)) for c in bus.chain)
    drawn, lead = links.bus_of(bus), links.lead_of(bus)
    return Bus(heading, f"at {bus.inverter.name}", at, "", bus.of, drawn, lead, tuple(bus.lead), units, several)


def _groups(b: Bench) -> list[Group]:
    found = []
    for group in b.plan.links.groups:
        units = [GroupUnit(u.title, f"things.{u.seat.id}", len(u.seat.card.phases) == 1) for u in group.units]
        port = f"{group.port.title}, {group.port.bus}"
        found.append(Group(f"Between the inverters{group.of}", port, links.group_drawing(group), units))
    return found


def view_of(b: Bench) -> LinksView:
    """The station as its page needs it."""
    modbus = b.plan.links.modbus
    lines = [Line(f"Asked by {x.inverter.name}" if len(modbus) > 1 or x.mark else "", links.modbus_drawing(x)) for x in modbus]
    return LinksView(
        buses=[_bus(b, bus) for bus in b.plan.links.buses],
        groups=_groups(b),
        lines=lines,
        devices=list(b.job.modbus.devices),
        askers=[seat.id for seat in b.plan.seats.inverters],
        tasks=[act for act in b.standing.acts.values() if act.kind is Kind.RITUAL],
        notes=house_notes(b),
    )

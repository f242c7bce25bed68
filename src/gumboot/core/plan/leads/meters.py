"""The leads of a Modbus line: from the inverter that asks to meters and charging points, device to device."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.card.boxes import LineDeviceCard
from gumboot.core.card.parts import Pin
from gumboot.core.job.modbus import BusDevice
from gumboot.core.ledger import Ledger
from gumboot.core.plan.leads.joined import lacking, wires_of
from gumboot.core.plan.leads.parts import Lead, LeadEnd, LeadKind
from gumboot.core.plan.links.modbus import ModbusLine
from gumboot.core.plan.links.sockets import meant_for, of_the_group


def _device_pins(device: BusDevice) -> tuple[Pin, ...]:
    said = (("A", device.pin_a), ("B", device.pin_b), ("GND", device.pin_ground))
    return tuple(Pin(pin=pin, signal=signal) for signal, pin in said if pin is not None)


def _unknown(near: LeadEnd, device: BusDevice, *, apart: bool) -> str:
    """Why the cores of a line are not known."""
    if not apart:
        return f"two cores of {device.title} are said to share one terminal"
    told = device.pin_a is not None or device.pin_b is not None
    return f"the terminals of {near.title if told else device.title} are not said"


# How the line is ended at a device.
ENDED = {"switch": "by its switch", "bridge": "by its bridge", "none": "by a resistor of 120 ohm across its terminals of A and B"}


def _told(device: BusDevice, card: LineDeviceCard | None) -> str:
    """What the device is set to, how, and what it comes with."""
    address = "No address yet" if device.address is None else f"Address {device.address}"
    ended = f" {ENDED[card.terminator]}" if card is not None and card.terminator and device.terminator else ""
    told = f"{address}, {device.speed}, terminator {f'in{ended}' if device.terminator else 'out'} at {device.title}."
    if card is None:
        return told
    shipped = f"comes with address {card.address_shipped}, {card.speeds[0]}" if card.address_shipped is not None else ""
    how = f"set by {card.set_by}" if card.set_by else ""
    more = ", ".join(words for words in (shipped, how) if words)
    return " ".join((told, *([f"{more[:1].upper()}{more[1:]}."] if more else []), *card.house_notes))


def _far(device: BusDevice, card: LineDeviceCard | None) -> LeadEnd:
    """The end of a lead at a device: its terminals by its card, else as they were typed."""
    address = "no address yet" if device.address is None else f"address {device.address}"
    if card is not None:
        return LeadEnd.at(device.id, device.title, card.data_ports[0]).but(under=address)
    pins = _device_pins(device)
    return LeadEnd(place=device.id, title=device.title, socket="RS-485 terminals", pins=pins, strip_mm=6, sheath_mm=45, under=address)


def meter_leads(ledger: Ledger, line: ModbusLine) -> Iterator[Lead]:
    """From the inverter that asks to the first device, and on from device to device."""
    unit = line.inverter
    ports = meant_for(unit.card.data_ports, "meter", "RS-485", of_the_group(unit.card))
    if len(ports) != 1:
        return
    near = LeadEnd.at(unit.id, unit.name, ports[0])
    for device in line.devices:
        card = ledger.seats.of_devices.get(device.id)
        far = _far(device, card)
        pins = far.pins
        apart = len({pin.pin for pin in pins}) == len(pins)
        known = bool(pins) and bool(near.pins) and apart
        yield Lead(
            id=f"meter.{device.id}",
            kind=LeadKind.METER,
            title=f"{near.title} to {device.title}",
            ends=(near, far),
            cable="Screened cable, one twisted pair for the signal",
            wires=wires_of(near, far, "RS-485") if known else (),
            lacks=lacking(near, far, "RS-485") if known else (_unknown(near, device, apart=apart),),
            told=_told(device, card),
        )
        near = far.but(is_earthed=ports[0].drain == "to earth here")

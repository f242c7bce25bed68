"""The Modbus line of each inverter: who hangs on it, at which address, and what its dead pair shows."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from gumboot.core.figure import Figure
from gumboot.core.job.modbus import BusDevice
from gumboot.core.ledger import Ledger
from gumboot.core.plan.links.cable import MOST_LOADS, stubs
from gumboot.core.plan.links.group import Pair, across
from gumboot.core.plan.links.sockets import meant_for, of_the_group
from gumboot.core.rulebook.common.signals import reach_m
from gumboot.core.rules import leads, lines
from gumboot.core.rules import modbus as rules
from gumboot.core.seats import InverterSeat
from gumboot.core.values import Values


class ModbusLine(Values):
    """One line: the inverter that asks, the devices in the order of the cable, and the resistance of the dead pair."""

    inverter: InverterSeat
    devices: tuple[BusDevice, ...]
    pair_ohm: Figure
    mark: str


def _check_addresses(ledger: Ledger, devices: Sequence[BusDevice]) -> None:
    known: dict[int, str] = {}
    for device in devices:
        address = ledger.asked_of(device, f"modbus.devices.{device.id}.address")
        if address is None or device.address is None:
            continue
        taken = known.get(device.address, "")
        ledger.ask(rules.answers_alone, rules.Answers(device=device.id, title=device.title, address=device.address, taken_by=taken))
        known.setdefault(device.address, device.title)


def _check_cards(ledger: Ledger, devices: Sequence[BusDevice]) -> None:
    for device in devices:
        card = ledger.seats.of_devices.get(device.id)
        if card is None:
            continue
        facts = rules.Settable(
            device=device.id,
            title=device.title,
            address=device.address,
            first=card.address_first,
            last=card.address_last,
            speed=device.speed,
            speeds=card.speeds,
        )
        ledger.ask(rules.can_be_set, facts)


def _load(ledger: Ledger, device: BusDevice) -> Fraction:
    """Unit loads of a device, as its card says, else as was typed."""
    card = ledger.seats.of_devices.get(device.id)
    return Fraction(card.load if card is not None else device.load)


def _check_cable(ledger: Ledger, unit: InverterSeat, devices: Sequence[BusDevice]) -> None:
    """Shape, stubs, terminators, length and socket."""
    shaped = lines.Shaped(where=unit.id, shape=ledger.job.modbus.shape, count=len(devices), things="devices", field="modbus.shape")
    ledger.ask(rules.device_to_device, shaped)
    for device in devices:
        field = f"modbus.devices.{device.id}.stub_m"
        length, (good, longest) = ledger.decided_of(device, field), stubs(ledger, "RS-485")
        stub = lines.Stub(where=device.id, title=device.title, length=length, short=good, most=longest, field=field)
        ledger.ask(rules.short_stub, stub)
        ended = rules.Ended(device=device.id, title=device.title, fitted=device.terminator, wanted=device is devices[-1])
        ledger.ask(rules.ended_at_its_ends, ended)
    speed = float(devices[0].speed.split()[0]) / 1000
    most = reach_m("RS-485", speed)
    if ledger.job.modbus.length_m is not None and most is not None:
        length = ledger.decided("modbus.length_m")
        reach = ledger.work("links.modbus_reach_m", "L_max", f"Reach of a line at {devices[0].speed}", most, "m", source="cp.busreach")
        facts = leads.Reach(where=unit.id, length=length, most=reach, speed=f"{devices[0].speed} RS-485", field="modbus.length_m")
        ledger.ask(leads.within_reach, facts)
    sockets = [p.title for p in meant_for(unit.card.data_ports, "meter", "RS-485", of_the_group(unit.card))]
    socket = leads.Sockets(
        where=f"Modbus line of {unit.id}", title=unit.card.title, bus="RS-485", sockets=sockets, field=f"things.{unit.id}.card"
    )
    ledger.ask(leads.one_socket, socket)


def _line(ledger: Ledger, unit: InverterSeat, devices: tuple[BusDevice, ...]) -> ModbusLine:
    mark = "" if unit is ledger.house.whole.lead else f"-{unit.id}"
    _check_addresses(ledger, devices)
    _check_cards(ledger, devices)
    field = f"modbus.devices.{devices[-1].id}"
    speeds = [(d.title, d.speed) for d in devices]
    ledger.ask(rules.one_speed, rules.Paced(where=unit.id, speeds=speeds, field=f"{field}.speed"))
    units = 1 + float(sum(_load(ledger, d) for d in devices))
    loads = ledger.work(f"links.modbus_loads{mark}", "n_u", f"Unit loads on the line of {unit.id}", units, "", source="tia.485",
                        limits="The inverter counted as one.")  # fmt: skip
    ledger.ask(rules.driver_bears, lines.Loaded(where=unit.id, loads=loads, most=ledger.keep(MOST_LOADS), field=f"{field}.load"))
    _check_cable(ledger, unit, devices)
    built_in = "One is in the inverter, or switched on there."
    called = Pair(
        f"links.modbus_ends{mark}", f"links.modbus_ohm{mark}", "Terminators on the Modbus line", "Across the dead Modbus pair", built_in
    )
    pair = across(ledger.work, called, 1 + sum(d.terminator for d in devices))
    return ModbusLine(inverter=unit, devices=devices, pair_ohm=pair, mark=mark)


def modbus_lines(ledger: Ledger) -> tuple[ModbusLine, ...]:
    """The line of each inverter that asks somebody."""
    units = {unit.id: unit for unit in ledger.house.whole.seats.inverters}
    on: dict[str, list[BusDevice]] = {}
    for device in ledger.job.modbus.devices:
        facts = rules.Asked(device=device.id, title=device.title, inverter=device.inverter, there=device.inverter in units)
        ledger.ask(rules.somebody_asks, facts)
        on.setdefault(device.inverter, []).append(device)
    return tuple(_line(ledger, units[name], tuple(devices)) for name, devices in on.items() if name in units)

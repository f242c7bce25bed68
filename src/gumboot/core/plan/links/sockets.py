"""Which socket of a card is meant for a link, and do both its ends carry what the link needs?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card import InverterCard
from gumboot.core.card.parts import DataPort
from gumboot.core.ledger import Ledger
from gumboot.core.rulebook.common.signals import left_out
from gumboot.core.rules import leads
from gumboot.core.seats import InverterSeat, TransferSeat


def meant_for(ports: Sequence[DataPort], purpose: str, bus: str, taken: str = "") -> list[DataPort]:
    """The sockets of a bus that may be meant for a purpose: those that say so, else those that say nothing. ``taken`` has one of its own,
    and from one that leads onward nothing comes in."""
    on_bus = [p for p in ports if p.bus == bus and p.id != taken and not p.onward]
    return [p for p in on_bus if p.purpose == purpose] or [p for p in on_bus if not p.purpose]


def of_the_group(card: InverterCard) -> str:
    """The socket of the link between inverters, empty where there is none."""
    return card.parallel.port if card.parallel else ""


def missing_signals(first: tuple[str, DataPort], second: tuple[str, DataPort], bus: str) -> list[tuple[str, str]]:
    """Signals that one of two sockets, each with its card's title, lacks; a pin that may stay open is not missed."""
    titles = ("", first[0], second[0])
    spare = {p.signal.upper() for _, port in (first, second) for p in port.pins if p.optional}
    found = left_out([p.signal for p in first[1].pins], [p.signal for p in second[1].pins], bus)
    return [(signal, titles[side]) for signal, side in found if signal.upper() not in spare]


def check_gateways(ledger: Ledger) -> None:
    """The cores between an inverter and the gateway or transfer box that it commands."""
    for transfer in ledger.seats.transfers:
        for port in transfer.card.data_ports:
            units = [i for i in ledger.house.whole.seats.inverters if i.thing.feeds == transfer.id]
            for unit in units[:1]:
                _check_gateway(ledger, transfer, port, unit)


def _check_gateway(ledger: Ledger, transfer: TransferSeat, port: DataPort, unit: InverterSeat) -> None:
    card, where = unit.card, f"{unit.id} and {transfer.id}"
    theirs, field = meant_for(card.data_ports, "gateway", port.bus, of_the_group(card)), f"things.{unit.id}.card"
    facts = leads.Sockets(where=where, title=card.title, bus=port.bus, sockets=[p.title for p in theirs], field=field)
    ledger.ask(leads.one_socket, facts)
    if len(theirs) == 1:
        missing = missing_signals((card.title, theirs[0]), (transfer.card.title, port), port.bus)
        ledger.ask(leads.every_signal_has_a_partner, leads.Signals(where=where, missing=missing, field=f"things.{transfer.id}.card"))

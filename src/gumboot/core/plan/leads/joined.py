"""Which core goes from which pin to which?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.card.parts import Bus, DataPort, Pin
from gumboot.core.plan.leads.parts import LeadEnd, Wire
from gumboot.core.plan.links.chain import lead_cores
from gumboot.core.plan.links.sockets import missing_signals
from gumboot.core.rulebook.common.signals import PAIRS, meaning

# Cores of a two-core signal cable, and of one that carries the mains: common practice.
TWO = ("red", "black")
MAINS = {"SENSE L": "brown", "SENSE N": "blue"}


def wires_of(first: LeadEnd, second: LeadEnd, bus: Bus, scheme: str = "T568B") -> tuple[Wire, ...]:
    """The cores between two sockets: pins of like signal, both cores of a signal pair from one twisted pair."""
    pair = {meaning(signal) for signal in PAIRS.get(bus, ())}
    ports = [DataPort(id="x", title=end.socket or "x", bus=bus, pins=list(end.pins)) for end in (first, second)]
    made = lead_cores(ports[0], ports[1], bus, scheme)
    return tuple(
        Wire(
            signal=core.signal, colour=core.colour, first=core.inverter_pin, second=core.battery_pin, is_paired=meaning(core.signal) in pair
        )
        for core in made
    )


def in_colours(wires: Sequence[Wire], colours: Mapping[str, str] | None = None) -> tuple[Wire, ...]:
    """The same cores in the colours of another cable: by signal where that says one, else red and black in turn."""
    by_signal = colours or {}
    return tuple(wire.but(colour=by_signal.get(wire.signal, TWO[n % len(TWO)])) for n, wire in enumerate(wires))


def lacking(first: LeadEnd, second: LeadEnd, bus: Bus) -> tuple[str, ...]:
    """Signals that stand at one end only and may not end there, each with where it stands."""
    ends = [(end.title, DataPort(id="x", title=end.socket or "x", bus=bus, pins=list(end.pins))) for end in (first, second)]
    found = missing_signals(ends[0], ends[1], bus)
    return tuple(f"{signal} at {title}" if title else f"{signal} at neither end" for signal, title in found)


def straight(port: DataPort) -> tuple[Pin, ...]:
    """The contacts of something that has no card: as the socket that it is wired to."""
    return tuple(port.pins)

"""One lead: two ends, and the cores between them."""

from __future__ import annotations

from enum import StrEnum

from gumboot.core.card.parts import DataPort, Pin, Plug
from gumboot.core.figure import Figure
from gumboot.core.values import Values


class LeadKind(StrEnum):
    """What a lead is for."""

    BATTERY = "battery"
    CHAIN = "chain"
    PARALLEL = "parallel"
    METER = "meter"
    CT = "ct"
    GATEWAY = "gateway"
    SHUTDOWN = "shutdown"
    START = "generator start"
    DEMAND = "demand response"
    NETWORK = "network"


class LeadEnd(Values):
    """One end of a lead: the thing, its socket, the contacts of it, and how the cable is made ready.

    ``plug`` and the lengths to strip are None where no card says them; ``is_earthed``: the drain wire goes to earth here; ``under`` is what a
    drawing says of the thing below its name, where that is not its socket.
    """

    place: str
    title: str
    socket: str = ""
    plug: Plug | None = None
    pins: tuple[Pin, ...] = ()
    strip_mm: float | None = None
    sheath_mm: float | None = None
    is_earthed: bool = False
    note: str = ""
    under: str = ""

    @classmethod
    def at(cls, place: str, title: str, port: DataPort) -> LeadEnd:
        """The end in a socket of a card."""
        return cls(
            place=place,
            title=title,
            socket=port.title,
            plug=port.plug,
            pins=tuple(port.pins),
            strip_mm=port.strip_mm,
            sheath_mm=port.sheath_mm,
            is_earthed=port.drain == "to earth here",
            note=port.note,
        )


class Wire(Values):
    """One core: its signal, its colour, the pin at each end, and whether it is one of the twisted pair."""

    signal: str
    colour: str
    first: int
    second: int
    is_paired: bool = False


class Lead(Values):
    """One lead. ``id`` is made of names, so that edits elsewhere never change it.

    ``cable`` is what it is made of; ``wires`` are none where it is ready-made or carries none. ``lacks`` are signals that one end has and the other has not.
    ``first`` is what is done before it goes in, ``figures`` are what it is judged by.
    """

    id: str
    kind: LeadKind
    title: str
    ends: tuple[LeadEnd, LeadEnd]
    cable: str
    wires: tuple[Wire, ...] = ()
    lacks: tuple[str, ...] = ()
    length: Figure | None = None
    first: str = ""
    told: str = ""
    figures: tuple[Figure, ...] = ()

    @property
    def is_rung(self) -> bool:
        """Whether it is rung out pin by pin: the winding of a transformer would beep from core to core, and air does not."""
        return bool(self.wires) and self.kind not in (LeadKind.CT, LeadKind.NETWORK)

    @property
    def is_air(self) -> bool:
        """Whether there is no cable: it goes through the air."""
        return not self.cable

    @property
    def has_screen(self) -> bool:
        """Whether its cable has a screen with a drain wire."""
        return any(end.is_earthed for end in self.ends)

    @property
    def rests(self) -> str:
        """What of the plan a made lead rests on: made for other pins it is another lead."""
        cores = ", ".join(f"{wire.signal} {wire.first}-{wire.second}" for wire in self.wires)
        return f"{self.ends[0].socket or self.ends[0].title} to {self.ends[1].socket or self.ends[1].title}{f': {cores}' if cores else ''}"


class LeadsPlan(Values):
    """All leads, in the order in which they are made."""

    leads: tuple[Lead, ...]

    def of(self, lead: str) -> Lead | None:
        """One lead by its id."""
        return next((each for each in self.leads if each.id == lead), None)

    def of_kind(self, *kinds: LeadKind) -> tuple[Lead, ...]:
        """The leads of some kinds."""
        return tuple(each for each in self.leads if each.kind in kinds)

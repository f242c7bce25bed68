"""What an installation is made of: landing places, cores and circuits."""

from __future__ import annotations

from typing import Literal, NamedTuple

from gumboot.core.card.inverter import AcLeg, Tracker
from gumboot.core.card.parts import Role
from gumboot.core.seats import Converter
from gumboot.core.values import Values

Kind = Literal[
    "pv", "battery", "battery-unit", "interlink", "grid", "through", "output", "backup", "feeder", "main-feeder", "generator", "pv-ac"
]
LINE_ROLES: dict[AcLeg, Role] = {"L1": "line1", "L2": "line2", "L3": "line3"}


class End(NamedTuple):
    """A landing place: a thing, its port and terminal.

    ``way`` tells apart what one port of a card stands for several times: the breakers of a board, each with its own circuit.
    """

    place: str
    port: str
    terminal: str
    way: str = ""


class Core(NamedTuple):
    """One conductor of a circuit: its role and the ends it joins, in order."""

    role: Role
    ends: tuple[End, ...]


class Circuit(NamedTuple):
    """A circuit before it is sized. ``owner`` is the thing whose current it carries."""

    id: str
    title: str
    kind: Kind
    cores: tuple[Core, ...]
    owner: str = ""

    @property
    def source(self) -> str:
        """The thing that it begins at."""
        return self.cores[0].ends[0].place

    @property
    def load(self) -> str:
        """The thing that it ends at."""
        return self.cores[0].ends[-1].place

    @property
    def is_dc(self) -> bool:
        """Whether it carries direct current."""
        return self.kind in ("pv", "battery", "battery-unit", "interlink")

    @property
    def lines(self) -> int:
        """Live AC conductors, the neutral not counted."""
        return sum(core.role.startswith("line") for core in self.cores)

    @property
    def has_earth(self) -> bool:
        """Whether an earth conductor runs with it."""
        return "earth" in [core.role for core in self.cores]


class Input(Values):
    """A PV input with the thing and the card that hold it; ``name`` is how findings and keys call it."""

    place: str
    converter: Converter
    tracker: Tracker
    name: str

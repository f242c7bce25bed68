"""A placed box with its holes, and everything on a wall."""

from __future__ import annotations

from typing import NamedTuple, TypeVar

from gumboot.core.card.parts import Body
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Placement, Wall
from gumboot.core.ledger import Ledger
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rules import Asked, lifting
from gumboot.core.values import Values

F = TypeVar("F")

ONE_PERSON = constant("m_max", "Lift for one person", 27, "kg", "cp.lift")


class At(NamedTuple):
    """One wall of the job while it is worked out. ``path`` is its path in the job.

    ``key`` begins the keys of its own figures: those of the first wall name no wall.
    """

    ledger: Ledger
    wall: Wall
    key: str
    path: str

    @classmethod
    def of(cls, ledger: Ledger, wall: Wall, key: str) -> At:
        """A wall in the ledger of a step."""
        return cls(ledger, wall, key, f"walls.{wall.id}")

    @property
    def room(self) -> str:
        """How findings name its place: the room, or where there are several walls, the wall."""
        return "room" if self.key == "wall" else self.wall.id

    def ask(self, rule: Asked[F], facts: F) -> bool:
        """Ask a rule about this wall."""
        return self.ledger.ask(rule, facts, self.path)

    def asked(self, field: str) -> Figure | None:
        """A measure of the wall that may be unanswered."""
        return self.ledger.asked_of(self.wall, f"{self.path}.{field}")

    def decided(self, field: str) -> Figure:
        """A measure of the wall that is answered, by its path within the wall."""
        return self.ledger.decided(f"{self.path}.{field}")

    def screw(self, field: str) -> Figure:
        """A measure of the lag screws of the wall: of their card, else as it was decided."""
        card = self.ledger.seats.screw
        return self.ledger.read(card, field) if card is not None else self.decided(f"anchor.{field}")

    def placed(self, placement: Placement, field: str) -> Figure:
        """A coordinate of a box on the wall."""
        return self.ledger.decided_of(placement, f"{self.path}.placements.{placement.id}.{field}")


class DrillHole(Values):
    """One hole with its coordinates and how far it is from the middle of a stud."""

    id: str
    box: str
    x_mm: Figure
    y_mm: Figure
    stud_x_mm: float | None
    miss_mm: float
    hits: bool
    carries: bool = True


class Span(Values):
    """The distance between two holes of a box; ``is_diagonal``: neither level nor plumb."""

    first: str
    second: str
    mm: Figure
    is_diagonal: bool


class Box(Values):
    """A placed box with its clearance envelope and screw load."""

    id: str
    title: str
    body: Body
    rect: Rect
    clear: Rect
    holes: tuple[DrillHole, ...]
    mass: Figure
    screw_ratio: Figure | None
    screen: Figure | None
    spans: tuple[Span, ...] = ()
    holds_battery: bool = False
    is_inverter: bool = False

    @property
    def people(self) -> int:
        """How many people lift it, each no more than one person lifts."""
        return lifting.people_for(self.mass, ONE_PERSON)

    @property
    def lifted_by(self) -> str:
        """By whom or what it is lifted, where it is more than one person lifts."""
        return lifting.lifted_by(self.people)

    @property
    def lift_needs_two(self) -> bool:
        """Whether the box is heavier than one person lifts."""
        return self.mass.value > ONE_PERSON.value


class FixingList(Values):
    """What goes into the holes of a wall. ``torque`` is least, asked and most; None where it is turned home and no further.

    ``called`` is what crews call them, ``tip`` what tightens them.
    """

    called: str
    tip: str
    title: str
    bit: Figure
    depth: Figure | None
    embedment: Figure | None
    edge: Figure | None
    spacing: Figure | None
    washer: str
    torque: tuple[Figure, Figure, Figure] | None
    count: Figure


class Growth(Values):
    """Where a further unit of a bank would stand."""

    bank: str
    rect: Rect


class WallPlan(Values):
    """Everything on one wall."""

    id: str
    title: str
    width_mm: float
    height_mm: float
    studs_mm: tuple[float, ...]
    boxes: tuple[Box, ...]
    withdrawal: Figure | None
    pilot: Figure | None = None
    fixings: FixingList | None = None
    growth: tuple[Growth, ...] = ()

"""A placed box with its holes, and everything on a wall."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card.parts import Body
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.wall.shapes import Rect

ONE_PERSON = constant("m_max", "Lift for one person", 27, "kg", "cp.lift")


@dataclass(frozen=True)
class DrillHole:
    """One hole with its coordinates and how far it is from the middle of a stud."""

    id: str
    box: str
    x_mm: Figure
    y_mm: Figure
    stud_x_mm: float | None
    miss_mm: float
    hits: bool
    carries: bool = True


@dataclass(frozen=True, kw_only=True)
class Box:
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
    holds_battery: bool = False
    is_inverter: bool = False

    @property
    def lift_needs_two(self) -> bool:
        """Whether the box is heavier than one person lifts."""
        return self.mass.value > ONE_PERSON.value


@dataclass(frozen=True)
class WallPlan:
    """Everything on the wall."""

    width_mm: float
    height_mm: float
    studs_mm: tuple[float, ...]
    boxes: tuple[Box, ...]
    withdrawal: Figure | None

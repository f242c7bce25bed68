"""What a placement is made of: boxes with their outlines, spots on walls, and what is proposed."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import NamedTuple

from gumboot.core.card.boxes import ScrewCard
from gumboot.core.card.parts import Body
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.job import Job
from gumboot.core.job.wall import Placement
from gumboot.core.plan.wall import Rect


class Piece(NamedTuple):
    """A box that is to be placed: its outline, what it hangs by, and whether it stands on the floor.

    ``low_mm`` and ``high_mm`` bound its lower edge; ``kin`` are the units of its bank, which stand in one row where they can;
    ``screw`` is the card of the lag screws.
    """

    id: str
    title: str
    body: Body
    width_mm: float
    height_mm: float
    on_floor: bool
    low_mm: float
    high_mm: float
    kin: tuple[str, ...] = ()
    screw: ScrewCard | None = None

    @property
    def area_mm2(self) -> float:
        """How much of a wall it covers."""
        return self.width_mm * self.height_mm

    def at(self, x: float, y: float) -> Rect:
        """Its outline with its lower left corner there."""
        return Rect(x, y, self.width_mm, self.height_mm)


class Spot(NamedTuple):
    """A place on a wall: the lower left corner, mm from datum and floor."""

    wall: str
    x_mm: float
    y_mm: float


Spots = Mapping[str, Spot]


class Why(NamedTuple):
    """Why a box stands where it does: on the floor, or by studs; how high its screen is, mm; runs to what they join, m."""

    on_floor: bool
    on_studs: bool
    screen_mm: float | None
    runs_m: float
    joined: tuple[str, ...]


class Worth(NamedTuple):
    """How good a placement is, the less the better: boxes without a place, stops and cautions of the wall's rules, metres of cable, notes."""

    missing: int
    stops: int
    cautions: int
    cable_m: float
    notes: int


class Proposal(NamedTuple):
    """Where everything could hang. ``moved`` are the boxes that would, ``whys`` says of each box why there; ``unmet`` are the rules that
    nothing that was tried could meet, ``homeless`` the boxes that found no free place; ``before`` is None where today's boxes do not all stand.
    """

    job: Job
    spots: Spots
    moved: tuple[str, ...]
    whys: Mapping[str, Why]
    before: Figure | None
    after: Figure
    unmet: tuple[Finding, ...]
    homeless: tuple[str, ...]
    tried: int

    @property
    def shown(self) -> str:
        """What would be where, in one line: by it those places are known again."""
        return "; ".join(f"{box} {spot.wall} {spot.x_mm:g} {spot.y_mm:g}" for box, spot in sorted(self.spots.items()) if box in self.moved)


def with_spots(job: Job, spots: Spots, placed: Collection[str]) -> Job:
    """A job with boxes at these spots. Of what is ``placed`` here, a box without a spot stands nowhere; everything else stays as it is."""
    known = {p.id: p for wall in job.walls for p in wall.placements}
    walls = []
    for wall in job.walls:
        own = [p for p in wall.placements if p.id not in placed]
        for box, spot in spots.items():
            if spot.wall == wall.id:
                at = {"x_mm": spot.x_mm, "y_mm": spot.y_mm}
                own.append(known[box].model_copy(update=at) if box in known else Placement(id=box, **at))
        walls.append(wall.model_copy(update={"placements": own}))
    return job.model_copy(update={"walls": walls})

"""What the station Wall is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.job.wall import Wall
from gumboot.core.plan.derive import derive
from gumboot.core.plan.wall import Box, DrillHole, FixingList
from gumboot.core.rulebook.books import book
from gumboot.core.study.placing import Why
from gumboot.drawing import show
from gumboot.drawing import wall as drawing
from gumboot.drawing.dimensioned import dimensioned
from gumboot.web import studies, urls
from gumboot.web.page_words import free_places
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class DrillRow:
    """A hole of the drill list; the first of a box names it and says what its top fixings bear."""

    box: str
    hole: DrillHole
    miss: str
    used: Figure | None
    tape: str = ""


@dataclass(frozen=True, slots=True)
class Squared:
    """The distances between the holes of a box, as a tape checks them, and the files of its template."""

    box: str
    spans: list[tuple[Figure, str, bool]]
    pdf: str
    dxf: str


@dataclass(frozen=True, slots=True)
class Lift:
    """A box that is too heavy for one."""

    box: str
    mass: Figure
    by: str


@dataclass(frozen=True, slots=True)
class WallPart:
    """One wall: its elevation or what it waits for, its drill list, and the files of it."""

    wall: Wall
    at: str
    heading: str
    is_masonry: bool
    elevation: Markup | None
    waits: list[str]
    drills: list[DrillRow]
    squared: list[Squared]
    has_boxes: bool
    fixing: str
    fixings: FixingList | None
    dimensioned: Markup | None
    goes_in: list[str]
    lifts: list[Lift]
    pilot: Figure | None
    svg: str
    dxf: str
    may_go: bool


@dataclass(frozen=True, slots=True)
class WallView:
    """The station Wall."""

    walls: list[WallPart]
    spaced_by: str
    may_hang: bool


@dataclass(frozen=True, slots=True)
class PlacingView:
    """Where everything could hang, drawn, with the reason of each."""

    moved: tuple[str, ...]
    shown: str
    before: Figure | None
    after: Figure
    tried: int
    drawings: list[Markup]
    whys: list[tuple[str, Why]]
    unmet: tuple[Finding, ...]
    homeless: tuple[str, ...]


def placing_of(b: Bench) -> PlacingView | None:
    """The places that are proposed; None while no wall is measured."""
    found = studies.places(b.plan)
    if found is None:
        return None
    plan = derive(found.job, b.plan.shelf, b.plan)
    return PlacingView(
        moved=found.moved,
        shown=found.shown,
        before=found.before,
        after=found.after,
        tried=found.tried,
        drawings=[drawing.elevation(plan, b.system, wall.id) for wall in plan.walls if wall.boxes] if found.moved else [],
        whys=[(box, found.whys[box]) for box in found.moved],
        unmet=found.unmet,
        homeless=found.homeless,
    )


def _fixing(b: Bench, wall: Wall) -> str:
    """What goes into the holes of a wall's drill list."""
    if wall.surface != "masonry":
        screw = b.plan.seats.screw
        return screw.title if screw is not None else f"{wall.anchor.diameter_mm:g} × {wall.anchor.length_mm:g} mm lag screws"
    card = b.plan.seats.anchor
    if card is None:
        return "the masonry anchor is not chosen"
    return f"{card.title}: {card.hole_mm:g} mm bit, {card.hole_depth_mm:g} mm deep"


def _tape(b: Bench, hole: DrillHole) -> str:
    """Both coordinates as a tape in inches shows them; nothing where a tape shows millimetres, which stand beside."""
    return f"{show.tape(hole.x_mm.value, 'US')}, {show.tape(hole.y_mm.value, 'US')}" if b.system == "US" else ""


def _squared(b: Bench, box: Box) -> Squared:
    spans = [(span.mm, show.tape(span.mm.value, "US") if b.system == "US" else "", span.is_diagonal) for span in box.spans]
    return Squared(box.id, spans, *(urls.download(b.job.id, f"template-{box.id}.{form}") for form in ("pdf", "dxf")))


def _part(b: Bench, number: int, wall: Wall) -> WallPart:
    planned, at, several = b.plan.wall(wall.id), f"walls.{wall.id}", len(b.job.walls) > 1
    boxes = list(planned.boxes) if planned else []
    goes_in = [part for seat in b.plan.seats.inverters for part in seat.card.goes_in_first] if any(x.is_inverter for x in boxes) else []
    file = "wall" if number == 0 else f"wall-{wall.id}"
    return WallPart(
        wall=wall,
        at=at,
        heading=wall.title if several else "",
        is_masonry=wall.surface == "masonry",
        elevation=drawing.elevation(b.plan, b.system, wall.id) if planned else None,
        waits=[gap.question for gap in b.plan.gaps if gap.path.startswith(f"{at}.")],
        drills=[
            DrillRow(x.id if n == 0 else "", hole, b.quantity(hole.miss_mm, "mm"), x.screw_ratio if n == 0 else None, _tape(b, hole))
            for x in boxes
            for n, hole in enumerate(x.holes)
        ],
        squared=[_squared(b, x) for x in boxes if x.holes],
        has_boxes=bool(boxes),
        fixing=_fixing(b, wall),
        fixings=planned.fixings if planned else None,
        dimensioned=dimensioned(planned, b.system).render() if planned and boxes else None,
        goes_in=list(dict.fromkeys(goes_in)),
        lifts=[Lift(x.id, x.mass, x.lifted_by) for x in boxes if x.lift_needs_two],
        pilot=planned.pilot if planned else None,
        svg=urls.download(b.job.id, f"{file}.svg"),
        dxf=urls.download(b.job.id, f"{file}.dxf"),
        may_go=several and not wall.placements,
    )


def view_of(b: Bench) -> WallView:
    """The station as its page needs it."""
    walls = [_part(b, n, wall) for n, wall in enumerate(b.job.walls)]
    return WallView(walls, book(b.job.rule_book).title, bool(free_places(b)))

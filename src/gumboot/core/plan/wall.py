"""Do the boxes fit this wall, where is each hole, and does each screw hold?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card.parts import Body
from gumboot.core.errors import NotInTable
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import Opening, Placement, Run
from gumboot.core.ledger import Ledger
from gumboot.core.plan.anchors import anchor_gaps, anchor_use
from gumboot.core.plan.screws import Screws, screw_use
from gumboot.core.plan.topology import instances
from gumboot.core.rulebook.iec_family.raceway import bend_radius_mm as iec_sweep_mm
from gumboot.core.rulebook.north_american.place import BETWEEN_UNITS_MM, ROOM_LIMIT_WH, UNIT_LIMIT_WH, room_limit_wh, working_depth_mm
from gumboot.core.rulebook.north_american.raceway import bend_radius_mm

EYE_LOW = constant("y_min", "Lowest screen read without stooping", 1300, "mm", "cp.eye")
EYE_HIGH = constant("y_max", "Highest screen read without a stool", 1750, "mm", "cp.eye")
ONE_PERSON = constant("m_max", "Lift for one person", 27, "kg", "cp.lift")


@dataclass(frozen=True)
class Rect:
    """A rectangle on the wall, mm from datum and floor."""

    x: float
    y: float
    w: float
    h: float

    def meets(self, other: Rect) -> bool:
        """Whether two rectangles overlap by more than touching."""
        return self.x < other.x + other.w and other.x < self.x + self.w and self.y < other.y + other.h and other.y < self.y + self.h

    def inside(self, other: Rect) -> bool:
        """Whether this rectangle lies within the other."""
        return other.x <= self.x and other.y <= self.y and self.x + self.w <= other.x + other.w and self.y + self.h <= other.y + other.h

    def gap_to(self, other: Rect) -> float:
        """Shortest distance between the two, 0 when they meet."""
        dx = max(other.x - self.x - self.w, self.x - other.x - other.w, 0.0)
        dy = max(other.y - self.y - self.h, self.y - other.y - other.h, 0.0)
        return float((dx * dx + dy * dy) ** 0.5)


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


@dataclass(frozen=True)
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


def _studs(ledger: Ledger, width_mm: float) -> tuple[float, ...]:
    wall = ledger.job.wall
    if wall.surface == "masonry":
        return ()
    spacing = ledger.asked("wall.stud_spacing_mm", "s", "Stud spacing", "mm", "survey", "Stud spacing?", "Where screws hold")
    first = ledger.asked(
        "wall.stud_first_mm", "x_0", "Middle of the first stud", "mm", "survey", "Where is the first stud?", "Where screws hold"
    )
    if spacing is None or first is None:
        return ()
    count = int((width_mm - first.value) // spacing.value) + 1
    return tuple(first.value + k * spacing.value for k in range(max(0, count)))


def _holes(ledger: Ledger, box: str, body: Body, rect: Rect, studs: tuple[float, ...]) -> tuple[DrillHole, ...]:
    wall, anchor = ledger.job.wall, ledger.job.wall.anchor
    room_mm = wall.stud_width_mm / 2 - 1.5 * anchor.diameter_mm
    px, py = (
        ledger.decided(f"wall.placements.{box}.{a}_mm", s, n, "mm")
        for a, s, n in (("x", "x_b", "Box from datum"), ("y", "y_b", "Box from floor"))
    )
    card_id = ledger.card(instances(ledger)[box]).id
    holes = []
    for hole in body.holes:
        hx = ledger.from_card(card_id, f"hole.{hole.id}.x_mm", "x_h", "Hole from the box's left edge", hole.x_mm, "mm")
        hy = ledger.from_card(card_id, f"hole.{hole.id}.y_mm", "y_h", "Hole from the box's lower edge", hole.y_mm, "mm")
        x = ledger.work(
            f"wall.{box}.{hole.id}.x", "x", f"Hole {hole.id} of {box}, from datum", rect.x + hole.x_mm, "mm", "arith", "x_b + x_h", (px, hx)
        )
        y = ledger.work(
            f"wall.{box}.{hole.id}.y", "y", f"Hole {hole.id} of {box}, from floor", rect.y + hole.y_mm, "mm", "arith", "y_b + y_h", (py, hy)
        )
        nearest = min(studs, key=lambda s: abs(s - x.value), default=None)
        miss = abs(nearest - x.value) if nearest is not None else 0.0
        hits = wall.surface == "masonry" or (nearest is not None and miss <= room_mm + 1e-9)
        holes.append(DrillHole(hole.id, box, x, y, nearest, miss, hits))
    missed = [h for h, spec in zip(holes, body.holes, strict=True) if spec.carries and not h.hits]
    worst = max(missed, key=lambda h: h.miss_mm, default=None)
    if studs and worst is not None:
        side = "left" if worst.x_mm.value > (worst.stud_x_mm or 0) else "right"
        ledger.verdict(
            "WALL-STUD-MISS",
            False,
            box,
            f"{' and '.join(h.id for h in missed)} of {box} stand {worst.miss_mm:.0f} mm off the stud's middle; {room_mm:.0f} mm is the most that leaves edge distance.",
            f"Slide {box} {worst.miss_mm:.0f} mm {side}, or add a noggin.",
            found=worst.x_mm,
            field=f"wall.placements.{box}.x_mm",
        )
    return tuple(holes)


def _screws(ledger: Ledger, box: str, body: Body, holes: tuple[DrillHole, ...], mass: Figure) -> Figure | None:
    wall = ledger.job.wall
    carrying = [h for h, spec in zip(holes, body.holes, strict=True) if h.hits and spec.carries]
    card = ledger.card(instances(ledger)[box])
    # A floor-standing stack leans on its brackets only; its weight goes into the floor.
    if not carrying or getattr(card, "floor_standing", False):
        return None
    masonry = wall.surface == "masonry"
    if masonry and (wall.masonry is None or not ledger.has("anchor")):
        return None
    top_y = max(h.y_mm.value for h in carrying)
    top = [h for h in carrying if h.y_mm.value > top_y - 1]
    depth = ledger.read(card, "body.depth_mm", "d", "Depth of the box", "mm")
    what = "Anchors" if masonry else "Screws in timber"
    n_all = ledger.work(f"wall.{box}.n_all", "n", what, float(len(carrying)), "", "arith")
    n_top = ledger.work(f"wall.{box}.n_top", "n_t", f"{what.split(' ', maxsplit=1)[0]} in the top row", float(len(top)), "", "arith")
    if masonry:
        return anchor_use(ledger, box, body, n_all, n_top, mass, depth)
    arm = ledger.work(
        f"wall.{box}.arm", "h", "Top row above the box's lower edge", max(h.y_mm for h in body.holes if h.carries), "mm", "arith"
    )
    gravity = ledger.decided("wall.timber_gravity", "G", "Specific gravity of the stud", "")
    diameter = ledger.decided("wall.anchor.diameter_mm", "D", "Screw diameter", "mm")
    length = ledger.decided("wall.anchor.length_mm", "L", "Screw length", "mm")
    lateral = ledger.decided("wall.anchor.lateral_allowable_n", "Z", "Allowable shear of one screw", "N")
    board = wall.board.thickness_mm if wall.board else 0.0
    through = ledger.work("wall.through", "b", "Backing board and 3 mm bracket", board + 3.0, "mm", "arith")
    ratio = screw_use(ledger, "wall", f"wall.{box}", Screws(mass, depth, arm, n_all, n_top, gravity, diameter, length, through, lateral))
    ledger.verdict(
        "WALL-ANCHOR-OVER",
        ratio is not None and ratio.value <= 1,
        box,
        f"The top screws of {box} are used to {100 * ratio.value:.0f} %." if ratio else "The screw does not reach the stud.",
        "Use more or thicker screws." if ratio else "Use a longer screw.",
        found=ratio,
        field="wall.anchor.diameter_mm" if ratio else "wall.anchor.length_mm",
    )
    return ratio


def _unit_energy(ledger: Ledger) -> None:
    """Energy of one unit: a wall battery alone, or all modules that stand in one stack or cabinet."""
    card, units = ledger.card("battery"), ledger.figures["bank.units"]
    one = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
    together = card.arrangement in ("stack", "docked")
    unit = (
        ledger.work("wall.unit_energy", "E_u", "Energy of one unit", units.value * one.value, "Wh", "arith", "n * E_1", (units, one))
        if together
        else ledger.work("wall.unit_energy", "E_u", "Energy of one unit", one.value, "Wh", "arith", "E_1", (one,))
    )
    limit = ledger.keep(constant("E_umax", "Most energy of one unit", UNIT_LIMIT_WH, "Wh", "nfpa.855"))
    ledger.verdict(
        "PLACE-UNIT",
        unit.value <= limit.value,
        "battery",
        f"One unit holds {unit.value / 1000:.1f} kWh; {limit.value / 1000:.0f} kWh is the most for a unit at a dwelling.",
        "Take smaller units, apart from one another as their listing says.",
        found=unit,
        limit=limit,
        field="equipment.battery",
    )


def _check_place(ledger: Ledger, box: Box, others: list[Box], width: float, height: float) -> None:
    wall, field = ledger.job.wall, f"wall.placements.{box.id}.x_mm"
    for other in others:
        if not box.clear.meets(other.rect):
            continue
        ledger.verdict(
            "WALL-CLEARANCE",
            False,
            f"{box.id} and {other.id}",
            f"{other.title} stands within the clearance of {box.title}.",
            "Move one of them apart.",
            field=field,
        )
    for opening in wall.openings:
        rect = Rect(opening.x_mm, opening.y_mm, opening.width_mm, opening.height_mm)
        ledger.verdict(
            "WALL-CLEARANCE",
            not box.clear.meets(rect),
            f"{box.id} and {opening.id}",
            f"{opening.title} lies within the clearance of {box.title}.",
            "Move the box.",
            field=field,
        )
        if box.holds_battery:
            _check_opening(ledger, box, opening, rect, field)
    ledger.verdict(
        "WALL-CLEARANCE",
        box.clear.inside(Rect(0, 0, width, height)),
        f"{box.id} and the wall's edge",
        f"{box.title} has no clearance to the edge, floor or ceiling.",
        "Move the box.",
        field=field,
    )
    if wall.surface in ("timber cladding", "plasterboard"):
        board = wall.board
        behind = (
            board is not None
            and board.material == "cement board"
            and box.rect.inside(Rect(board.x_mm, board.y_mm, board.width_mm, board.height_mm))
        )
        ledger.verdict(
            "WALL-COMBUSTIBLE",
            behind or wall.surface == "plasterboard",
            box.id,
            f"{box.title} stands on {wall.surface} without cement board behind all of it.",
            "Put cement board behind the whole box.",
            field="wall.board.width_mm" if board else "wall.board",
        )
    if box.screen is not None:
        ledger.verdict(
            "WALL-EYE",
            EYE_LOW.value <= box.screen.value <= EYE_HIGH.value,
            box.id,
            f"The screen is {box.screen.value:.0f} mm above the floor.",
            "Put it between 1300 and 1750 mm.",
            found=box.screen,
            limit=EYE_HIGH,
            field=f"wall.placements.{box.id}.y_mm",
        )


def _check_opening(ledger: Ledger, box: Box, opening: Opening, rect: Rect, field: str) -> None:
    """Distance of a battery from doors, windows and appliances, and from exits, by the rule book."""
    book = ledger.book
    exit_way = opening.kind == "exit"
    if not exit_way and opening.kind not in ("door", "window", "appliance"):
        return
    least = ledger.keep(
        constant(
            "d_exit" if exit_way else "d_open",
            f"Battery from {'exits' if exit_way else 'openings and appliances'} at least",
            book.exit_mm if exit_way else book.opening_mm,
            "mm",
            book.opening_source,
        )
    )
    gap = ledger.work(
        f"wall.{box.id}.{opening.id}.gap",
        "d",
        f"{box.id} to {opening.title}",
        box.rect.gap_to(rect),
        "mm",
        "arith",
        limits="Shortest distance between the two outlines.",
    )
    ledger.verdict(
        "PLACE-EXIT" if exit_way else "PLACE-OPENING",
        gap.value >= least.value - 0.5,
        f"{box.id} and {opening.id}",
        f"{box.title} is {gap.value:.0f} mm from {opening.title}; {least.value:.0f} mm is asked.",
        "Move the battery away from it.",
        found=gap,
        limit=least,
        field=field,
    )


def _check_spacing(ledger: Ledger, boxes: list[Box]) -> None:
    """Units of the bank from each other: the fire-tested spacing of the card, else that of NFPA 855."""
    if ledger.book.family != "nec":
        return
    units, card = [b for b in boxes if b.holds_battery and b.id != "inverter"], ledger.card("battery")
    if len(units) < 2:
        return
    limit = (
        ledger.read(card, "spacing_mm", "d_s", "Spacing that the battery's fire test allows", "mm")
        if card.spacing_mm is not None
        else ledger.keep(constant("d_s", "Batteries apart at least", BETWEEN_UNITS_MM, "mm", "nfpa.855"))
    )
    pairs = [(a.rect.gap_to(b.rect), a, b) for i, a in enumerate(units) for b in units[i + 1 :]]
    nearest, a, b = min(pairs, key=lambda p: p[0])
    gap = ledger.work("wall.spacing", "d", f"{a.id} to {b.id}, the nearest two batteries", nearest, "mm", "arith")
    ledger.verdict(
        "PLACE-SPACING",
        gap.value >= limit.value - 0.5,
        f"{a.id} and {b.id}",
        f"{a.id} and {b.id} stand {gap.value:.0f} mm apart; {limit.value:.0f} mm is asked.",
        "Move them apart, or choose a battery whose fire test allows less.",
        found=gap,
        limit=limit,
        field=f"wall.placements.{b.id}.x_mm",
    )


def _check_room(ledger: Ledger) -> None:
    wall, card, book = ledger.job.wall, ledger.card("battery"), ledger.book
    ledger.verdict(
        "PLACE-ROOM",
        wall.room != "habitable room",
        "room",
        "A habitable room is no place for the bank.",
        "Choose a garage, utility room, or outside.",
        field="wall.room",
    )
    ledger.verdict(
        "PLACE-BARRIER",
        not wall.habitable_behind or wall.barrier,
        "room",
        "A habitable room lies behind this wall, and no non-combustible barrier stands between.",
        "Put a non-combustible barrier behind and around the battery as the book asks, or choose another wall.",
        field="wall.barrier",
    )
    if book.room_limits and wall.room in ROOM_LIMIT_WH:
        units = ledger.figures["bank.units"]
        one = ledger.read(card, "energy_wh", "E_1", "Energy of one battery", "Wh")
        total = ledger.work("wall.energy", "E", "Energy standing here", units.value * one.value, "Wh", "arith", "n * E_1", (units, one))
        limit = ledger.keep(constant("E_max", f"Most energy in a {wall.room}", room_limit_wh(wall.room), "Wh", book.room_limits))
        ledger.verdict(
            "PLACE-ENERGY",
            total.value <= limit.value,
            "room",
            f"{total.value / 1000:.1f} kWh stand here; {limit.value / 1000:.0f} kWh is the most.",
            "Share the bank between places.",
            found=total,
            limit=limit,
        )
    if book.room_limits:
        _unit_energy(ledger)
    depth = ledger.asked(
        "wall.free_depth_mm", "d", "Free floor in front", "mm", "survey", "Free floor in front of the wall?", "Working space"
    )
    if depth:
        limit = _working_depth(ledger)
        ledger.verdict(
            "WALL-WORKING-SPACE",
            depth.value >= limit.value - 1e-6,
            "room",
            f"{depth.value:.0f} mm are free in front; {limit.value:.0f} mm are asked.",
            "Choose another wall.",
            found=depth,
            limit=limit,
            field="wall.free_depth_mm",
        )


def _working_depth(ledger: Ledger) -> Figure:
    """Free depth in front of equipment, by the rule book; NEC by voltage to ground and by what faces it."""
    book, wall = ledger.book, ledger.job.wall
    if book.family == "nec":
        volts = ledger.read(ledger.card("inverter"), "leg_v", "V_g", "Voltage to ground", "V")
        return ledger.work(
            "wall.working_depth",
            "d_min",
            "Working space in front",
            working_depth_mm(volts.value, wall.condition),
            "mm",
            "nec.110.26",
            given=(volts,),
            limits=f"Condition {wall.condition}; 762 mm wide or as wide as the equipment, 1.98 m high.",
        )
    return ledger.keep(constant("d_min", "Working space in front", book.working_mm, "mm", book.working_source))


def _sweep_mm(run: Run) -> float | None:
    """Room that the sweep of a run's conduit takes below a box; None without a round conduit, or for a size no table holds."""
    if not run.raceway_size or run.raceway in (None, "wireway", "trunking"):
        return None
    try:
        return iec_sweep_mm(float(run.raceway_size)) if run.raceway == "conduit" else bend_radius_mm(run.raceway_size)
    except (NotInTable, ValueError):
        return None


def _check_sweeps(ledger: Ledger, boxes: list[Box]) -> None:
    """Whether the widest conduit that comes into the inverter from below has room to sweep there."""
    box = next((b for b in boxes if b.id == "inverter"), None)
    if box is None or (ledger.card("inverter").bank_internal and box.rect.y == 0):
        # A cabinet that stands on the floor with its batteries inside is entered from the side or the top.
        return
    sweeps = [(sweep, run) for run in ledger.job.runs if (sweep := _sweep_mm(run)) is not None]
    if not sweeps:
        return
    most, run = max(sweeps, key=lambda pair: pair[0])
    under = [
        b.rect.y + b.rect.h
        for b in boxes
        if b is not box and b.rect.x < box.rect.x + box.rect.w and box.rect.x < b.rect.x + b.rect.w and b.rect.y < box.rect.y
    ]
    need = ledger.work(
        "wall.sweep_mm",
        "r_b",
        f"Radius of the bend of {run.raceway} {run.raceway_size}, {run.id}",
        most,
        "mm",
        "nec.ch9t2" if ledger.book.family == "nec" else "cp.bend",
    )
    room = ledger.work(
        "wall.sweep_room",
        "h_b",
        "Room below the inverter",
        box.rect.y - max(under, default=0.0),
        "mm",
        "arith",
        limits="To the floor, or to the top of the box beneath.",
    )
    ledger.verdict(
        "WALL-SWEEP",
        room.value >= need.value - 1e-9,
        "inverter",
        f"The conduit of {run.id} sweeps in {need.value:.0f} mm; {room.value:.0f} mm are free below the inverter.",
        "Raise the inverter, move what stands beneath it, or use a box with an angled entry.",
        found=room,
        limit=need,
        field="wall.placements.inverter.y_mm",
    )


def _standing_units(ledger: Ledger) -> list[str]:
    """Units of the bank that stand by themselves: each battery, or the stack or bank as one."""
    card, units = ledger.card("battery"), ledger.job.bank.units
    if card.arrangement == "docked" or ledger.card("inverter").bank_internal:
        return []
    return [u.id for u in units] if card.arrangement == "parallel" else [units[0].id]


def _outline(ledger: Ledger, place: str, body: Body) -> tuple[float, float]:
    """Width and height in mm of a box: a stack grows upward, blocks in series stand side by side."""
    card, count = ledger.card(instances(ledger)[place]), len(ledger.job.bank.units)
    if card.kind != "battery":
        return body.width_mm, body.height_mm
    if card.arrangement == "blocks":
        return body.width_mm * count, body.height_mm
    return body.width_mm, body.height_mm + (count - 1) * card.stack_pitch_mm if card.arrangement == "stack" else body.height_mm


def _box(ledger: Ledger, placement: Placement, studs: tuple[float, ...]) -> Box:
    card = ledger.card(instances(ledger)[placement.id])
    body: Body = card.body
    rect = Rect(placement.x_mm, placement.y_mm, *_outline(ledger, placement.id, body))
    clear = Rect(
        rect.x - body.clear_left_mm,
        rect.y - body.clear_below_mm,
        rect.w + body.clear_left_mm + body.clear_right_mm,
        rect.h + body.clear_above_mm + body.clear_below_mm,
    )
    mass = ledger.read(card, "body.mass_kg", "m", f"Weight of {card.title}", "kg")
    holes = _holes(ledger, placement.id, body, rect, studs)
    screen = None
    if body.screen_up_mm is not None:
        y = ledger.decided(f"wall.placements.{placement.id}.y_mm", "y_b", "Box from floor", "mm")
        up = ledger.read(card, "body.screen_up_mm", "y_s", "Screen above the box's lower edge", "mm")
        screen = ledger.work(
            f"wall.{placement.id}.screen", "y", "Screen above floor", y.value + up.value, "mm", "arith", "y_b + y_s", (y, up)
        )
    holds = card.kind == "battery" or (placement.id == "inverter" and card.bank_internal)
    ratio = _screws(ledger, placement.id, body, holes, mass)
    return Box(placement.id, card.title, body, rect, clear, holes, mass, ratio, screen, holds)


def plan_wall(ledger: Ledger) -> WallPlan | None:
    """Work out the Wall station; None until the wall is measured."""
    wall = ledger.job.wall
    width = ledger.asked("wall.width_mm", "W", "Wall width", "mm", "survey", "Width of the wall?", "The elevation")
    height = ledger.asked("wall.height_mm", "H", "Wall height", "mm", "survey", "Height of the wall?", "The elevation")
    if wall.surface is None:
        ledger.gap("wall.surface", "survey", "What is the wall made of?", "Backing board and anchors")
    _check_room(ledger)
    if width is None or height is None or wall.surface is None:
        return None
    if wall.surface == "masonry":
        anchor_gaps(ledger)
    studs = _studs(ledger, width.value)
    places = instances(ledger)
    boxes = [_box(ledger, p, studs) for p in wall.placements if p.id in places and ledger.card(places[p.id]).kind != "generator"]
    for box in boxes:
        _check_place(ledger, box, [b for b in boxes if b is not box], width.value, height.value)
    _check_spacing(ledger, boxes)
    _check_sweeps(ledger, boxes)
    for title, mass in {b.title: b.mass for b in boxes}.items():
        ledger.verdict(
            "LIFT-TWO",
            mass.value <= ONE_PERSON.value,
            title,
            f"{title} weighs {mass.value:g} kg: more than one person lifts.",
            "Two people or a lift table; hook 50 mm above the bracket and lower until seated.",
            found=mass,
            limit=ONE_PERSON,
        )
    for needed in ("inverter", "sub-board", *_standing_units(ledger)):
        if needed not in {b.id for b in boxes}:
            ledger.gap("wall.placements", "wall", f"Where does {needed} stand?", "Holes and clearances")
    return WallPlan(width.value, height.value, studs, tuple(boxes), ledger.figures.get("wall.pull_allowable"))

"""Do the screws or anchors of a box hold it?"""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.card.boxes import AnchorBase, AnchorCard
from gumboot.core.card.parts import Body
from gumboot.core.expression import largest, least, named
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.wall.parts import At, DrillHole
from gumboot.core.rules import wall as rules
from gumboot.core.units import MM_PER_INCH, NEWTON_PER_LBF, STANDARD_GRAVITY_M_PER_S2
from gumboot.core.workbook import Workbook

BRACKET_MM = 3.0
# A box hangs there for ever: load duration factor for permanent load (NDS 2.3.2, Table 2.3.2).
PERMANENT = constant("C_D", "Load duration factor, permanent load", 0.9, "", "nds.2.3.2", limits="Ten years of load would be 1.")
GRAVITY = constant("g_n", "Standard gravity", STANDARD_GRAVITY_M_PER_S2, "m/s2", "physics")
BY_EDGE = "Weight acts at half the depth; the box turns about its lower edge."


class Hung(NamedTuple):
    """A box as its fixings feel it."""

    mass: Figure
    depth: Figure
    arm: Figure
    n_all: Figure
    n_top: Figure


class Screws(NamedTuple):
    """Screws in timber, and what they go through before it."""

    gravity: Figure
    diameter: Figure
    length: Figure
    through: Figure
    lateral: Figure


def withdrawal_n_per_mm(gravity: float, diameter_mm: float) -> float:
    """Reference withdrawal of a lag screw in N per mm of thread, from W = 1800 G^1.5 D^0.75 lbf/in (NDS 12.2-1)."""
    pounds_per_inch = 1800.0 * gravity**1.5 * (diameter_mm / MM_PER_INCH) ** 0.75
    return float(pounds_per_inch * NEWTON_PER_LBF / MM_PER_INCH)


def loads(w: Workbook, key: str, hung: Hung, fixing: str) -> tuple[Figure, Figure]:
    """Shear on each fixing and pull on each top one, N."""
    weight = hung.mass * GRAVITY
    shear = w.work(f"{key}.shear", "V", f"Shear on each {fixing}", weight / hung.n_all, "N", source="physics")
    turned = weight * hung.depth / 2 / hung.arm / hung.n_top
    return shear, w.work(f"{key}.pull", "T", f"Pull on each top {fixing}", turned, "N", source="physics", limits=BY_EDGE)


def screw_use(w: Workbook, shared: str, box: str, hung: Hung, s: Screws) -> Figure | None:
    """Use of the top screws, 1 at most; None when the screw does not reach the timber. ``shared`` and ``box`` prefix the figures' keys."""
    shear, pull = loads(w, box, hung, "screw")
    allow = w.figures.get(f"{shared}.pull_allowable") or _pull_allowable(w, shared, s)
    if allow.value <= 0:
        return None
    used = shear / (s.lateral * PERMANENT) + pull / allow
    holds = "Linear sum of shear and pull-out: the safe side of the interaction. 1 is full use."
    return w.work(f"{box}.ratio", "u", "Use of the top screws", used, "", source="nds.12.2", limits=holds)


def _pull_allowable(w: Workbook, shared: str, s: Screws) -> Figure:
    """What one screw of a wall may be pulled with, N: the same for every box on it."""
    by_nds = named(
        "1800 {0}^1.5 ({1} / 25.4)^0.75 lbf/in, in N/mm", withdrawal_n_per_mm(s.gravity.value, s.diameter.value), s.gravity, s.diameter
    )
    unit = w.work(f"{shared}.withdrawal", "w", "Withdrawal per mm of thread", by_nds, "N/mm", source="nds.12.2")
    reach = largest(0.0, least(s.length / 2 + 12.7, s.length - s.through))
    thread = w.work(f"{shared}.thread", "t", "Thread in the stud", reach, "mm", source="asme.b18")
    held, dry = unit * thread * PERMANENT, "Dry timber, permanent load."
    return w.work(f"{shared}.pull_allowable", "W", "Allowable pull-out of one screw", held, "N", source="nds.12.2", limits=dry)


def _through(at: At, name: str) -> Figure:
    board = at.wall.board
    thickness = (board.thickness_mm if board else 0.0) + BRACKET_MM
    return at.ledger.work(f"{at.key}.{name}", "b", "Backing board and 3 mm bracket", thickness, "mm", source="arith")


def _in_timber(at: At, box: str, hung: Hung) -> Figure | None:
    screws = Screws(
        gravity=at.decided("timber_gravity"),
        diameter=at.screw("diameter_mm"),
        length=at.screw("length_mm"),
        lateral=at.screw("lateral_allowable_n"),
        through=_through(at, "through"),
    )
    used = screw_use(at.ledger, at.key, f"wall.{box}", hung, screws)
    facts = rules.Held(box=box, used=used)
    carded = at.ledger.seats.screw is not None
    at.ask(rules.screws_hold, facts.but(field="equipment.screw", short="equipment.screw") if carded else facts)
    return used


def anchor_gaps(at: At) -> None:
    """Ask for what a masonry wall needs before anything on it can be judged."""
    ledger = at.ledger
    if at.wall.masonry is None:
        ledger.gap(
            f"{at.path}.masonry", "survey", "What is the masonry: concrete, solid units or hollow units?", "Whether anchors hold in it"
        )
    if ledger.seats.anchor is None:
        ledger.gap("equipment.anchor", "survey", "Which masonry anchor holds the boxes?", "Whether the wall carries them")


def _deep_enough(at: At, box: str, card: AnchorCard) -> bool:
    through, ledger = _through(at, "anchor_through"), at.ledger
    reached = ledger.read(card, "length_mm") - through - at.decided("render_mm")
    depth = ledger.work(f"{at.key}.anchor_embedment", "h", "Embedment reached", reached, "mm", source="arith")
    return at.ask(rules.long_enough, rules.Embedded(box=box, reached=depth, wanted=ledger.read(card, "embedment_mm")))


def _in_masonry(at: At, box: str, hung: Hung, card: AnchorCard) -> Figure | None:
    """Use of the top anchors of one box; None while it cannot be judged or the anchor is of no use here."""
    masonry, ledger = at.wall.masonry or "", at.ledger
    base: AnchorBase | None = next((b for b in card.bases if b.base == masonry), None)
    based = at.ask(rules.rated_for_masonry, rules.Based(box=box, anchor=card.title, masonry=masonry, given=base is not None))
    deep = _deep_enough(at, box, card)
    if base is None or not based or not deep:
        return None
    values = f"bases.{base.base}"
    shear, pull = loads(ledger, f"wall.{box}", hung, "anchor")
    used = shear / ledger.read(card, f"{values}.shear_n") + pull / ledger.read(card, f"{values}.pull_n")
    holds = "Linear sum: the safe side of the interaction. Edge distance and spacing by the anchor's maker."
    ratio = ledger.work(f"wall.{box}.ratio", "u", "Use of the top anchors", used, "", source="cp.anchor", limits=holds)
    at.ask(rules.anchors_hold, rules.Held(box=box, used=ratio, base=base.base))
    return ratio


def fixing_of(at: At, box: str, body: Body, holes: tuple[DrillHole, ...], mass: Figure) -> Figure | None:
    """Use of the top fixings of a box; None where nothing carries, or while it cannot be judged."""
    ledger = at.ledger
    carrying = [h for h in holes if h.hits and h.carries]
    card, wall, anchor = ledger.house.card_at(box), at.wall, ledger.seats.anchor
    # A floor-standing stack leans on its brackets only; its weight goes into the floor.
    if not carrying or (card.kind == "battery" and card.floor_standing):
        return None
    masonry = wall.surface == "masonry"
    if masonry and (wall.masonry is None or anchor is None):
        return None
    heights = [h.y_mm.value for h in carrying]
    top = len([y for y in heights if y > max(heights) - 1])
    what, key = "Anchors" if masonry else "Screws in timber", f"wall.{box}"
    arm = max([h.y_mm for h in body.holes if h.carries])
    hung = Hung(
        mass=mass,
        depth=ledger.read(card, "body.depth_mm"),
        arm=ledger.work(f"{key}.arm", "h_t", "Top row above the box's lower edge", arm, "mm", source="arith"),
        n_all=ledger.work(f"{key}.n_all", "n", what, float(len(carrying)), "", source="arith"),
        n_top=ledger.work(f"{key}.n_top", "n_t", f"{what.split(' ', maxsplit=1)[0]} in the top row", float(top), "", source="arith"),
    )
    if masonry and anchor is not None:
        return _in_masonry(at, box, hung, anchor)
    return _in_timber(at, box, hung)

"""Does this box hang and stand well: on studs or anchors that bear it, with its clearances, at eye level, within reach of its conduits?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

HAIR = 1e-9


class Missed(Facts):
    """Carrying holes of a box that miss the studs, the worst first; none where all hit or there are no studs to hit."""

    box: str
    holes: Sequence[str]
    worst: Figure | None
    off_mm: float
    room_mm: float
    side: str


class Beside(Facts):
    """A box with something within its clearance: another box, an opening, or the wall's edge."""

    box: str
    title: str
    other: str
    other_title: str
    kind: str
    clear: bool


@rule("WALL-STUD-MISS")
def hits_studs(m: Missed) -> Breach | None:
    """Every carrying hole stands on a stud with edge distance."""
    if not m.holes:
        return None
    text = (
        f"{' and '.join(m.holes)} of {m.box} stand {m.off_mm:.0f} mm off the stud's middle; "
        f"{m.room_mm:.0f} mm is the most that leaves edge distance."
    )
    act = f"Slide {m.box} {m.off_mm:.0f} mm {m.side}, or add a noggin."
    return Breach(m.box, text, act, m.worst, field=f".placements.{m.box}.x_mm")


@rule("WALL-CLEARANCE")
def clearances(b: Beside) -> Breach | None:
    """Nothing stands within the clearance of a box."""
    if b.clear:
        return None
    field, where = f".placements.{b.box}.x_mm", f"{b.box} and {b.other}"
    if b.kind == "edge":
        return Breach(where, f"{b.title} has no clearance to the edge, floor or ceiling.", "Move the box.", field=field)
    stands = "stands" if b.kind == "box" else "lies"
    act = "Move one of them apart." if b.kind == "box" else "Move the box."
    return Breach(where, f"{b.other_title} {stands} within the clearance of {b.title}.", act, field=field)


class Backed(Facts):
    """A box on a surface, and whether cement board stands behind all of it."""

    box: str
    title: str
    surface: str
    covered: bool
    has_board: bool


@rule("WALL-COMBUSTIBLE")
def board_behind(b: Backed) -> Breach | None:
    """On a timber surface cement board stands behind the whole box."""
    if b.surface != "timber cladding" or b.covered:
        return None
    text = f"{b.title} stands on {b.surface} without cement board behind all of it."
    field = ".board.width_mm" if b.has_board else ".board"
    return Breach(b.box, text, "Put cement board behind the whole box.", field=field)


class Screen(Facts):
    """Height of a screen between the lowest and the highest that is read standing."""

    box: str
    height: Figure
    low: Figure
    high: Figure


@rule("WALL-EYE")
def eye_level(s: Screen) -> Breach | None:
    """A screen is read without stooping and without a stool."""
    if s.low.value <= s.height.value <= s.high.value:
        return None
    text = f"The screen is {s.height.value:.0f} mm above the floor."
    act = f"Put it between {s.low.value:.0f} and {s.high.value:.0f} mm."
    return Breach(s.box, text, act, s.height, s.high, f".placements.{s.box}.y_mm")


class Held(Facts):
    """How far the top fixings of a box are used; None where they do not reach what bears. ``base`` is the kind of masonry,
    ``field`` where another thickness is chosen, ``short`` where another length is.
    """

    box: str
    used: Figure | None
    base: str = ""
    field: str = ".anchor.diameter_mm"
    short: str = ".anchor.length_mm"


@rule("WALL-ANCHOR-OVER")
def screws_hold(h: Held) -> Breach | None:
    """The top screws reach the timber and are used to no more than all they bear."""
    if h.used is None:
        return Breach(h.box, "The screw does not reach the stud.", "Use a longer screw.", field=h.short)
    if h.used.value <= 1:
        return None
    text = f"The top screws of {h.box} are used to {100 * h.used.value:.0f} %."
    return Breach(h.box, text, "Use more or thicker screws.", h.used, field=h.field)


@rule("WALL-ANCHOR-MASONRY")
def anchors_hold(h: Held) -> Breach | None:
    """The top anchors are used to no more than they bear in this masonry."""
    if h.used is None or h.used.value <= 1 + HAIR:
        return None
    text = f"The top anchors of {h.box} are used to {100 * h.used.value:.0f} % of what they bear in {h.base}."
    return Breach(h.box, text, "Use more or larger anchors, or a rail that spreads the load.", h.used, field="equipment.anchor")


class Based(Facts):
    """Whether an anchor's card gives values for a kind of masonry."""

    box: str
    anchor: str
    masonry: str
    given: bool


@rule("WALL-ANCHOR-BASE")
def rated_for_masonry(b: Based) -> Breach | None:
    """The anchor's card gives values for what the wall is made of."""
    if b.given:
        return None
    text = f"The card of {b.anchor} gives no values for {b.masonry}."
    return Breach(b.box, text, "Choose an anchor that its maker rates for this masonry.", field="equipment.anchor")


class Embedded(Facts):
    """Embedment reached against the one that an anchor's values hold for."""

    box: str
    reached: Figure
    wanted: Figure


@rule("WALL-ANCHOR-SHORT")
def long_enough(e: Embedded) -> Breach | None:
    """The anchor reaches deep enough into what bears."""
    if e.reached.value >= e.wanted.value - HAIR:
        return None
    text = f"The anchor reaches {e.reached.value:.0f} mm into what bears; its values hold from {e.wanted.value:g} mm."
    return Breach(e.box, text, "Choose a longer anchor.", e.reached, e.wanted, "equipment.anchor")


class Space(Facts):
    """Free depth in front of the equipment against the working space asked."""

    free: Figure
    asked: Figure
    where: str = "room"


@rule("WALL-WORKING-SPACE")
def room_to_work(s: Space) -> Breach | None:
    """There is room to work in front of the equipment."""
    if s.free.value >= s.asked.value - 1e-6:
        return None
    text = f"{s.free.value:.0f} mm are free in front; {s.asked.value:.0f} mm are asked."
    return Breach(s.where, text, "Choose another wall.", s.free, s.asked, ".free_depth_mm")


class Sweep(Facts):
    """Room at the side where conduits come into a box against the radius of the widest bend; ``side`` is usual where the freest is taken."""

    box: str
    run: str
    room: Figure
    need: Figure
    side: str = "below"


@rule("WALL-SWEEP")
def conduit_sweeps(s: Sweep) -> Breach | None:
    """The widest conduit that comes in has room to sweep: at the side that is decided, below an inverter, at some side of another box."""
    if s.room.value >= s.need.value - HAIR:
        return None
    free = (
        f"the most that is free at any side of {s.box}" if s.side == "usual" else f"free {s.side} of {s.box}".replace("below of", "below")
    )
    text = f"The conduit of {s.run} sweeps in {s.need.value:.0f} mm; {s.room.value:.0f} mm are {free.replace('above of', 'above')}."
    act = "Move it apart from its neighbours and the edges, let the conduit come in from another side, or use a box with an angled entry."
    if s.side == "below":
        act = "Hang it higher, move what stands beneath it, let the conduit come in from another side, or use a box with an angled entry."
    return Breach(s.box, text, act, s.room, s.need, f".placements.{s.box}.y_mm")

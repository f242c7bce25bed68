"""May a battery stand here: in this room, of this energy, this far from doors, exits and its neighbours?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

# Half a millimetre: what a tape is read to.
TAPE_MM = 0.5


# Where no battery stands, with the words for it.
NEVER = {
    "habitable room": "A habitable room",
    "loft": "A loft",
    "under a stair": "The space under a stair",
    "escape route": "An escape route",
}


class Room(Facts):
    """The room, what lies behind the wall, and whether a barrier stands between."""

    room: str
    habitable_behind: bool
    barrier: bool
    where: str = "room"


@rule("PLACE-ROOM")
def not_habitable(r: Room) -> Breach | None:
    """No battery stands in a habitable room, a loft, under a stair or on a way of escape."""
    if r.room not in NEVER:
        return None
    text = f"{NEVER[r.room]} is no place for the bank."
    return Breach(r.where, text, "Choose a garage, utility room, or outside.", field=".room")


@rule("PLACE-BARRIER")
def barrier_between(r: Room) -> Breach | None:
    """A non-combustible barrier stands between the battery and a habitable room behind its wall."""
    if not r.habitable_behind or r.barrier:
        return None
    text = "A habitable room lies behind this wall, and no non-combustible barrier stands between."
    act = "Put a non-combustible barrier behind and around the battery as the book asks, or choose another wall."
    return Breach(r.where, text, act, field=".barrier")


class Reach(Facts):
    """How far a barrier reaches beyond a battery, beside it and above it, against what the book asks; ``side`` says which."""

    box: str
    title: str
    side: str
    reach: Figure
    least: Figure
    has_board: bool = True


@rule("PLACE-BARRIER-REACH")
def barrier_reaches(r: Reach) -> Breach | None:
    """The barrier towards a habitable room reaches beyond the battery as the book asks."""
    if r.reach.value >= r.least.value - TAPE_MM:
        return None
    text = f"The barrier reaches {max(0.0, r.reach.value):.0f} mm {r.side} {r.title}; {r.least.value:.0f} mm are asked."
    return Breach(
        r.box,
        text,
        "Widen the non-combustible board, or move the battery along it.",
        r.reach,
        r.least,
        ".board.width_mm" if r.has_board else ".board",
    )


class Aired(Facts):
    """Openings of a room where lead-acid is charged against what its hydrogen wants; ``has`` is None while nobody has said."""

    where: str
    has: Figure | None
    wants: Figure


@rule("PLACE-AIRED")
def hydrogen_leaves(a: Aired) -> Breach | None:
    """A room where lead-acid is charged has openings enough; an open question is a gap, not a breach."""
    if a.has is None or a.has.value >= a.wants.value:
        return None
    text = f"Each opening of this room has {a.has.value:.0f} cm2; charging here wants {a.wants.value:.0f} cm2, one low and one high."
    return Breach(
        a.where,
        text,
        "Enlarge the openings, vent by a fan that the charger waits for, or house the bank outdoors.",
        a.has,
        a.wants,
        ".vent_cm2",
    )


class Energy(Facts):
    """Energy of a unit, or of all that stands in one place, against the most that is allowed."""

    energy: Figure
    most: Figure
    field: str = ""
    where: str = "room"


@rule("PLACE-ENERGY")
def energy_of_place(e: Energy) -> Breach | None:
    """No more energy stands in one place than the book allows."""
    if e.energy.value <= e.most.value:
        return None
    text = f"{e.energy.value / 1000:.1f} kWh stand here; {e.most.value / 1000:.0f} kWh is the most."
    return Breach(e.where, text, "Share the bank between places.", e.energy, e.most)


@rule("PLACE-UNIT")
def energy_of_unit(e: Energy) -> Breach | None:
    """No unit holds more energy than the book allows at a dwelling."""
    if e.energy.value <= e.most.value:
        return None
    text = f"One unit holds {e.energy.value / 1000:.1f} kWh; {e.most.value / 1000:.0f} kWh is the most for a unit at a dwelling."
    act = "Take smaller units, apart from one another as their listing says."
    return Breach("battery", text, act, e.energy, e.most, e.field)


class Away(Facts):
    """Distance of a battery from an opening, an exit or another battery against the least that is asked."""

    box: str
    title: str
    other: str
    other_title: str
    gap: Figure
    least: Figure


def _too_near(a: Away) -> Breach | None:
    if a.gap.value >= a.least.value - TAPE_MM:
        return None
    text = f"{a.title} is {a.gap.value:.0f} mm from {a.other_title}; {a.least.value:.0f} mm is asked."
    field = f".placements.{a.box}.x_mm"
    return Breach(f"{a.box} and {a.other}", text, "Move the battery away from it.", a.gap, a.least, field)


@rule("PLACE-OPENING")
def from_openings(a: Away) -> Breach | None:
    """A battery stands away from doors, windows and appliances."""
    return _too_near(a)


@rule("PLACE-ABOVE")
def from_what_opens_above(a: Away) -> Breach | None:
    """A battery stands well below what opens or ventilates above it: smoke rises."""
    return _too_near(a)


@rule("PLACE-EXIT")
def from_exits(a: Away) -> Breach | None:
    """A battery stands away from exits."""
    return _too_near(a)


@rule("PLACE-SPACING")
def from_each_other(a: Away) -> Breach | None:
    """Batteries stand apart as their fire test or the book asks."""
    if a.gap.value >= a.least.value - TAPE_MM:
        return None
    text = f"{a.box} and {a.other} stand {a.gap.value:.0f} mm apart; {a.least.value:.0f} mm is asked."
    act = "Move them apart, or choose a battery whose fire test allows less."
    return Breach(f"{a.box} and {a.other}", text, act, a.gap, a.least, f".placements.{a.other}.x_mm")


class Grows(Facts):
    """A bank that its maker lets grow: how many units it has and may have, and whether a further one has room at its wall."""

    bank: str
    title: str
    units: int
    most: int
    has_room: bool
    where: str


@rule("WALL-GROWTH")
def room_to_grow(g: Grows) -> Breach | None:
    """A further unit of a bank that may grow has room beside the others."""
    if g.has_room or g.units >= g.most:
        return None
    text = f"{g.title} has {g.units} of {g.most} units, and a further one has no room at {g.where}."
    return Breach(g.bank, text, "Move it toward one side, or tell the owner that it cannot grow here.", field=".placements")

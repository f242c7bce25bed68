"""Who lifts this box, and does it get to its wall?"""

from __future__ import annotations

import math

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule
from gumboot.core.rules.wall import HAIR
from gumboot.core.wording import length_in_both

IN_WORDS = {2: "two", 3: "three", 4: "four"}
# Common practice: more hands than these do not lift in step.
MOST_HANDS = max(IN_WORDS)


def people_for(mass: Figure, one: Figure) -> int:
    """How many people lift a weight, each no more than ``one`` lifts."""
    return math.ceil(mass.value / one.value)


def lifted_by(people: int) -> str:
    """By whom or what a box is lifted that is more than one person lifts."""
    return f"{IN_WORDS[people]} people or a lift table" if people <= MOST_HANDS else "a lift table or a hoist"


class Lift(Facts):
    """Weight of a box against what one person lifts."""

    title: str
    mass: Figure
    most: Figure


@rule("LIFT-TWO")
def one_person_lifts(x: Lift) -> Breach | None:
    """One person lifts it; else it is said that two are needed."""
    if x.mass.value <= x.most.value:
        return None
    by = lifted_by(people_for(x.mass, x.most))
    text = f"{x.title} weighs {x.mass.value:g} kg: more than one person lifts."
    act = f"{by[0].upper()}{by[1:]}; hook {length_in_both(50)} above the bracket and lower until seated."
    return Breach(x.title, text, act, x.mass, x.most)


class Carried(Facts):
    """A heavy box on its way to a wall: its smallest side with the hands beside it against the narrowest passage, and the steps."""

    title: str
    where: str
    needs: Figure
    way: Figure
    field: str


@rule("LIFT-WAY")
def goes_through(c: Carried) -> Breach | None:
    """A heavy box goes through the narrowest passage with a hand at each side."""
    if c.needs.value <= c.way.value + HAIR:
        return None
    text = (
        f"{c.title} needs {c.needs.value:.0f} mm with the hands beside it; the way to {c.where} is {c.way.value:.0f} mm at its narrowest."
    )
    return Breach(c.title, text, "Take another way, take a door off its hinges, or hang it elsewhere.", c.needs, c.way, c.field)


class Climbed(Facts):
    """A box that hands alone do not lift, and the steps on its way."""

    title: str
    where: str
    people: int
    steps: Figure
    field: str


@rule("LIFT-STEPS")
def climbs(c: Climbed) -> Breach | None:
    """What needs a lift table has no steps on its way: a table does not climb."""
    if c.people <= MOST_HANDS or c.steps.value <= 0:
        return None
    steps = "step" if c.steps.value == 1 else "steps"
    text = f"{c.title} is lifted by table or hoist, and the way to {c.where} has {c.steps.value:g} {steps}: a lift table does not climb."
    return Breach(c.title, text, "Bring a stair climber or a hoist, carry it in parts, or hang it elsewhere.", c.steps, field=c.field)

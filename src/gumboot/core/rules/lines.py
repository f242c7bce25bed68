"""How does a bus run: one line, short stubs, no more loads than a driver bears? For each kind of bus there is a rule that asks this."""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach

HAIR = 1e-9


class Shaped(Facts):
    """How the cable of a line runs to how many ``things``, such as devices or batteries."""

    where: str
    shape: str
    count: int
    things: str
    field: str


def one_line(s: Shaped) -> Breach | None:
    """The cable runs from one to the next; a star has as many open ends as arms, and each one echoes."""
    if s.shape == "line" or s.count < 2:
        return None
    text = f"The cable runs as a star to {s.count} {s.things}: each arm is an end that echoes."
    return Breach(s.where, text, "Lead it from one to the next, there and back where it must be, or put a hub between.", field=s.field)


class Stub(Facts):
    """How far something hangs off its line; ``short`` is good practice, ``most`` the end of what works."""

    where: str
    title: str
    length: Figure
    short: Figure
    most: Figure
    field: str


def short(s: Stub) -> Breach | None:
    """Nothing hangs farther off its line than good practice has it; beyond the end of what works it is a stop."""
    if s.length.value <= s.short.value + HAIR:
        return None
    too_long = s.length.value > s.most.value + HAIR
    limit = s.most if too_long else s.short
    text = f"{s.title} hangs {s.length.value:g} m off the line; {'never more than' if too_long else 'good practice is up to'} {limit.value:g} m."
    act = "Lead the line through it: in and out at its terminals or sockets."
    return Breach(s.where, text, act, s.length, limit, s.field, level="stop" if too_long else "caution")


class Loaded(Facts):
    """Unit loads of everything on a line, the inverter counted, against what a driver bears."""

    where: str
    loads: Figure
    most: Figure
    field: str
    act: str = "Use devices of a quarter or an eighth of a load, or a repeater."


def loaded(x: Loaded) -> Breach | None:
    """No more unit loads than a driver bears."""
    if x.loads.value <= x.most.value + HAIR:
        return None
    text = f"{x.loads.value:g} unit loads hang on the line; a driver bears {x.most.value:g}."
    return Breach(x.where, text, x.act, x.loads, x.most, x.field)

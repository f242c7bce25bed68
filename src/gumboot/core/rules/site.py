"""Does the equipment bear the air of its place?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Air(Facts):
    """The hottest or the coldest air of a place against what the inverter works in; ``field`` is where that air was told."""

    air: Figure
    limit: Figure
    field: str


@rule("SITE-HOT")
def cool_enough(a: Air) -> Breach | None:
    """The hottest air of the place is within what the inverter works in."""
    if a.air.value <= a.limit.value:
        return None
    text = f"The place reaches {a.air.value:g} °C; the inverter works to {a.limit.value:g} °C."
    return Breach("inverter", text, "Choose a cooler place.", a.air, a.limit, a.field)


@rule("SITE-COLD")
def warm_enough(a: Air) -> Breach | None:
    """The coldest air of the place is within what the inverter works in."""
    if a.air.value >= a.limit.value:
        return None
    text = f"The place falls to {a.air.value:g} °C; the inverter works from {a.limit.value:g} °C."
    return Breach("inverter", text, "Choose a warmer place or another inverter.", a.air, a.limit, a.field)


class Works(Facts):
    """The air of a place against what a card there states that it works in."""

    where: str
    title: str
    air: Figure
    limit: Figure
    hot: bool
    field: str


@rule("PLACE-AIR")
def works_there(w: Works) -> Breach | None:
    """What stands in a place works in its hottest and its coldest air, where its card states them."""
    if (w.air.value <= w.limit.value) if w.hot else (w.air.value >= w.limit.value):
        return None
    does, way = ("reaches", "to") if w.hot else ("falls to", "from")
    text = f"Its place {does} {w.air.value:g} °C; {w.title} works {way} {w.limit.value:g} °C."
    return Breach(w.where, text, "Choose another place or other equipment.", w.air, w.limit, w.field)


class Height(Facts):
    """Altitude of the place against the highest that a card allows; ``silent`` where it is what is taken of a card that does not say."""

    where: str
    title: str
    altitude: Figure
    most: Figure
    silent: bool


@rule("SITE-HIGH")
def low_enough(h: Height) -> Breach | None:
    """The place is no higher than the card allows: thin air cools less and insulates less."""
    if h.altitude.value <= h.most.value:
        return None
    why = "a card that does not say is made for" if h.silent else "its card allows"
    text = f"The place lies {h.altitude.value:g} m high; for {h.title} {why} {h.most.value:g} m."
    act = "Ask the maker for a statement and complete the card, or choose other equipment."
    return Breach(h.where, text, act, h.altitude, h.most, "site.altitude_m")


class Weathered(Facts):
    """What a card says of standing outdoors, on a wall that is; ``in_sun`` is None while nobody has said."""

    where: str
    title: str
    outdoors: str | None
    in_sun: bool | None
    field: str


@rule("PLACE-OUTDOOR")
def made_for_the_weather(w: Weathered) -> Breach | None:
    """What stands outdoors is made for it, and for the sun where that falls on it; an open question is a gap, not a breach."""
    if w.outdoors == "yes" or (w.outdoors == "out of sun" and not w.in_sun):
        return None
    if w.outdoors == "out of sun":
        text = f"{w.title} may stand outdoors out of the sun; the sun falls on this wall."
        return Breach(w.where, text, "Shade it, or choose another wall.", field=w.field)
    text = f"{w.title} stands outdoors; " + (
        "its enclosure is for indoors." if w.outdoors == "no" else "its card does not say that it may."
    )
    return Breach(w.where, text, "Choose a place indoors, or equipment in an enclosure for outdoors.", field=w.field)


class Handle(Facts):
    """The top of a box with a switch or breakers against the highest that a handle may stand."""

    box: str
    title: str
    top: Figure
    most: Figure


@rule("SWITCH-HIGH")
def within_reach(h: Handle) -> Breach | None:
    """The handle of a switch or breaker stands within reach. Where it sits in its box no card says: the top of the box is taken."""
    if h.top.value <= h.most.value:
        return None
    text = f"The top of {h.title} stands {h.top.value:.0f} mm above the floor; a switch or breaker handle may stand {h.most.value:.0f} mm high."
    return Breach(h.box, text, "Hang it lower.", h.top, h.most, f".placements.{h.box}.y_mm")


class Front(Facts):
    """Free floor in front of a box against what its card asks there."""

    box: str
    title: str
    free: Figure
    asked: Figure


@rule("WALL-FRONT")
def front_is_free(f: Front) -> Breach | None:
    """As much is free in front of a box as its maker asks."""
    if f.free.value >= f.asked.value - 0.5:
        return None
    text = f"{f.free.value:.0f} mm are free in front of {f.title}; its maker asks {f.asked.value:.0f} mm."
    return Breach(f.box, text, "Choose a place with more room in front.", f.free, f.asked, ".free_depth_mm")


class Span(Facts):
    """The coldest and the hottest air that are told of one place; ``field`` is the latter's."""

    where: str
    coldest: Figure
    hottest: Figure
    field: str


@rule("SITE-SPAN")
def right_way_round(s: Span) -> Breach | None:
    """The coldest air of a place is not above its hottest: the wrong way round, every rule of heat and cold asks the wrong one."""
    if s.coldest.value <= s.hottest.value:
        return None
    text = f"The coldest air is told as {s.coldest.value:g} °C, the hottest as {s.hottest.value:g} °C: the wrong way round."
    return Breach(s.where, text, "Correct the two answers.", s.coldest, s.hottest, s.field)

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

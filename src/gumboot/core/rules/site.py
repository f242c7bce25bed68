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

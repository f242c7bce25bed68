"""Does the rapid-shutdown loop hold, and does the inverter come to the network that the place has?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Loop(Facts):
    """Resistance of a loop against what its maker allows."""

    where: str
    ohm: Figure
    most: Figure


@rule("LOOP-LENGTH")
def loop_comes_back(x: Loop) -> Breach | None:
    """A loop has no more resistance than its maker allows: beyond that the array shuts down by itself, or not when it is asked to."""
    if x.ohm.value <= x.most.value:
        return None
    text = f"The rapid-shutdown loop has {x.ohm.value:.3g} ohm there and back; at most {x.most.value:g} ohm are allowed."
    return Breach(x.where, text, "Take a thicker core, or bring the initiator nearer.", x.ohm, x.most, "site.shutdown_loop_m")


class Core(Facts):
    """The core of a loop against the least that its maker allows."""

    where: str
    size: str
    area: Figure
    least: str
    least_mm2: float


@rule("LOOP-CORE")
def thick_enough(x: Core) -> Breach | None:
    """A loop's core is no thinner than its maker allows."""
    if x.area.value >= x.least_mm2:
        return None
    text = f"The rapid-shutdown loop is laid in {x.size}; its maker allows no less than {x.least}."
    return Breach(x.where, text, f"Lay {x.least} or thicker.", x.area, field="site.shutdown_core")


class Reached(Facts):
    """How a place has internet, and whether the inverter's card names that way."""

    where: str
    title: str
    way: str
    told: bool
    fits: bool


@rule("LINK-NETWORK")
def joins_the_network(x: Reached) -> Breach | None:
    """The inverter has a way into the network that the place has."""
    if x.fits:
        return None
    if not x.told:
        return Breach(x.where, f"The card of {x.title} does not say how it joins a network.", "Complete its card.", field="site.internet")
    text = f"{x.title} has no {x.way} way into a network."
    return Breach(x.where, text, "Bring a network that it has a way into, or hand over without remote access.", field="site.internet")

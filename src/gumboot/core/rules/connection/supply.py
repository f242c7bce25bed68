"""Does the supply carry what it is asked for, and do its conductors carry its main device?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.connection.grid import HAIR
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Loaded(Facts):
    """Demand of the house and charging from the grid, alone and as they count together, against the main device of the supply."""

    asks: Figure
    charging: Figure
    together: Figure
    main: Figure


@rule("SERVICE-LOAD")
def supply_carries(s: Loaded) -> Breach | None:
    """The supply carries the demand of the house and charging from the grid at once."""
    if s.together.value <= s.main.value + HAIR:
        return None
    text = (
        f"The house asks {s.asks.value:.0f} A and charging from the grid {s.charging.value:.1f} A: as they count, {s.together.value:.0f} A "
        f"on the fullest line; the main device of the supply is {s.main.value:g} A."
    )
    act = "Lower the charge current from the grid, take it from PV alone, or have the supply enlarged."
    return Breach("supply", text, act, s.together, s.main, "settings.grid_charge_a")


class Conducted(Facts):
    """The service conductors: the largest main device that they bear against the one there is; ``dwelling`` where 83 % suffices."""

    size: str
    metal: str
    main: Figure
    most: Figure
    dwelling: bool


@rule("SERVICE-CONDUCTOR")
def service_carries_main(c: Conducted) -> Breach | None:
    """The main device protects the service conductors."""
    if c.main.value <= c.most.value + HAIR:
        return None
    text = f"Service conductors of {c.size} {c.metal} bear a main device of {c.most.value:.0f} A; {c.main.value:g} A stands there."
    act = "Read the size again; have the supplier enlarge the conductors, or fit a smaller main device."
    if not c.dwelling:
        act += " If they feed one dwelling and all of it, say so: 83 % of the rating suffices then."
    return Breach("supply", text, act, c.main, c.most, "site.service_size")

"""Is the order in which the card asks for first power one that is planned?"""

from __future__ import annotations

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule

PLANNED = "island first"


class Order(Facts):
    """The order that the inverter's card asks for."""

    school: str


@rule("POWER-ORDER")
def order_is_planned(o: Order) -> Breach | None:
    """The order is planned; a wrong order under a trusted title misleads, so another one has no steps."""
    if o.school == PLANNED:
        return None
    text = f"The inverter's card asks for '{o.school}'; only {PLANNED} is planned, so no steps are given."
    return Breach("order", text, "Follow the maker's order with a licence holder present.")

"""Do so many batteries make a bank: all of them, in series, and in stacks side by side?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Count(Facts):
    """Units of a bank against what the maker allows; ``least`` is None where any number from one on will do."""

    number: Figure
    least: Figure | None
    most: Figure


@rule("BANK-COUNT")
def count(c: Count) -> Breach | None:
    """No more batteries than the maker allows in one bank."""
    if c.number.value <= c.most.value:
        return None
    text = f"{c.number.value:.0f} batteries; the maker allows {c.most.value:.0f}."
    return Breach("bank", text, "Take batteries off.", c.number, c.most)


@rule("BANK-SERIES")
def series(c: Count) -> Breach | None:
    """As many units in series as the maker allows."""
    lowest = c.least.value if c.least is not None else 1.0
    if lowest <= c.number.value <= c.most.value:
        return None
    text = f"{c.number.value:.0f} units stand in series; the maker allows {lowest:.0f} to {c.most.value:.0f}."
    limit = c.most if c.number.value > c.most.value else c.least
    return Breach("bank", text, "Change the number of units.", c.number, limit)


class Stacks(Facts):
    """Stacks side by side: how many are wanted, how many units stand in each, what the maker allows, and whether they meet at bars."""

    wanted: int
    sizes: Sequence[int]
    most: Figure
    stacked: bool
    at_bars: bool


@rule("BANK-STACKS")
def stacks(s: Stacks) -> Breach | None:
    """Stacks in parallel are of one height, as many as the maker allows, and meet at bars behind a breaker each."""
    if s.wanted == 1:
        return None
    if not s.stacked or s.wanted > s.most.value:
        text = f"{s.wanted} strings in parallel; the maker allows {s.most.value:.0f}."
        return Breach(
            "bank", text, "Take strings off, or choose a battery whose maker lets more stand in parallel.", limit=s.most, field=".strings"
        )
    if len(s.sizes) != s.wanted or len(set(s.sizes)) > 1:
        text = f"{sum(s.sizes)} units do not make {s.wanted} of one length: unlike ones drive current into each other."
        return Breach("bank", text, "Give each as many units as the other.", field=".units")
    if not s.at_bars:
        text = f"{s.wanted} side by side have no bars to meet at."
        return Breach("bank", text, "Put in a busbar box whose rated voltage is theirs or more.", field="things.busbar.card")
    return None

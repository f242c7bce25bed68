"""Has a box an entry for all that comes into it?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Breach, rule


class Entered(Facts):
    """Entries of a box that are used, and how many it has."""

    where: str
    title: str
    used: Figure
    count: int


@rule("ENTRY-COUNT")
def entries_suffice(x: Entered) -> Breach | None:
    """What comes into a box has an entry of its own: two cables under one gland are sealed by neither."""
    if x.used.value <= x.count:
        return None
    text = f"{x.used.value:.0f} raceways and cables come into {x.title}, which has {x.count} entries."
    return Breach(x.where, text, "Lay runs together in one raceway, or choose a box with more entries.", x.used)

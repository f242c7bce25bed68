"""Does a reading lie in its band? One rule for each kind of reading: each has a code, a clause and a remedy of its own in the register."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Asked, Breach, rule


class Reading(Facts):
    """A check with what is wrong with its last reading; nothing where it is right or was cleared. ``life`` makes it a stop."""

    check: str
    title: str
    faults: Sequence[str]
    life: bool


def stands(r: Reading) -> Breach | None:
    """The reading stands in its band, or a licence holder has cleared it."""
    if not r.faults:
        return None
    text = f"{r.title}: {'; '.join(r.faults)}."
    return Breach(r.check, text, "Find the cause and mend it, then measure again.", level="stop" if r.life else "caution")


READ: dict[str, Asked[Reading]] = {
    code: rule(code)(stands)
    for code in (
        "READ-LOOK",
        "READ-LOCKED",
        "READ-DEAD",
        "READ-POLARITY",
        "READ-INSULATION",
        "READ-STRING",
        "READ-PACK",
        "READ-SPREAD",
        "READ-EARTH",
        "READ-BUS",
        "READ-ISLAND",
        "READ-PHASE",
        "READ-SOC",
        "READ-HEAT",
        "READ-EXPORT",
    )
}

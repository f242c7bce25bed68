"""Does a reading lie in its band? One rule for each kind of reading: each has a code, a clause and a remedy of its own in the register."""

from __future__ import annotations

import math
from typing import Literal

from gumboot.core.rulebook.common.bus import told_by_ohm
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Asked, Breach, rule

# What a reading is: its size whatever its sign; a polarity, where a minus means reversed; a quantity that cannot be negative; or signed.
Measures = Literal["magnitude", "polarity", "never negative", "signed"]


# Two displays of one quantity are read within this time of each other: common practice. In two minutes at full power a store moves by about 1 %.
APART_S = 120.0


class Reading(Facts):
    """The last reading of a check, or the answer to a look, against its band as the conditions have moved it.

    ``low`` and ``high`` are in ``unit``, None where the band is open; a check without unit is a look, answered by ``seen``. ``over`` is a
    value beyond the instrument's range. ``displays`` says how many are read, ``shown`` what they showed, ``apart_s`` how long lies between
    their readings; None where nobody told.
    ``life`` makes it a stop; ``is_pair`` is the resistance of a dead bus. ``is_open`` is one that nobody has made, ``is_cleared`` one that a licence holder has cleared.
    """

    check: str
    title: str
    life: bool
    unit: str = ""
    measures: Measures = "never negative"
    low: float | None = None
    high: float | None = None
    value: float | None = None
    over: bool = False
    seen: bool = False
    displays: int = 0
    shown: tuple[float, ...] = ()
    apart_s: float | None = None
    is_open: bool = False
    is_cleared: bool = False
    is_pair: bool = False


def faults_of(r: Reading) -> str:
    """What is wrong with a reading, whoever has cleared it; empty where it is right or nobody has made it."""
    if r.is_open:
        return ""
    if not r.unit:
        return "" if r.seen else "answered no"
    if r.value is None and not r.over:
        return "no value"
    if r.displays and len(r.shown) != r.displays:
        return "both displays are read, not a difference"
    if r.displays and 0 in r.shown:
        return "a display that shows nothing or 0 has no link"
    if r.displays and r.apart_s is not None and r.apart_s > APART_S:
        return f"the displays were read {r.apart_s / 60:.0f} min apart: read both within {APART_S / 60:g} min"
    return outside(r)


def outside(r: Reading) -> str:
    """How a value stands outside its band; empty when it lies within."""
    if r.value is None:
        return "" if r.high is None else f"beyond the instrument's range, which is above {r.high:.4g} {r.unit}"
    said = f"{'above ' if r.over else ''}{r.value:g} {r.unit}"
    beyond = _beyond(r, abs(r.value) if r.measures in ("magnitude", "polarity") else r.value, said)
    if r.measures == "polarity" and r.value < 0:
        return f"reversed: {said} is the wrong way round" + (", and its size is outside the band" if beyond else "")
    if r.measures == "magnitude" and r.value < 0 and beyond:
        return f"{said}, whatever its sign, {beyond.removeprefix(said).strip()}"
    return beyond


def _beyond(r: Reading, size: float, said: str) -> str:
    """Which end of the band a size lies beyond."""
    if r.high is not None and (r.over or size > r.high):
        return f"{said} is above {r.high:.4g} {r.unit}"
    if r.low is not None and size < r.low:
        return f"{said} does not prove at least {r.low:.4g} {r.unit}" if r.over else f"{said} is below {r.low:.4g} {r.unit}"
    return ""


def stands(r: Reading) -> Breach | None:
    """The reading stands in its band, or a licence holder has cleared it."""
    wrong = "" if r.is_cleared else faults_of(r)
    if not wrong:
        return None
    act = "Find the cause and mend it, then measure again."
    if r.is_pair and (r.over or r.value is not None):
        act = told_by_ohm(math.inf if r.over or r.value is None else r.value)
    return Breach(r.check, f"{r.title}: {wrong}.", act, level="stop" if r.life else "caution")


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

"""Is a landing that was recorded good: tightened within its band, by a tool in calibration, tugged, of the size that the plan has now?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.register import Asked, Breach, rule

# A torque typed as the end of its band is within it, though its conversion into N m came out a hair beyond.
HAIR_NM = 1e-6
# What stands in place of a torque that nothing gives.
NO_TORQUE = "no torque is known for this screw: ask the maker before landing it"


class Landed(Facts):
    """A landing as it was recorded, against what the plan asks of it now.

    ``reached_nm`` is None where no torque was written down; ``low`` and ``high`` where none is asked for. ``tool_holds`` says whether
    the tool's calibration held on that day.
    """

    where: str
    size: str
    landed_size: str
    tightened_by: Literal["maker", "table", "spring", "unknown"]
    low: Figure | None
    high: Figure | None
    reached_nm: float | None
    tool_holds: bool
    tug: bool
    pressed: bool


@rule("LAND-SIZE")
def landed_as_planned(x: Landed) -> Breach | None:
    """What was landed is of the size that the plan has now; a record that names none is of no other."""
    if x.landed_size in ("", x.size):
        return None
    text = f"recorded for {x.landed_size}; the plan is now {x.size}"
    return Breach(x.where, text, "Pull the size that the plan has now, land it and record it again.")


@rule("LAND-TORQUE")
def landed_in_band(x: Landed) -> Breach | None:
    """A clamp with a torque was tightened to a value within its band."""
    if x.low is None or x.high is None:
        return None
    if x.reached_nm is None:
        text = "no torque value: snug is not a value"
        return Breach(x.where, text, "Tighten with a torque tool and record what it reached.", limit=x.low)
    if x.low.value - HAIR_NM <= x.reached_nm <= x.high.value + HAIR_NM:
        return None
    text = f"{x.reached_nm:.2f} N m is outside {x.low.value:.2f} to {x.high.value:.2f} N m"
    act = "Loosen it, look at clamp and strands, tighten to the value and record it again."
    return Breach(x.where, text, act, limit=x.low if x.reached_nm < x.low.value else x.high)


@rule("LAND-TOOL")
def landed_by_a_true_tool(x: Landed) -> Breach | None:
    """The tool was in calibration on the day; one that nobody named was not."""
    if x.low is None or x.high is None or x.tool_holds:
        return None
    return Breach(x.where, "the tool was out of calibration", "Tighten again with a tool whose calibration holds.")


@rule("LAND-UNKNOWN")
def landed_by_somebodys_value(x: Landed) -> Breach | None:
    """A screw is landed only where somebody gives its torque."""
    if x.tightened_by != "unknown":
        return None
    return Breach(x.where, NO_TORQUE, "Ask the maker for the torque and put it on the card.")


@rule("LAND-PRESSED")
def landed_in_its_spring(x: Landed) -> Breach | None:
    """A conductor in a spring clamp was pressed home again after the tug."""
    if x.tightened_by != "spring" or x.pressed:
        return None
    return Breach(x.where, "not pressed home again after the tug", "Press it home, tug it, press it home again.")


@rule("LAND-TUG")
def landed_and_tugged(x: Landed) -> Breach | None:
    """Every landing was tugged."""
    if x.tug:
        return None
    return Breach(x.where, "no tug test", "Tug the conductor and record it.")


LANDED: tuple[Asked[Landed], ...] = (
    landed_as_planned,
    landed_in_band,
    landed_by_a_true_tool,
    landed_by_somebodys_value,
    landed_in_its_spring,
    landed_and_tugged,
)

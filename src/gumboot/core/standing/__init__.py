"""Plan and records together: what is done, open and held at each station.

``stands`` says how each act stands, ``since`` what has ended what was seen before, ``judged``, ``left`` and ``meter`` what a torque, a
reading, a setting and a meter test are worth,
``signed`` whether a signature stands, ``holds`` what holds an act back in words, ``stations`` how far each station is.
"""

from gumboot.core.standing.judged import judge_check, judge_torque
from gumboot.core.standing.left import asked_text
from gumboot.core.standing.meter import read_in
from gumboot.core.standing.packed import unpacked
from gumboot.core.standing.records import (
    LEGS,
    STATION_IDS,
    Judged,
    SettingStands,
    Standing,
    State,
    StationStanding,
    counted,
    latest,
)
from gumboot.core.standing.since import Since, run_of
from gumboot.core.standing.stand import stand

__all__ = [
    "LEGS",
    "STATION_IDS",
    "Judged",
    "SettingStands",
    "Since",
    "Standing",
    "State",
    "StationStanding",
    "asked_text",
    "counted",
    "judge_check",
    "judge_torque",
    "latest",
    "read_in",
    "run_of",
    "stand",
    "unpacked",
]

"""Plan and records together: what is done, open and held at each station."""

from gumboot.core.standing.judged import judge_check, judge_torque
from gumboot.core.standing.left import asked_text
from gumboot.core.standing.records import LEGS, STATION_IDS, Judged, Left, Record, Standing, State, StationStanding, latest
from gumboot.core.standing.stand import stand, step_title
from gumboot.core.standing.tasks import GROUP_TASKS, LINK_TASKS, link_tasks

__all__ = [
    "GROUP_TASKS",
    "LEGS",
    "LINK_TASKS",
    "STATION_IDS",
    "Judged",
    "Left",
    "Record",
    "Standing",
    "State",
    "StationStanding",
    "asked_text",
    "judge_check",
    "judge_torque",
    "latest",
    "link_tasks",
    "stand",
    "step_title",
]

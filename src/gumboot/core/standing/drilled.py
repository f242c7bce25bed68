"""Does a box still hang and stand well where its holes came out?"""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.record import Drilled


class _Asked(NamedTuple):
    """A plan with one of its boxes moved; told by who the plan is, not by what it says."""

    plan: Plan
    box: str
    right_mm: float
    up_mm: float

    def __hash__(self) -> int:
        return hash((id(self.plan), self.box, self.right_mm, self.up_mm))

    def __eq__(self, other: object) -> bool:
        same = isinstance(other, _Asked) and self.plan is other.plan
        return same and isinstance(other, _Asked) and self[1:] == other[1:]

    def __ne__(self, other: object) -> bool:
        return not self == other


def moved(job: Job, box: str, right_mm: float, up_mm: float) -> Job:
    """A job with one box as far off its place. Raises ValueError where that is nowhere on the wall."""
    walls = []
    for wall in job.walls:
        placements = [
            p.model_copy(update={"x_mm": p.x_mm + right_mm, "y_mm": p.y_mm + up_mm}) if p.id == box else p for p in wall.placements
        ]
        walls.append(wall.model_copy(update={"placements": placements}))
    return job.model_copy(update={"walls": walls})


@lru_cache(maxsize=16)
def _wrong(asked: _Asked) -> str:
    plan = asked.plan
    before = {(f.code, f.where) for f in plan.at("wall")}
    shifted = derive(moved(plan.job, asked.box, asked.right_mm, asked.up_mm), plan.shelf, plan)
    new = [f for f in shifted.at("wall") if f.level == "stop" and (f.code, f.where) not in before]
    if not new:
        return ""
    return f"{new[0].text} Drill anew and fill these, or move {asked.box} in the plan to where it hangs"


def wrong_where_drilled(plan: Plan, box: str, record: Drilled) -> str:
    """What stands against a box where its holes came out, by the same rules as on the Wall; nothing where it hangs well there."""
    if record.right_mm == 0 and record.up_mm == 0:
        return ""
    return _wrong(_Asked(plan, box, record.right_mm, record.up_mm))

"""How cold and how hot is the air where something stands: that of its wall, or that of the whole site?"""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from gumboot.core.job.model import Job


class Told(NamedTuple):
    """A temperature in °C with the path of the field that tells it; no value where nobody has answered."""

    value: float | None
    path: str


def _at(job: Job, places: Collection[str], own: str, site: str) -> list[Told]:
    """What is told of the air at some things: by their walls, and by the site where a wall says nothing or a thing is on none."""
    # Most houses tell one air for all of it: then nobody asks what hangs where.
    if not [wall for wall in job.walls if getattr(wall, own) is not None]:
        return [Told(getattr(job.site, site), f"site.{site}")]
    walls = [wall for wall in job.walls if any(p.id in places for p in wall.placements)]
    told = [Told(getattr(wall, own), f"walls.{wall.id}.{own}") for wall in walls]
    said = [one for one in told if one.value is not None]
    on_walls = {p.id for wall in walls for p in wall.placements}
    return (
        said if said and len(said) == len(told) and on_walls.issuperset(places) else [*said, Told(getattr(job.site, site), f"site.{site}")]
    )


def coldest_air(job: Job, places: Collection[str]) -> Told:
    """The coldest air at some things; unanswered while part of it is."""
    found = _at(job, places, "air_low_c", "room_low_c")
    if len(found) == 1:
        return found[0]
    return next((one for one in found if one.value is None), None) or min(found, key=lambda one: one.value or 0.0)


def hottest_air(job: Job, places: Collection[str]) -> Told:
    """As ``coldest_air``, of the hottest."""
    found = _at(job, places, "air_high_c", "room_high_c")
    if len(found) == 1:
        return found[0]
    return next((one for one in found if one.value is None), None) or max(found, key=lambda one: one.value or 0.0)

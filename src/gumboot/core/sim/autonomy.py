"""How many hours does a given energy carry a daily profile, from each starting hour?"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from itertools import accumulate
from math import ceil

from gumboot.core.errors import divided_by_nothing
from gumboot.core.job.model import Load


def hours_of(load: Load) -> tuple[int, ...]:
    """The hours of the day in which a load runs; ``to_hour`` at or below ``from_hour`` wraps midnight."""
    if load.from_hour < load.to_hour:
        return tuple(range(load.from_hour, load.to_hour))
    return (*range(load.to_hour), *range(load.from_hour, 24))


def whole_hours(wished_h: float) -> int:
    """Whole hours that cover a wished outage: a part of an hour counts as one, never less than wished."""
    return max(1, ceil(wished_h - 1e-9))


def hourly_profile_w(loads: Sequence[Load], idle_w: float) -> tuple[float, ...]:
    """Mean demand in W for each hour of the day, shape (24,), the inverter's own draw included."""
    drawn_w = [0.0] * 24
    for load in loads:
        mean_w = load.running_w * load.duty
        for hour in hours_of(load):
            drawn_w[hour] += mean_w
    return tuple([idle_w + watts for watts in drawn_w])


class Day:
    """A day's profile in W by the hour, shape (24,), that repeats itself. Raises BadFigure for one that draws nothing."""

    def __init__(self, profile_w: Sequence[float]) -> None:
        if sum(profile_w) <= 0:
            raise divided_by_nothing(["The demand of the backed-up side with the inverter's own draw"])
        self._ahead_w = (*profile_w, *profile_w)
        # Energy in Wh from midnight to each hour of two days, shape (49,).
        self._used_wh = (0.0, *accumulate(self._ahead_w))

    def hours_carried(self, start_hour: int, energy_wh: float) -> float:
        """Hours until ``energy_wh`` is used, starting on the hour. Energy is conserved within each hour."""
        used_wh = self._used_wh
        days, left_wh = divmod(energy_wh, used_wh[24])
        empty_wh = used_wh[start_hour] + left_wh
        # The hour in which it runs empty: the last that begins with something left.
        hour = max(start_hour, bisect_left(used_wh, empty_wh, start_hour) - 1)
        return 24.0 * days + (hour - start_hour) + (empty_wh - used_wh[hour]) / self._ahead_w[hour]

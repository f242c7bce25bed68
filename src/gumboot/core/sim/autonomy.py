"""How many hours does a given energy carry a daily profile, from each starting hour?"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import cycle
from math import ceil

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


def _from(profile_w: Sequence[float], start_hour: int) -> tuple[float, ...]:
    """A day's profile as it lies ahead at an hour."""
    return (*profile_w[start_hour:], *profile_w[:start_hour])


def hours_carried(profile_w: Sequence[float], start_hour: int, energy_wh: float) -> float:
    """Hours until ``energy_wh`` is used, starting on the hour. Energy is conserved within each hour."""
    day_wh = sum(profile_w)
    whole_days = int(energy_wh // day_wh)
    left_wh, hours = energy_wh - whole_days * day_wh, 24.0 * whole_days
    for demand_w in cycle(_from(profile_w, start_hour)):
        if demand_w >= left_wh:
            return hours + left_wh / demand_w
        left_wh -= demand_w
        hours += 1.0
    return hours


def mean_power_w(profile_w: Sequence[float], start_hour: int, hours: float) -> float:
    """Mean demand in W over ``hours`` from a starting hour."""
    if hours <= 0:
        return profile_w[start_hour % 24]
    day_w, whole = _from(profile_w, start_hour), int(hours)
    days, rest = divmod(whole, 24)
    used_wh = days * sum(day_w) + sum(day_w[:rest]) + (hours - whole) * day_w[rest]
    return used_wh / hours

"""How many hours does a given energy carry a daily profile, from each starting hour?"""

from __future__ import annotations

from collections.abc import Sequence
from math import ceil

from gumboot.core.job.model import Load


def runs_at(load: Load, hour: int) -> bool:
    """Whether a load is within its hours; ``to_hour`` below ``from_hour`` wraps midnight."""
    if load.from_hour < load.to_hour:
        return load.from_hour <= hour < load.to_hour
    return hour >= load.from_hour or hour < load.to_hour


def whole_hours(wished_h: float) -> int:
    """Whole hours that cover a wished outage: a part of an hour counts as one, never less than wished."""
    return max(1, ceil(wished_h - 1e-9))


def hourly_profile_w(loads: Sequence[Load], idle_w: float) -> tuple[float, ...]:
    """Mean demand in W for each hour of the day, shape (24,), the inverter's own draw included."""
    return tuple(idle_w + sum(x.running_w * x.duty for x in loads if runs_at(x, hour)) for hour in range(24))


def hours_carried(profile_w: Sequence[float], start_hour: int, energy_wh: float) -> float:
    """Hours until ``energy_wh`` is used, starting on the hour. Energy is conserved within each hour."""
    day_wh = sum(profile_w)
    whole_days = int(energy_wh // day_wh)
    left_wh, hours = energy_wh - whole_days * day_wh, 24.0 * whole_days
    hour = start_hour
    while True:
        demand_w = profile_w[hour % 24]
        if demand_w >= left_wh:
            return hours + left_wh / demand_w
        left_wh -= demand_w
        hours += 1.0
        hour += 1


def mean_power_w(profile_w: Sequence[float], start_hour: int, hours: float) -> float:
    """Mean demand in W over ``hours`` from a starting hour."""
    if hours <= 0:
        return profile_w[start_hour % 24]
    whole = int(hours)
    used_wh = sum(profile_w[(start_hour + k) % 24] for k in range(whole))
    used_wh += (hours - whole) * profile_w[(start_hour + whole) % 24]
    return used_wh / hours

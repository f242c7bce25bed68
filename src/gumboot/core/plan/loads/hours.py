"""How long does the bank carry the backed-up side, for an outage that begins at each hour?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger
from gumboot.core.sim.autonomy import Day, hourly_profile_w

BY_HOUR = "Hour by hour: running power times duty within its hours, plus the inverter's own draw. No PV is counted."
DARK = "A dark outage: no PV is counted, so this is the safe side."


# Keys and names of the two figures of each hour.
HOURS = tuple(
    (
        (f"loads.mean.{hour}", f"Mean demand from {hour:02d}:00 until empty"),
        (f"loads.carried.{hour}", f"Hours carried, outage from {hour:02d}:00"),
    )
    for hour in range(24)
)


def _carried(ledger: Ledger, day: Day, hour: int, energy: Figure) -> Figure:
    (key, name), (carried, hours) = HOURS[hour]
    watts = day.mean_power_w(hour, day.hours_carried(hour, energy.value))
    mean = ledger.work(ledger.key(key), "P_mean", ledger.titled(name), watts, "W", "physics", limits=BY_HOUR)
    return ledger.work(ledger.key(carried), "t", ledger.titled(hours), energy / mean, "h", "physics", limits=DARK)


def autonomy(ledger: Ledger, loads: Sequence[Load], energy: Figure) -> tuple[tuple[float, ...], tuple[Figure, ...]]:
    """The day's profile of the backed-up side in W, and the hours carried from each starting hour."""
    profile = hourly_profile_w(list(loads), sum(i.card.idle_w for i in ledger.seats.inverters))
    day = Day(profile)
    return profile, tuple([_carried(ledger, day, hour, energy) for hour in range(24)])

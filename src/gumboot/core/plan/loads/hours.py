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


def autonomy(ledger: Ledger, loads: Sequence[Load], energy: Figure) -> tuple[tuple[float, ...], tuple[Figure, ...]]:
    """The day's profile of the backed-up side in W, and the hours carried from each starting hour."""
    profile = hourly_profile_w(list(loads), sum(i.card.idle_w for i in ledger.seats.inverters))
    day, work, mark, whose, found = Day(profile), ledger.work, ledger.key(""), ledger.titled(""), list[Figure]()
    for hour, ((key, name), (carried, hours)) in enumerate(HOURS):
        lasts_h = day.hours_carried(hour, energy.value)
        watts = energy.value / lasts_h if lasts_h > 0 else profile[hour]
        mean = work(key + mark, "P_mean", name + whose, watts, "W", source="physics", limits=BY_HOUR)
        found.append(work(carried + mark, "t", hours + whose, energy / mean, "h", source="physics", limits=DARK))
    return profile, tuple(found)

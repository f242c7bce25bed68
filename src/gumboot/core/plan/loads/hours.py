"""How long does the bank carry the backed-up side, for an outage that begins at each hour?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger
from gumboot.core.sim.autonomy import Day, hourly_profile_w

BY_HOUR = "Hour by hour: running power times duty within its hours, plus the inverter's own draw. No PV is counted."
DARK = "A dark outage: no PV is counted, so this is the safe side."


def _carried(ledger: Ledger, day: Day, hour: int, energy: Figure) -> Figure:
    watts, name = day.mean_power_w(hour, day.hours_carried(hour, energy.value)), f"Mean demand from {hour:02d}:00 until empty"
    mean = ledger.work(ledger.key(f"loads.mean.{hour}"), "P_mean", ledger.titled(name), watts, "W", "physics", limits=BY_HOUR)
    name = f"Hours carried, outage from {hour:02d}:00"
    return ledger.work(ledger.key(f"loads.carried.{hour}"), "t", ledger.titled(name), energy / mean, "h", "physics", limits=DARK)


def autonomy(ledger: Ledger, loads: Sequence[Load], energy: Figure) -> tuple[tuple[float, ...], tuple[Figure, ...]]:
    """The day's profile of the backed-up side in W, and the hours carried from each starting hour."""
    profile = hourly_profile_w(list(loads), sum(i.card.idle_w for i in ledger.seats.inverters))
    day = Day(profile)
    return profile, tuple([_carried(ledger, day, hour, energy) for hour in range(24)])

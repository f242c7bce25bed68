"""Does the backed-up side fit the inverter, leg by leg, running and starting, and how long does the bank carry it?

``powers`` adds up what runs and what starts, ``hours`` how long the bank carries it, ``station`` judges both.
"""

from gumboot.core.plan.loads.powers import leg_share, start_increments_w
from gumboot.core.plan.loads.station import IslandLoads, LoadsPlan, Timed, plan_loads

__all__ = ["IslandLoads", "LoadsPlan", "Timed", "leg_share", "plan_loads", "start_increments_w"]

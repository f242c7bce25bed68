"""How much current can flow into a fault at each place, from all sources together?

``ac`` follows the ways of the graph from the network, the inverters and the generators; ``dc`` what batteries and strings push;
``breaking`` asks whether the devices there break it.
"""

from gumboot.core.plan.faults.parts import FaultAt, FaultsPlan, Side
from gumboot.core.plan.faults.station import plan_faults

__all__ = ["FaultAt", "FaultsPlan", "Side", "plan_faults"]

"""In what order is this system first switched on, and what holds each step?

``board`` is the switching network that is played on, ``steps`` the island-first order, ``station`` the plan with its off order.
"""

from gumboot.core.plan.power_up.parts import Step
from gumboot.core.plan.power_up.station import PowerUpPlan, plan_power_up

__all__ = ["PowerUpPlan", "Step", "plan_power_up"]

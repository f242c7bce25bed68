"""What is measured before first power, and what should today's value be?

``check`` is one measurement or look with its band; ``strings``, ``bank`` and ``looks`` say which there are; ``station`` orders them.
"""

from gumboot.core.plan.prove.bank import read_when_on
from gumboot.core.plan.prove.check import Check, Lasts
from gumboot.core.plan.prove.station import plan_prove

__all__ = ["Check", "Lasts", "plan_prove", "read_when_on"]

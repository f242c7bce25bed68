"""Every landing of every core: conductor, preparation, tool and torque.

``parts`` is what a termination is, ``torque`` its torque with the band, ``landing`` one conductor end with its rules, ``unsized`` the
ends of a circuit whose size waits, ``order`` in which order they are landed.
"""

from gumboot.core.plan.terminations.order import plan_terminations
from gumboot.core.plan.terminations.parts import Termination, termination_id

__all__ = ["Termination", "plan_terminations", "termination_id"]

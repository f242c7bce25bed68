"""What does each CT channel show, and so: which way round, and on which conductor, does each CT sit?

A channel multiplies the current of its CT by a voltage reference of its own: that of the leg it is assigned to, one fixed leg, or none, when
it shows the current with a sign. With phasors, import positive: ``P = Re(V_ref conj(s I))``, s = -1 against the arrow (common practice).
So a CT that is merely on the other leg of a split phase shows minus that leg's load, on three phases about minus half of it.
"""

from gumboot.core.sim.ct_readings.causes import Cause, causes_of
from gumboot.core.sim.ct_readings.parts import ANGLES, Channel, Core, Leg, MeterTest, Reference, Tests, expected, expected_w
from gumboot.core.sim.ct_readings.verdict import NEXT_LOAD_W, CtVerdict, MeterVerdict, solve
from gumboot.core.sim.ct_readings.wirings import HIGH_SHARES, LOW_SHARES, tolerance_w, wirings

__all__ = [
    "ANGLES",
    "HIGH_SHARES",
    "LOW_SHARES",
    "NEXT_LOAD_W",
    "Cause",
    "Channel",
    "Core",
    "CtVerdict",
    "Leg",
    "MeterTest",
    "MeterVerdict",
    "Reference",
    "Tests",
    "causes_of",
    "expected",
    "expected_w",
    "solve",
    "tolerance_w",
    "wirings",
]

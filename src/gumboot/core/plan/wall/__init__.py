"""Do the boxes fit this wall, where is each hole, and does each screw hold?

``shapes`` are rectangles on the wall, ``holes`` studs and drill holes, ``fixing`` screws and anchors, ``stands`` clearances and
sweeps, ``batteries`` where a battery may stand; ``station`` goes through the boxes of a wall.
"""

from gumboot.core.plan.wall.parts import Box, DrillHole, FixingList, Span, WallPlan
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.plan.wall.station import plan_walls

__all__ = ["Box", "DrillHole", "FixingList", "Rect", "Span", "WallPlan", "plan_walls"]

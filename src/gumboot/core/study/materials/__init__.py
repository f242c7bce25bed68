"""What must be bought and cut for this plan: every core with its length, every lug, ferrule, gland, device, label and box."""

from gumboot.core.plan.cutting import TAIL_M
from gumboot.core.study.materials.boxes import SEAT_WORDS
from gumboot.core.study.materials.parts import Cut, Item, Materials
from gumboot.core.study.materials.routes import wall_length_m, wall_route
from gumboot.core.study.materials.station import materials

__all__ = ["SEAT_WORDS", "TAIL_M", "Cut", "Item", "Materials", "materials", "wall_length_m", "wall_route"]

"""How much battery may stand where, and how much room must be left in front?"""

from __future__ import annotations

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.rulebook.loader import read_table
from gumboot.core.units import M_PER_FOOT

UNIT_LIMIT_WH = 20000.0
ROOM_LIMIT_WH = {"utility room": 40000.0, "garage": 80000.0, "outdoor": 80000.0, "undercroft": 80000.0}
# 6 ft 7 in (404.8(A)).
HANDLE_MM = 2006.6
BETWEEN_UNITS_MM = 3 * M_PER_FOOT * 1000
FROM_OPENING_MM = 3 * M_PER_FOOT * 1000
WORKING_WIDTH_MM = 762.0
WORKING_HEIGHT_MM = 6.5 * M_PER_FOOT * 1000
_SPACE = read_table("north_american/tables/working_space.csv")


def room_limit_wh(room: str) -> float:
    """Most battery energy in Wh in one place (IRC R328.5, NFPA 855 15.7). Raises NotInTable for a place that takes none."""
    try:
        return ROOM_LIMIT_WH[room]
    except KeyError:
        raise NotInTable("place", room, ", ".join(ROOM_LIMIT_WH), "NFPA 855 (2023) 15.7", "Choose one of these places.") from None


def working_depth_mm(to_ground_v: float, condition: int = 1) -> float:
    """Depth of working space in mm by voltage to ground and condition 1 to 3 (Table 110.26(A)(1)). Raises OutOfRange above 600 V."""
    for row in _SPACE:
        if to_ground_v <= float(row["to_ground_max_v"]):
            return float(row[f"condition_{condition}_ft"]) * M_PER_FOOT * 1000
    raise OutOfRange(
        "voltage to ground", f"{to_ground_v} V", "up to 600 V", "NEC 2023 Table 110.26(A)(1)", "Read 110.32 to 110.34 for higher voltages."
    )

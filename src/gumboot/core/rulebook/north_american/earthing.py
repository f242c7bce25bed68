"""How large must the equipment grounding conductor be?"""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.rulebook.loader import read_table
from gumboot.core.rulebook.north_american.conductors import COPPER, SIZES, conductor

_TABLE = [(float(r["device_max_a"]), r["copper_size"]) for r in read_table("north_american/tables/equipment_grounding.csv")]


def grounding_size(device_a: float) -> str:
    """Copper equipment grounding conductor by overcurrent device (Table 250.122)."""
    for maximum_a, size in _TABLE:
        if device_a <= maximum_a:
            return size
    raise OutOfRange("device rating", f"{device_a:.0f} A", "up to 600 A", "NEC 2023 Table 250.122", "Split the circuit.")


def upsized_grounding(base_size: str, required_size: str, installed_size: str) -> str:
    """Earth conductor grown in proportion to the circuit conductor's area (250.122(B))."""
    ratio = max(1.0, conductor(installed_size).area_mm2 / conductor(required_size).area_mm2)
    area_mm2 = conductor(base_size).area_mm2 * ratio
    for size in SIZES:
        if COPPER[size].area_mm2 >= area_mm2 - 1e-9:
            # The earth conductor need never exceed the circuit conductor (250.122(A)).
            return size if conductor(size).ordinal <= conductor(installed_size).ordinal else installed_size
    return installed_size

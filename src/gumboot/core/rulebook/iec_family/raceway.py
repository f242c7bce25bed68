"""How full may a conduit or trunking be under IEC practice?"""

from __future__ import annotations

from gumboot.core.errors import NotInTable
from gumboot.core.rulebook.loader import read_table

SPACE_FACTOR_TRUNKING = 0.45
SPACE_FACTOR_CONDUIT = 0.40
_OUTSIDE_MM = {r["size_mm2"]: float(r["outside_mm"]) for r in read_table("iec_family/tables/single_core_diameter.csv")}


def outside_diameter_mm(size_mm2: str) -> float:
    """Largest mean outside diameter in mm of a single-core PVC conductor (EN 50525-2-31). Raises NotInTable."""
    try:
        return _OUTSIDE_MM[size_mm2]
    except KeyError:
        raise NotInTable(
            "conductor", f"{size_mm2} mm2", f"{', '.join(_OUTSIDE_MM)} mm2", "EN 50525-2-31", "Measure the cable and use its diameter."
        ) from None


def bend_radius_mm(outside_mm: float) -> float:
    """Least inside radius in mm of a conduit bend: two and a half times its outside diameter (common practice; BS 7671 522.8.3)."""
    return 2.5 * outside_mm


def space_factor(trunking: bool) -> float:
    """Share that may be filled: 45 % of a trunking, 40 % of a conduit with long bends (common practice; IEC 61386 leaves it open)."""
    return SPACE_FACTOR_TRUNKING if trunking else SPACE_FACTOR_CONDUIT

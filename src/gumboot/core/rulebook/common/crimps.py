"""With which die is a compression lug pressed, and how often?"""

from __future__ import annotations

from gumboot.core.rulebook.loader import read_table

# DIN 46235: the number that stands on lug and die, by the cross-section of the conductor.
DIES: dict[str, str] = {f"{float(row['size_mm2']):g} mm2": row["die"] for row in read_table("common/tables/crimps.csv")}
# Up to this one crimp, above it two, common practice: what stands on the lug wins.
ONE_CRIMP_MM2 = 35.0


def die_words(size: str) -> str:
    """The die for a lug of a size: by its number where that is of a standard, else as the lug's maker marks it."""
    return f"die {DIES[size]}" if size in DIES else f"die marked {size}"


def crimps(area_mm2: float) -> int:
    """How many crimps a barrel takes, at least, for a conductor of an area in mm2 above 0."""
    return 1 if area_mm2 <= ONE_CRIMP_MM2 else 2

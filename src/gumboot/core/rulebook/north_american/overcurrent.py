"""Which device protects this conductor?"""

from __future__ import annotations

from gumboot.core.errors import OutOfRange
from gumboot.core.rulebook.loader import read_table

STANDARD_A = tuple(float(r["rating_a"]) for r in read_table("north_american/tables/standard_ratings.csv"))
SMALL_CEILING_A = {r["size"]: float(r["device_max_a"]) for r in read_table("north_american/tables/small_conductor_ceiling.csv")}


def next_standard_a(minimum_a: float) -> float:
    """Smallest standard rating in A at or above ``minimum_a`` (Table 240.6(A)). Raises OutOfRange when exhausted."""
    for rating in STANDARD_A:
        if rating >= minimum_a - 1e-9:
            return rating
    raise OutOfRange("device rating", f"{minimum_a:.0f} A", "up to 600 A", "NEC 2023 Table 240.6(A)", "Split the circuit.")


def largest_device_a(size: str, usable_ampacity_a: float) -> float:
    """Largest device in A that protects the conductor: 240.4(B) next size up, capped by 240.4(D) for small sizes."""
    device_a = next_standard_a(usable_ampacity_a)
    return min(device_a, SMALL_CEILING_A.get(size, device_a))

"""Which device protects this conductor?"""

from __future__ import annotations

from bisect import bisect_left

from gumboot.core.errors import OutOfRange
from gumboot.core.expression import Amount, named
from gumboot.core.rulebook.loader import read_table

STANDARD_A = tuple(float(r["rating_a"]) for r in read_table("north_american/tables/standard_ratings.csv"))
SMALL_CEILING_A: dict[str, dict[str, float]] = {"copper": {}, "aluminium": {}}
for _row in read_table("north_american/tables/small_conductor_ceiling.csv"):
    for _material, _ceilings in SMALL_CEILING_A.items():
        if _row[f"{_material}_max_a"]:
            _ceilings[_row["size"]] = float(_row[f"{_material}_max_a"])
CONTINUOUS_FACTOR = 1.25


def next_standard_a(minimum_a: Amount) -> Amount:
    """Smallest standard rating in A at or above ``minimum_a`` (Table 240.6(A)). Raises OutOfRange when exhausted."""
    at = bisect_left(STANDARD_A, float(minimum_a) - 1e-9)
    if at < len(STANDARD_A):
        return named("next standard rating from {0}", STANDARD_A[at], minimum_a)
    raise OutOfRange(
        "device rating", f"{float(minimum_a):.0f} A", f"up to {STANDARD_A[-1]:g} A", "NEC 2023 Table 240.6(A)", "Split the circuit."
    )


def largest_device_a(size: str, usable_ampacity_a: float, material: str = "copper") -> float:
    """Largest device in A that protects the conductor: 240.4(B) next size up, capped by 240.4(D) for small sizes."""
    device_a = next_standard_a(usable_ampacity_a)
    return min(device_a, SMALL_CEILING_A[material].get(size, device_a))


def continuous_minimum_a(continuous_a: Amount, other_a: Amount, fully_rated: bool = False) -> Amount:
    """Least device rating in A: 125 % of continuous load and all of the rest; 100 % where the assembly is listed for it (210.20(A), 215.3)."""
    return continuous_a + other_a if fully_rated else CONTINUOUS_FACTOR * continuous_a + other_a

"""Does this device protect this conductor against overload and short circuit?"""

from __future__ import annotations

import math
from typing import Literal

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import Amount, named
from gumboot.core.rulebook.loader import read_table

DeviceFamily = Literal["breaker", "moulded-case breaker", "gG fuse", "gPV fuse", "aM fuse"]
Curve = Literal["B", "C", "D"]
RATINGS_A: dict[str, tuple[float, ...]] = {}
for _row in read_table("iec_family/tables/device_ratings.csv"):
    RATINGS_A[_row["family"]] = (*RATINGS_A.get(_row["family"], ()), float(_row["rating_a"]))
CURVES = {
    r["curve"]: (float(r["instant_low_multiple"]), float(r["instant_high_multiple"]), float(r["mean_multiple"]))
    for r in read_table("iec_family/tables/breaker_curves.csv")
}
OVERLOAD_FACTOR = 1.45


def next_rating_a(minimum_a: Amount, family: DeviceFamily = "breaker") -> Amount:
    """Smallest standard rating in A (IEC 60898-1, IEC 60269-2, IEC 60269-6). Raises OutOfRange when exhausted."""
    least_a = float(minimum_a)
    for rating in RATINGS_A[family]:
        if rating >= least_a - 1e-9:
            return named(f"next {family} rating from {{0}}", rating, minimum_a)
    raise OutOfRange(
        "device rating",
        f"{least_a:.0f} A",
        f"up to {RATINGS_A[family][-1]:g} A",
        f"standard {family} ratings",
        "Split the circuit.",
    )


def operating_current_a(rating_a: float, family: DeviceFamily = "breaker") -> float:
    """Current I2 in A that surely operates the device in the conventional time: 1.45 In; gG 1.6 In, 1.9 In below 16 A; gPV 1.45 In.

    A moulded-case breaker 1.3 In (IEC 60947-2); an aM fuse never for an overload: it breaks short circuits alone (IEC 60269-1).
    """
    if family == "aM fuse":
        return math.inf
    if family == "moulded-case breaker":
        return 1.3 * rating_a
    if family == "gG fuse":
        return (1.6 if rating_a >= 16 else 1.9 if rating_a > 4 else 2.1) * rating_a
    return 1.45 * rating_a


def coordinated(design_a: float, rating_a: float, capacity_a: float, family: DeviceFamily = "breaker") -> bool:
    """Whether Ib <= In <= Iz and I2 <= 1.45 Iz (IEC 60364-4-43 433.1)."""
    return (
        design_a <= rating_a + 1e-9
        and rating_a <= capacity_a + 1e-9
        and operating_current_a(rating_a, family) <= OVERLOAD_FACTOR * capacity_a + 1e-9
    )


def least_capacity_a(rating_a: float, family: DeviceFamily = "breaker") -> float:
    """Least conductor capacity Iz in A that the device protects: the larger of In and I2 / 1.45 (433.1)."""
    return max(rating_a, operating_current_a(rating_a, family) / OVERLOAD_FACTOR)


def instant_trip_a(rating_a: Amount, curve: Curve) -> Amount:
    """Current in A that surely trips the breaker at once: 5, 10 or 20 times its rating (IEC 60898-1). Raises NotInTable."""
    return _multiples(curve)[1] * rating_a


def mean_trip_a(rating_a: Amount, curve: Curve) -> Amount:
    """Mean tripping current in A: 4, 7.5 or 12.5 times the rating (AS/NZS 3000 Table 8.1). Raises NotInTable."""
    return _multiples(curve)[2] * rating_a


def _multiples(curve: Curve) -> tuple[float, float, float]:
    try:
        return CURVES[curve]
    except KeyError:
        raise NotInTable("curve", curve, "B, C or D", "IEC 60898-1", "Choose one of these.") from None

"""What does it cost to join unlike faces?"""

from __future__ import annotations

import numpy as np

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.study.year import face_yield_w, place_of


def series_mismatch_pct(plan: Plan, face_a: str, modules_a: int, face_b: str, modules_b: int) -> float | None:
    """Share of a year's yield lost by joining modules of two faces in one string, %, None while the place is not known.

    At each hour the string works either at the darker face's current with all modules, or at the brighter one's with the
    others bypassed, whichever gives more: the two peaks of such a string.
    """
    place, _ = place_of(plan.job)
    if place is None:
        return None
    a, b = face_yield_w(plan, place, face_a), face_yield_w(plan, place, face_b)
    alone = modules_a * a + modules_b * b
    joined = np.maximum((modules_a + modules_b) * np.minimum(a, b), np.maximum(modules_a * a, modules_b * b))
    total = float(alone.sum())
    return 100 * (1 - float(joined.sum()) / total) if total > 0 else None


def series_mismatch(plan: Plan, modules: int = 6) -> Figure | None:
    """What a string of two unlike faces, ``modules`` of each, would lose, as a figure; None with fewer than two faces or no place."""
    if len(plan.job.faces) < 2:
        return None
    first, second = plan.job.faces[:2]
    value = series_mismatch_pct(plan, first.id, modules, second.id, modules)
    if value is None:
        return None
    name = f"Lost by {modules} modules of {first.title.lower()} and {modules} of {second.title.lower()} in one string"
    return Figure(
        "mismatch.series",
        "f_mis",
        name,
        value,
        "%",
        source="sun.chain",
        limits="Each hour the better of two peaks: all at the darker face's current, or the darker ones bypassed.",
    )

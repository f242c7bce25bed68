"""Which is the smallest raceway for a run as it is planned?"""

from __future__ import annotations

import math

from gumboot.core.errors import OutOfRange
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.raceways import conductor_areas_mm2, group_of
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.books.raceways import BOXES
from gumboot.core.rulebook.north_american.raceway import smallest_raceway

TRADE_KINDS = ("EMT", "PVC 40", "PVC 80", "FMC", "LFMC")


def smallest_for(plan: Plan, circuit_id: str) -> str:
    """The smallest raceway of the run's kind in words; of the book's usual kind where none is chosen. Empty while it is not sized."""
    sized = plan.circuits.sized.get(circuit_id)
    if sized is None:
        return ""
    rule_book = book(plan.job.rule_book)
    kind = sized.run.raceway or rule_book.raceways.usual_kind
    try:
        areas = [a for z in group_of(plan.house, sized, plan.circuits) for a in conductor_areas_mm2(plan.house, z, rule_book)]
        if kind in TRADE_KINDS:
            return f"{kind} {smallest_raceway(kind, areas, sized.run.raceway_mm)}"
        share = rule_book.raceways.share(kind, len(areas), sized.run.raceway_mm)[0]
    except OutOfRange as refused:
        return f"none: {refused}"
    inside = sum(areas) / share
    if kind in BOXES:
        return f"{kind} of {inside:.0f} mm² inside, such as {math.ceil(math.sqrt(inside) / 10) * 10} mm square"
    return f"{kind} of {math.ceil(math.sqrt(4 * inside / math.pi))} mm inside"

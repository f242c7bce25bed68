"""Which is the smallest raceway for a run as it is planned?"""

from __future__ import annotations

import math

from gumboot.core.errors import OutOfRange
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.raceways import conductor_areas_mm2
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.iec_family.raceway import space_factor
from gumboot.core.rulebook.north_american.raceway import FILL_WIREWAY, smallest_raceway

TRADE_KINDS = ("EMT", "PVC 40", "PVC 80", "FMC", "LFMC")


def smallest_for(plan: Plan, circuit_id: str) -> str:
    """The smallest raceway of the run's kind in words; of EMT or conduit where no kind is chosen. Empty while it is not sized."""
    sized = plan.circuits.sized.get(circuit_id)
    if sized is None:
        return ""
    family = book(plan.job.rule_book).family
    group = [sized, *(plan.circuits.sized[n] for n in sized.run.shares_with if n in plan.circuits.sized and n != circuit_id)]
    kind = sized.run.raceway or ("EMT" if family == "nec" else "conduit")
    try:
        areas = [a for z in group for a in conductor_areas_mm2(z, family)]
        if kind in TRADE_KINDS:
            return f"{kind} {smallest_raceway(kind, areas, sized.run.raceway_mm)}"
    except OutOfRange as refused:
        return f"none: {refused}"
    box = kind in ("trunking", "wireway")
    share = FILL_WIREWAY if family == "nec" else space_factor(box)
    inside = sum(areas) / share
    if box:
        return f"{kind} of {inside:.0f} mm² inside, such as {math.ceil(math.sqrt(inside) / 10) * 10} mm square"
    return f"{kind} of {math.ceil(math.sqrt(4 * inside / math.pi))} mm inside"

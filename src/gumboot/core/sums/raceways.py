"""How full is this conduit, trunking or wireway?"""

from __future__ import annotations

from collections import Counter
from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.plan.raceways import inside_area_mm2
from gumboot.core.rulebook.books.wiring import Core
from gumboot.core.rules import raceways as rules
from gumboot.core.sums.ask import Ask, choice, quantity, words
from gumboot.core.workbook import Workbook


class ConduitFill(Ask):
    """Fill of a conduit, trunking or wireway."""

    kind: Literal["EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway", "conduit", "trunking"] = choice("Kind")
    raceway: str = words("text", "Trade size, inside diameter in mm, or width x height in mm", max_length=20)
    wires: tuple[str, ...] = words("sizes", "Every conductor, earth too", min_length=1, max_length=100)
    insulation: Literal["THWN-2", "XHHW-2", "RHW-2"] = choice("Insulation (NEC)", "THWN-2")
    length: float | None = quantity("m", "Length, for a nipple", None, gt=0, le=1000)


def conduit_fill(w: Workbook, q: ConduitFill) -> Figure:
    """Share filled, against the share allowed."""
    clauses = w.book.raceways
    areas = [clauses.area_mm2(Core(insulation=q.insulation), size) for size in q.wires]
    share, source, words_ = clauses.share(q.kind, len(areas), q.length * 1000 if q.length is not None else None)
    counted = ", ".join(f"{n} × {size}" for size, n in Counter(q.wires).items())
    total = w.work("wires", "A_w", f"Conductors: {counted}", sum(areas), "mm2", source=clauses.wire_source)
    inside = w.work("inside", "A_in", f"Inside of {q.kind} {q.raceway}", inside_area_mm2(q.kind, q.raceway), "mm2", source=source)
    fill = w.work("fill", "f", "Share filled", 100 * total / inside, "%", source=source)
    limit = w.work("limit", "f_max", "Share that may be filled", 100 * share, "%", source=source, limits=words_)
    facts = rules.Filled(where=f"{q.kind} {q.raceway}", raceway=f"{q.kind} {q.raceway}", fill=fill, most=limit, clause=source)
    w.ask(rules.room_inside, facts)
    return fill

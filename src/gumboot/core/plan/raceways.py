"""Do the conductors fit their conduit or wireway, and may they lie together?"""

from __future__ import annotations

import itertools
import math
import re

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.sizing import Sized
from gumboot.core.plan.sizing_iec import bare
from gumboot.core.rulebook.iec_family.raceway import outside_diameter_mm, space_factor
from gumboot.core.rulebook.north_american.raceway import FILL_WIREWAY, fill_limit, insulated_area_mm2, raceway_area_mm2

_BOX = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*[x×]\s*(\d+(?:\.\d+)?)\s*$")


def conductor_areas_mm2(sized: Sized, family: str) -> list[float]:
    """Outside areas in mm2 of every conductor of a run, earth counted. Raises NotInTable."""
    run = sized.run
    lines = [sized.size] * (run.sets * sum(core.role != "earth" for core in sized.circuit.cores))
    earths = [sized.earth_size] * (run.sets if sized.earth else 0)
    if family == "iec":
        return [math.pi / 4 * outside_diameter_mm(bare(size)) ** 2 for size in (*lines, *earths)]
    insulation = (
        run.insulation if run.insulation in ("THWN-2", "XHHW-2", "RHW-2") else "RHW-2" if run.cable == "flexible cable" else "THWN-2"
    )
    return [insulated_area_mm2(insulation, size) for size in (*lines, *earths)]


def inside_area_mm2(kind: str, size: str) -> float:
    """Inside area in mm2 of a raceway: trade size, inside diameter in mm, or width x height in mm. Raises NotInTable."""
    box = _BOX.match(size)
    if kind in ("wireway", "trunking") and box:
        return float(box.group(1)) * float(box.group(2))
    if kind == "conduit" and re.fullmatch(r"\d+(\.\d+)?", size.strip()):
        return math.pi / 4 * float(size) ** 2
    if kind in ("wireway", "trunking", "conduit"):
        raise NotInTable(kind, size, "150x100 for a wireway or trunking, 25 for a conduit, in mm", "the raceway field", "Write it so.")
    return raceway_area_mm2(kind, size)


def _share(ledger: Ledger, kind: str, count: int, length_mm: float | None) -> tuple[float, str, str]:
    if ledger.book.family == "iec":
        return space_factor(kind in ("trunking", "wireway")), "iec.trunking", "Straight runs and long bends."
    if kind in ("wireway", "trunking"):
        return FILL_WIREWAY, "nec.376.22", "A fifth of the cross-section."
    return (
        fill_limit(count, length_mm),
        "nec.ch9t1",
        f"{count} conductors" + (", a nipple." if fill_limit(count, length_mm) == 0.6 else "."),
    )


def _check_fill(ledger: Ledger, sized: Sized, group: list[Sized]) -> Figure | None:
    run, cid = sized.run, sized.circuit.id
    if run.raceway is None or not run.raceway_size:
        return None
    try:
        return _fill(ledger, sized, group, run.raceway, run.raceway_size)
    except OutOfRange as refused:
        ledger.verdict(
            "RACEWAY-FULL",
            False,
            cid,
            f"The fill of {cid} cannot be judged: {refused}",
            "Write the size as the table does, or choose conductors that it holds.",
            field=f"runs.{run.id}.raceway_size",
        )
        return None


def _fill(ledger: Ledger, sized: Sized, group: list[Sized], raceway: str, raceway_size: str) -> Figure:
    """Share of a raceway that its conductors fill, judged. Raises OutOfRange outside the tables."""
    run, cid = sized.run, sized.circuit.id
    areas = [a for z in group for a in conductor_areas_mm2(z, ledger.book.family)]
    share, source, words = _share(ledger, raceway, len(areas), run.raceway_mm)
    total = ledger.work(
        f"circuits.{cid}.wires_mm2",
        "A_w",
        f"Conductors in the raceway of {', '.join(z.circuit.id for z in group)}",
        sum(areas),
        "mm2",
        source if ledger.book.family == "iec" else "nec.ch9t1",
        limits=f"{len(areas)} conductors, insulation counted.",
    )
    inside = ledger.work(
        f"circuits.{cid}.raceway_mm2",
        "A_in",
        f"Inside of {raceway} {raceway_size}",
        inside_area_mm2(raceway, raceway_size),
        "mm2",
        source if ledger.book.family == "iec" else "nec.ch9t1",
    )
    fill = ledger.work(
        f"circuits.{cid}.fill_pct",
        "f",
        "Share of the raceway filled",
        100 * total.value / inside.value,
        "%",
        source,
        "100 * A_w / A_in",
        (total, inside),
    )
    limit = ledger.work(f"circuits.{cid}.fill_most", "f_max", "Share that may be filled", 100 * share, "%", source, limits=words)
    ledger.verdict(
        "RACEWAY-FULL",
        fill.value <= limit.value + 1e-9,
        cid,
        f"The {raceway} {raceway_size} of {cid} is filled to {fill.value:.0f} %; {limit.value:.0f} % is the most.",
        "Take the next size or share the conductors between two raceways.",
        found=fill,
        limit=limit,
        field=f"runs.{run.id}.raceway_size",
        source=source,
    )
    return fill


def may_share(first: Sized, second: Sized) -> bool:
    """Whether two runs may lie in one raceway: PV apart from all else, DC apart from AC."""
    kinds = {first.circuit.kind, second.circuit.kind}
    return kinds == {"pv"} or ("pv" not in kinds and first.circuit.is_dc == second.circuit.is_dc)


def plan_raceways(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Fill of every raceway that was chosen, and what may not share one."""
    for sized in plan.sized.values():
        group = [sized, *(plan.sized[name] for name in sized.run.shares_with if name in plan.sized and name != sized.circuit.id)]
        _check_fill(ledger, sized, group)
        for one, other in itertools.combinations(group, 2):
            if one is not sized:
                continue
            ledger.verdict(
                "RACEWAY-MIX",
                may_share(one, other),
                f"{one.circuit.id} and {other.circuit.id}",
                f"{one.circuit.title} and {other.circuit.title.lower()} lie in one raceway.",
                "Give each its own raceway, or a barrier.",
                field=f"runs.{sized.run.id}.raceway",
            )

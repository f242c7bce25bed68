"""Do the conductors fit their conduit or wireway, and may they lie together?"""

from __future__ import annotations

import itertools
import math
import re

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.rulebook.books import RuleBook
from gumboot.core.rulebook.books.raceways import BOXES
from gumboot.core.rulebook.books.wiring import Core
from gumboot.core.rulebook.north_american.raceway import raceway_area_mm2
from gumboot.core.rules import raceways as rules

_BOX = re.compile(r"^\s*(\d+(?:\.\d+)?)\s*[x×]\s*(\d+(?:\.\d+)?)\s*$")


def conductor_areas_mm2(house: House, sized: Sized, book: RuleBook) -> list[float]:
    """Outside areas in mm2 of every conductor of a run, earth counted. Raises NotInTable."""
    run = sized.run
    core = Core(material=run.material, insulation=run.insulation, cable=run.cable)
    sizes = [sized.earth_size if conductor.role == "earth" else sized.size for conductor in house.conductors(sized.circuit)]
    return [book.raceways.area_mm2(core, size) for size in sizes]


def inside_area_mm2(kind: str, size: str) -> float:
    """Inside area in mm2 of a raceway: trade size, inside diameter in mm, or width x height in mm. Raises NotInTable."""
    box = _BOX.match(size)
    if kind in BOXES and box:
        return float(box.group(1)) * float(box.group(2))
    if kind == "conduit" and re.fullmatch(r"\d+(\.\d+)?", size.strip()):
        return math.pi / 4 * float(size) ** 2
    if kind in (*BOXES, "conduit"):
        raise NotInTable(kind, size, "150x100 for a wireway or trunking, 25 for a conduit, in mm", "the raceway field", "Write it so.")
    return raceway_area_mm2(kind, size)


def group_of(house: House, sized: Sized, plan: CircuitsPlan) -> list[Sized]:
    """A run with those that lie in its raceway."""
    raceway, own = house.raceway_of(sized.circuit.id), sized.circuit.id
    return [sized, *[plan.sized[name] for name in (raceway.runs if raceway else ()) if name in plan.sized and name != own]]


def _fill(ledger: Ledger, sized: Sized, group: list[Sized], raceway: str, size: str) -> rules.Filled:
    """Share of a raceway that its conductors fill. Raises OutOfRange outside the tables."""
    cid, clauses = sized.circuit.id, ledger.book.raceways
    areas = [a for z in group for a in conductor_areas_mm2(ledger.house, z, ledger.book)]
    share, source, words = clauses.share(raceway, len(areas), sized.run.raceway_mm)
    name, at = f"Conductors in the raceway of {', '.join(z.circuit.id for z in group)}", clauses.area_source(source)
    counted = f"{len(areas)} conductors, insulation counted."
    total = ledger.work(f"circuits.{cid}.wires_mm2", "A_w", name, sum(areas), "mm2", source=at, limits=counted)
    within = inside_area_mm2(raceway, size)
    inside = ledger.work(f"circuits.{cid}.raceway_mm2", "A_in", f"Inside of {raceway} {size}", within, "mm2", source=at)
    fill = ledger.work(f"circuits.{cid}.fill_pct", "f", "Share of the raceway filled", 100 * total / inside, "%", source=source)
    most: Figure = ledger.work(
        f"circuits.{cid}.fill_most", "f_max", "Share that may be filled", 100 * share, "%", source=source, limits=words
    )
    return rules.Filled(
        where=cid, raceway=f"{raceway} {size}", fill=fill, most=most, clause=source, field=f"runs.{sized.run.id}.raceway_size"
    )


def _check_fill(ledger: Ledger, sized: Sized, group: list[Sized]) -> None:
    run, cid = sized.run, sized.circuit.id
    if run.raceway is None or not run.raceway_size:
        return
    try:
        facts = _fill(ledger, sized, group, run.raceway, run.raceway_size)
    except OutOfRange as refused:
        facts = rules.Filled(where=cid, raceway="", refusal=str(refused), field=f"runs.{run.id}.raceway_size")
    ledger.ask(rules.room_inside, facts)


def together(one: Sized, other: Sized) -> rules.Together:
    """Two runs in one raceway."""
    a, b = one.circuit, other.circuit
    return rules.Together(
        names=(a.id, b.id), titles=(a.title, b.title), kinds=(a.kind, b.kind), direct=(a.is_dc, b.is_dc), field=f"runs.{one.run.id}.raceway"
    )


def plan_raceways(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Fill of every raceway that was chosen, and what may not share one."""
    there = {*ledger.house.by_id, *[run.id for run in ledger.job.runs]}
    for run in ledger.job.runs:
        if run.shares_with and run.id in ledger.house.by_id:
            unknown = [name for name in run.shares_with if name not in there]
            ledger.ask(rules.names_are_known, rules.Named(run=run.id, unknown=unknown))
    for raceway in ledger.house.raceways:
        inside = [plan.sized[name] for name in raceway.runs if name in plan.sized]
        for sized in inside:
            _check_fill(ledger, sized, group_of(ledger.house, sized, plan))
        for one, other in itertools.combinations(inside, 2):
            named_by = other.circuit.id in one.run.shares_with or one.circuit.id not in other.run.shares_with
            ledger.ask(rules.may_share, together(one, other) if named_by else together(other, one))

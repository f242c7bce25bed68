"""Every length of cable, and what its ends and entries take."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from gumboot.core.installation import Circuit
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.cutting import TAIL_M, cut_m
from gumboot.core.plan.derive import Plan
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.common.identification import identification
from gumboot.core.study.materials.parts import Cut, Item
from gumboot.core.workbook import Workbook


def _insulation(plan: Plan, sized: Sized) -> str:
    run = sized.run
    if run.cable != "building wire":
        return run.cable
    return run.insulation or book(plan.job.rule_book).usual_insulation(pv=sized.circuit.kind == "pv")


def _colour(plan: Plan, circuit: Circuit, role: str) -> str:
    rules = book(plan.job.rule_book)
    landed = next((t.colour for t in plan.terminations if t.circuit == circuit.id and t.role == role), "")
    return landed or identification(rules.identification, role).colour


def cuts_of(plan: Plan, w: Workbook) -> list[Cut]:
    """Every length to cut, from the routes."""
    found, standing = [], plan.house.standing()
    slack = w.given("preferences.slack_pct", "s", "Slack added to each length", plan.job.preferences.slack_pct, "%")
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is None or circuit.id in standing:
            continue
        length = w.work(
            f"cut.{circuit.id}",
            "L_cut",
            f"Cut each core of {circuit.title.lower()} to",
            cut_m(sized.length, slack),
            "m",
            source="cp.slack",
            limits=f"{TAIL_M:g} m of free end in each box. A core that passes a switch is cut there.",
        )
        rows: Counter[tuple[str, str]] = Counter()
        for conductor in plan.house.conductors(circuit):
            rows[conductor.role, sized.earth_size if conductor.role == "earth" else sized.size] += 1
        for (role, size), count in rows.items():
            found.append(
                Cut(
                    circuit.id,
                    circuit.title,
                    role,
                    _colour(plan, circuit, role),
                    size,
                    sized.run.wire_class,
                    sized.run.material,
                    _insulation(plan, sized),
                    count,
                    length,
                )
            )
    return found


def cable_of(cuts: list[Cut]) -> list[Item]:
    """Cable by kind, all lengths together."""
    totals: dict[tuple[str, ...], float] = defaultdict(float)
    where: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for cut in cuts:
        key = (cut.size, cut.colour, cut.insulation, cut.wire_class, cut.material)
        totals[key] += cut.count * cut.length.value
        if cut.circuit not in where[key]:
            where[key].append(cut.circuit)
    return [
        Item("Cable", f"{size} {material}, {insulation}, {wire}, {colour}", math.ceil(10 * total - 1e-9) / 10, "m", ", ".join(where[key]))
        for key, total in totals.items()
        for size, colour, insulation, wire, material in [key]
    ]


def ends_at(plan: Plan) -> Iterator[tuple[str, str, int]]:
    """Of each end that takes a lug or a ferrule: its box, what it takes, how many."""
    for t in plan.terminations:
        if t.terminal.end == "lug":
            yield t.place, f"Lug {t.terminal.lug_hole or 'by stud'}, {t.size} barrel", 1
        elif t.terminal.end == "ferrule":
            yield t.place, f"Ferrule, {t.size}", 1


def ends_of(plan: Plan) -> list[Item]:
    """Lugs and ferrules."""
    lugs: Counter[str] = Counter()
    places: dict[str, set[str]] = defaultdict(set)
    for place, name, count in ends_at(plan):
        lugs[name] += count
        places[name].add(place)
    return [Item("Lugs and ferrules", name, count, "", ", ".join(sorted(places[name]))) for name, count in sorted(lugs.items())]


class _Pulled(NamedTuple):
    """A run that is bought: its circuit as sized, and the raceway that is bought with it, empty where it lies in none or in another's."""

    circuit: Circuit
    sized: Sized
    raceway: str
    is_shared: bool

    @property
    def boxes(self) -> list[str]:
        """The boxes that it goes into."""
        return sorted({end.place for core in self.circuit.cores for end in core.ends})


def _pulled(plan: Plan) -> Iterator[_Pulled]:
    standing = plan.house.standing()
    # A raceway is bought once, with the first of its runs that names it.
    first = {raceway.said_by[0] for raceway in plan.house.raceways if raceway.said_by}
    shared = {run for raceway in plan.house.raceways if raceway.said_by for run in raceway.runs} - first
    for circuit in plan.circuits.all:
        sized = plan.circuits.sized.get(circuit.id)
        if sized is not None and circuit.id not in standing:
            own = bool(sized.run.raceway and sized.run.raceway_size and circuit.id in first)
            yield _Pulled(circuit, sized, f"{sized.run.raceway}, {sized.run.raceway_size}" if own else "", circuit.id in shared)


def glands_at(plan: Plan) -> Iterator[tuple[str, str, int]]:
    """Of each entry that is bought: its box, the gland or fitting, how many."""
    for run in _pulled(plan):
        if run.raceway:
            yield from ((box, f"Fitting for {run.raceway}", 1) for box in run.boxes)
        elif not run.is_shared and run.circuit.kind != "interlink":
            name = f"Gland for {run.circuit.title.lower()}, {len(run.circuit.cores)} cores {run.sized.size}"
            yield from ((box, name, 1) for box in run.boxes)


def entries_of(plan: Plan) -> list[Item]:
    """Glands, fittings and raceway."""
    conduits: dict[str, float] = defaultdict(float)
    routes: dict[str, list[str]] = defaultdict(list)
    for run in _pulled(plan):
        if run.raceway:
            conduits[run.raceway] += run.sized.length.value
            routes[run.raceway].append(run.circuit.id)
    rows = [Item("Raceway", name, math.ceil(10 * length - 1e-9) / 10, "m", ", ".join(routes[name])) for name, length in conduits.items()]
    merged: dict[str, list[str]] = defaultdict(list)
    for box, name, count in glands_at(plan):
        merged[name] += [box] * count
    return rows + [Item("Glands and fittings", name, len(boxes), "", ", ".join(sorted(set(boxes)))) for name, boxes in merged.items()]

"""Studies of a plan as the pages ask for them, each worked out once while its plan is remembered."""

from __future__ import annotations

import re
from collections.abc import Callable
from threading import Lock
from typing import Any, TypeVar

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.study import alternatives, conduit, growth, layout_ranks, layouts, materials, pick, placing, schools, sensitivity, van
from gumboot.core.study import year as years
from gumboot.store.recent import Recent

T = TypeVar("T")
# By the plan itself, not its id alone: while the entry stands, the plan cannot be freed and its id used again.
_KEPT: Recent[tuple[int, str], tuple[Plan, Any]] = Recent(256)
# Held while the libraries of studies load beside the first requests: a half-loaded one answers nobody.
_LOADING = Lock()


def once(plan: Plan, name: str, ask: Callable[[], T]) -> T:
    """The answer of a study, kept beside its plan."""
    key = (id(plan), name)
    found = _KEPT.get(key)
    if found is None:
        with _LOADING:
            pass
        found = _KEPT.keep(key, (plan, ask()))
    answer: T = found[1]
    return answer


def year(plan: Plan) -> years.YearStudy:
    """The year and its outages."""
    return once(plan, "year", lambda: years.study_year(plan))


def best_pick(plan: Plan, legs_free: bool) -> pick.Pick:
    """The best pick of circuits."""
    return once(plan, f"pick {legs_free}", lambda: pick.best_pick(plan, legs_free))


def balance(plan: Plan) -> pick.Balance:
    """The balanced legs."""
    return once(plan, "balance", lambda: pick.balance_legs(plan))


def starts(plan: Plan) -> pick.Starts:
    """What may start together."""
    return once(plan, "starts", lambda: pick.what_may_start_together(plan))


def three_schools(plan: Plan) -> tuple[schools.School, ...]:
    """The three schools of backing up."""
    return once(plan, "schools", lambda: schools.compare_schools(plan))


def found_layouts(plan: Plan, modules: int | None, first: str = "yield") -> layout_ranks.Found:
    """Ranked layouts of the roof, by yield, margin or wiring."""
    by = first if first in ("yield", "margin", "wiring") else "yield"
    return once(plan, f"layouts {modules} {by}", lambda: layout_ranks.find_layouts(plan, modules, first=by))


def what_comes_along(plan: Plan, today: str) -> van.Van:
    """The van list on a day: tools whose calibration is over by then are none."""
    return once(plan, f"van {today}", lambda: van.van_of(plan, today))


def places(plan: Plan) -> placing.Proposal | None:
    """Where everything could hang."""
    return once(plan, "places", lambda: placing.propose(plan))


def material(plan: Plan) -> materials.Materials:
    """Cut list and material list."""
    return once(plan, "materials", lambda: materials.materials(plan))


def sizes(plan: Plan, circuit: str) -> tuple[alternatives.Alternative, ...]:
    """Other conductors for a circuit."""
    return once(plan, f"sizes {circuit}", lambda: alternatives.alternatives(plan, circuit))


def what_changes(plan: Plan, key: str) -> sensitivity.Sensitivity:
    """What would change a figure."""
    return once(plan, f"changes {key}", lambda: sensitivity.sensitivity(plan, key))


room_to_grow, helps_power = growth.room_to_grow, growth.helps_power
wall_length_m, wall_route = materials.wall_length_m, materials.wall_route
series_mismatch, smallest_for = layouts.series_mismatch, conduit.smallest_for


def prefix_of(part: Plan) -> str:
    """What keys of an island's own studies begin with: nothing for the first island, whose keys are the house's."""
    return f"island|{part.house.lead.id}|" if part.house.mark else ""


def of_island(part: Plan, figure: Figure) -> Figure:
    """A figure of an island's study, under a key that tells it from the first island's."""
    prefix = prefix_of(part)
    return figure if not prefix or figure.key in part.figures else figure.renamed(key=prefix + figure.key)


def named_island(plan: Plan, leader: str) -> Plan | None:
    """The island that an inverter leads, the first where none is named; None for a name that leads none."""
    return next((part for part in plan.islands if leader in ("", part.house.lead.id)), None)


def feeds(plan: Plan, key: str) -> list[Figure]:
    """Figures that rest directly on this one."""
    return [f for f in plan.figures.values() if any(g.key == key for g in f.given)]


def figure_of(plan: Plan, key: str) -> Figure | None:
    """A figure that belongs to a study of the plan, or None."""
    if key.startswith("alt|"):
        return _of_another_size(plan, key)
    if key.startswith("island|"):
        _, leader, own = [*key.split("|", 2), "", ""][:3]
        part = named_island(plan, leader)
        if part is None or part is plan:
            return None
        return _elsewhere(part.figures.get(own) or figure_of(part, own), key.removesuffix(own))
    if key.startswith("school|"):
        _, name, own = [*key.split("|", 2), "", ""][:3]
        plan = _first(plan)
        school = next((s for s in three_schools(plan) if s.name == name), None)
        return _elsewhere(school.plan.figures.get(own) if school else None, key.removesuffix(own))
    place = re.fullmatch(r"outage\.field\.(\d{1,2})\.(\d{1,2})", key)
    if place and int(place.group(1)) < 24 and 1 <= int(place.group(2)) <= 12:
        return years.field_figure(year(_first(plan)), int(place.group(1)), int(place.group(2)) - 1)
    return _within({f.key: f for f in _figures(plan, key)}, key)


def _first(plan: Plan) -> Plan:
    """The first island of a house, or an island itself."""
    return plan if plan.house.is_apart else plan.islands[0]


def _elsewhere(found: Figure | None, prefix: str) -> Figure | None:
    """A figure of another plan: it and what it rests on are opened in that plan, not in the job's own."""
    if found is None:
        return None
    own = found.key.removeprefix(prefix)
    return found.renamed(key=prefix + own, given=tuple(g.renamed(key=prefix + g.key) for g in found.given))


def _of_another_size(plan: Plan, key: str) -> Figure | None:
    _, circuit, size, own = [*key.split("|", 3), "", "", ""][:4]
    row = next((r for r in sizes(plan, circuit) if r.size == size), None) if circuit in plan.circuits.sized else None
    if row is None or row.plan is None:
        return None
    found = row.headroom if own.startswith("headroom.") else row.copper if own.startswith("copper.") else row.plan.figures.get(own)
    return _elsewhere(found, key.removesuffix(own))


def _figures(plan: Plan, key: str) -> list[Figure]:
    """The figures of the study that a key speaks of."""
    if key.startswith(("year.", "outage.", "buys.")):
        return list(year(_first(plan)).figures.values())
    if key.startswith("cut."):
        return list(material(plan).figures.values())
    if key.startswith("placing."):
        placed = places(plan)
        return [f for f in (placed.before, placed.after) if f is not None] if placed is not None else []
    if key.startswith("route."):
        return [f for c in plan.circuits.all if (f := materials.wall_route(plan, c)) is not None]
    if key.startswith("room."):
        return [r.figure(len(plan.house.bank(b.id).thing.units)) for b in plan.banks for r in growth.room_to_grow(plan, b.id)]
    if key.startswith("balance."):
        return [balance(_first(plan)).after(leg) for leg in _first(plan).loads.running]
    if key.startswith("pick."):
        picks = [s.figure for free in (False, True) for x in best_pick(_first(plan), free).left_out for s in x.because]
        return [f for f in picks if f is not None]
    if key.startswith("mismatch."):
        return [f for f in (layouts.series_mismatch(plan),) if f is not None]
    if key.startswith("layout."):
        counts = (None, *found_layouts(plan, None).counts)
        asked = [(n, by) for n in counts for by in ("yield", "margin", "wiring")]
        rows = [
            x
            for n, by in asked
            if (n is None and by == "yield") or _KEPT.get((id(plan), f"layouts {n} {by}"))
            for x in found_layouts(plan, n, by).best
        ]
        return [f for x in rows for f in (x.margin, x.yearly) if f is not None]
    kept = [found[1].figures for name in ("year", "materials") if (found := _KEPT.get((id(plan), name)))]
    return [f for figures in kept for f in figures.values()]


def _within(figures: dict[str, Figure], key: str) -> Figure | None:
    if key in figures:
        return figures[key]
    return next((g for f in figures.values() for g in f.given if g.key == key), None)


def warm() -> None:
    """Load what the studies stand on."""
    with _LOADING:
        import pvlib  # noqa: F401
        import scipy.optimize  # noqa: F401

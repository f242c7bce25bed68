"""Studies of a plan as the pages ask for them, each worked out once while its plan is remembered."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.study import alternatives, conduit, growth, layouts, materials, pick, schools, sensitivity
from gumboot.core.study import year as years

T = TypeVar("T")
MOST = 256
# By the plan itself, not its id alone: while the entry stands, the plan cannot be freed and its id used again.
_KEPT: OrderedDict[tuple[int, str], tuple[Plan, Any]] = OrderedDict()


def once(plan: Plan, name: str, ask: Callable[[], T]) -> T:
    """The answer of a study, kept beside its plan."""
    key = (id(plan), name)
    found = _KEPT.get(key)
    if found is None:
        found = _KEPT[key] = (plan, ask())
    _KEPT.move_to_end(key)
    while len(_KEPT) > MOST:
        _KEPT.popitem(last=False)
    return found[1]


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


def found_layouts(plan: Plan, modules: int | None) -> layouts.Found:
    """Ranked layouts of the roof."""
    return once(plan, f"layouts {modules}", lambda: layouts.find_layouts(plan, modules))


def material(plan: Plan) -> materials.Materials:
    """Cut list and material list."""
    return once(plan, "materials", lambda: materials.materials(plan))


def sizes(plan: Plan, circuit: str) -> tuple[alternatives.Alternative, ...]:
    """Other conductors for a circuit."""
    return once(plan, f"sizes {circuit}", lambda: alternatives.alternatives(plan, circuit))


def what_changes(plan: Plan, key: str) -> sensitivity.Sensitivity:
    """What would change a figure."""
    return once(plan, f"changes {key}", lambda: sensitivity.sensitivity(plan, key))


room_to_grow, helps_power, wall_length_m = growth.room_to_grow, growth.helps_power, materials.wall_length_m
series_mismatch_pct, smallest_for = layouts.series_mismatch_pct, conduit.smallest_for


def feeds(plan: Plan, key: str) -> list[Figure]:
    """Figures that rest directly on this one."""
    return [f for f in plan.figures.values() if any(g.key == key for g in f.given)]


def figure_of(plan: Plan, key: str) -> Figure | None:
    """A figure that belongs to a study of the plan, or None."""
    if key.startswith(("year.", "outage.", "buys.")):
        return _within(year(plan).figures, key)
    if key.startswith("cut."):
        return _within(material(plan).figures, key)
    for name in ("year", "materials"):
        kept = _KEPT.get((id(plan), name))
        if kept is not None and (found := _within(kept[1].figures, key)) is not None:
            return found
    return None


def _within(figures: dict[str, Figure], key: str) -> Figure | None:
    if key in figures:
        return figures[key]
    return next((g for f in figures.values() for g in f.given if g.key == key), None)


def warm() -> None:
    """Load what the studies stand on."""
    import pvlib  # noqa: F401
    import scipy.optimize  # noqa: F401

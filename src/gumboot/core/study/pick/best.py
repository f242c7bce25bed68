"""Which circuits are backed up best?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gumboot.core.figure import Figure
from gumboot.core.job.model import Leg, Load
from gumboot.core.plan.derive import Plan
from gumboot.core.sim.autonomy import hours_of
from gumboot.core.study.pick.limits import Limit, NoAnswer, Side, excess_figure, limits_of, options_of, what_it_takes

# One number for each option.
Row = NDArray[np.float64]


@dataclass(frozen=True)
class Shortfall:
    """What a load left out would break, by how much, and what it would take; ``figure`` is the excess with its working."""

    limit: str
    over: float
    unit: str
    takes: str
    figure: Figure | None = None


@dataclass(frozen=True)
class LeftOut:
    """A load that is not picked, with every limit that it would break if it were added to the pick."""

    load: Load
    because: tuple[Shortfall, ...]


@dataclass(frozen=True)
class Pick:
    """The best pick: loads with the leg each sits on, and what is left out."""

    chosen: tuple[tuple[Load, Leg], ...]
    left_out: tuple[LeftOut, ...]

    @property
    def changes(self) -> dict[str, tuple[Side, Leg]]:
        """Side and leg by load id, where they differ from the job."""
        wanted: dict[str, tuple[Side, Leg]] = {load.id: ("backed", leg) for load, leg in self.chosen}
        wanted |= {x.load.id: ("house", x.load.leg) for x in self.left_out}
        loads = [load for load, _ in self.chosen] + [x.load for x in self.left_out]
        return {x.id: wanted[x.id] for x in loads if wanted[x.id] != (x.side, x.leg)}


def solved(cost: Row, rows: Sequence[tuple[Row, float, float]], upper: Row | float, integral: Row) -> Row:
    """The best whole-number choice within rows of limits (HiGHS, through SciPy)."""
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import csr_array

    # Sparse, for SciPy makes an error of every warning of the whole process while it reads a dense one: other threads then fail.
    constraints = (
        [LinearConstraint(csr_array([a for a, _, _ in rows]), [lo for _, lo, _ in rows], [hi for _, _, hi in rows])] if rows else []
    )
    answer = milp(cost, constraints=constraints, bounds=Bounds(0, upper), integrality=integral, options={"mip_rel_gap": 0.0})
    if answer.x is None:
        raise NoAnswer(f"The solver gave no answer: {answer.message} Change a load or a limit and ask again.")
    found: Row = answer.x
    return found


def _feasible_limits(limits: Sequence[Limit], count: int) -> list[tuple[Row, float, float]]:
    # A limit below nothing at all (a bank that cannot even feed the inverter itself) leaves room for no load, not an error.
    return [(np.array(x.adds), -np.inf, max(x.most, 0.0) + 1e-6) for x in limits if count]


def best_pick(plan: Plan, legs_free: bool = False) -> Pick:
    """The pick that serves most loads of priority 1, then of 2, then of 3, then most energy, then moves least. Exact.

    Loads on legs that the inverter lacks are left out. Raises NoAnswer when the solver fails.
    """
    loads, phases = plan.job.loads, plan.house.legs
    options = options_of(loads, phases, legs_free)
    limits = limits_of(plan, loads, options)
    count = len(options)
    rows = _feasible_limits(limits, count)
    for i in range(len(loads)):
        mine = np.array([1.0 if j == i else 0.0 for j, _ in options])
        if mine.any():
            rows.append((mine, -np.inf, 1.0))
    goals = [np.array([1.0 if loads[i].priority == level else 0.0 for i, _ in options]) for level in (1, 2, 3)]
    energy = np.array([sum(loads[i].running_w * loads[i].duty for _ in hours_of(loads[i])) for i, _ in options])
    stays = np.array([1.0 if loads[i].leg == leg and loads[i].side == "backed" else 0.0 for i, leg in options])
    taken = np.zeros(count)
    for goal in (*goals, energy, stays) if count else ():
        if not goal.any():
            continue
        taken = np.round(solved(-goal, rows, 1.0, np.ones(count)))
        best = float(goal @ taken)
        rows.append((goal, best - 1e-6 * max(1.0, best), np.inf))
    chosen = tuple((loads[i], leg) for k, (i, leg) in enumerate(options) if taken[k] > 0.5)
    ids = {load.id for load, _ in chosen}
    left = tuple(
        LeftOut(load, _why_left_out(plan, loads, options, limits, taken, index=i)) for i, load in enumerate(loads) if load.id not in ids
    )
    return Pick(chosen, left)


def _why_left_out(
    plan: Plan, loads: Sequence[Load], options: Sequence[tuple[int, str]], limits: Sequence[Limit], taken: Row, *, index: int
) -> tuple[Shortfall, ...]:
    mine = [k for k, (i, _) in enumerate(options) if i == index]
    if not mine:
        return (Shortfall("legs of the inverter", 0.0, "", f"It is on {loads[index].leg}, which this inverter does not give."),)
    broken: dict[int, list[Shortfall]] = {}
    for k in mine:
        broken[k] = []
        for n, x in enumerate(limits):
            total, most = float(np.array(x.adds) @ taken), max(x.most, 0.0)
            if total + x.adds[k] - most > 1e-6:
                excess = excess_figure(f"pick.{loads[index].id}.{n}.{options[k][1]}", x, total, x.adds[k], most)
                broken[k].append(Shortfall(x.title, excess.value, x.unit, what_it_takes(plan, x, excess.value), excess))
    fewest = min(broken.values(), key=lambda rows: (len(rows), sum(r.over for r in rows)))
    worst: dict[str, Shortfall] = {}
    for row in fewest:
        # Of the many starting hours only the worst is told.
        name = "energy of the outage" if row.unit == "Wh" else row.limit
        if name not in worst or row.over > worst[name].over:
            worst[name] = row
    return tuple(worst.values())

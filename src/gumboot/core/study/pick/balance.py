"""How are loads shared over the legs best?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.loads import leg_share
from gumboot.core.study.pick.best import Row, solved
from gumboot.core.study.pick.limits import on_leg, options_of


@dataclass(frozen=True)
class Balance:
    """Legs after balancing: moves by load id, and each leg before and after, W. ``running`` is what runs now, as the plan has it."""

    moves: dict[str, str]
    before_w: dict[str, float]
    after_w: dict[str, float]
    running: Mapping[str, Figure]

    def after(self, leg: str) -> Figure:
        """What a leg carries afterwards, as a figure."""
        now = self.running[leg]
        shift = self.after_w[leg] - self.before_w[leg]
        moved = Figure(f"balance.{leg}.moved", "P_mov", f"Moved onto {leg}, or off it", shift, "W", source="arith")
        return Figure(f"balance.{leg}", "P_run", f"Running on {leg} after balancing", now + moved, "W", source="arith")


def balance_legs(plan: Plan) -> Balance:
    """The assignment of the backed-up side's movable single-leg loads that makes the heaviest leg lightest, with fewest moves. Exact."""
    phases = plan.house.legs
    loads = [x for x in plan.job.loads if x.side == "backed"]
    before: dict[str, float] = {leg: float(sum(leg_share(x, leg) * x.running_w for x in loads)) for leg in phases}
    options = options_of(loads, phases, legs_free=True)
    known = [x for k, x in enumerate(loads) if any(i == k for i, _ in options)]
    if len(phases) < 2 or not known:
        return Balance({}, before, before, plan.loads.running)
    n = len(options)
    rows: list[tuple[Row, float, float]] = []
    for i in range(len(loads)):
        mine = np.array([1.0 if j == i else 0.0 for j, _ in options] + [0.0])
        if mine.any():
            rows.append((mine, 1.0, 1.0))
    for leg in phases:
        row = [leg_share(on_leg(loads[i], on), leg) * loads[i].running_w for i, on in options]
        rows.append((np.array([*row, -1.0]), -np.inf, 0.0))
    upper = np.array([*([1.0] * n), np.inf])
    integral = np.array([*([1] * n), 0])
    heaviest = solved(np.array([*([0.0] * n), 1.0]), rows, upper, integral)[-1]
    upper[-1] = heaviest + 1e-6 * max(1.0, heaviest)
    moved = np.array([0.0 if loads[i].leg == leg else 1.0 for i, leg in options] + [0.0])
    taken = np.round(solved(moved, rows, upper, integral)[:-1])
    chosen = {loads[i].id: leg for k, (i, leg) in enumerate(options) if taken[k] > 0.5}
    after: dict[str, float] = {
        leg: float(sum(leg_share(on_leg(x, chosen.get(x.id, x.leg)), leg) * x.running_w for x in loads)) for leg in phases
    }
    return Balance({x.id: chosen[x.id] for x in loads if x.id in chosen and chosen[x.id] != x.leg}, before, after, plan.loads.running)

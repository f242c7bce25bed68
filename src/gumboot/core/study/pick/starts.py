"""What may start together?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.loads import leg_share
from gumboot.core.rules import loads as rules
from gumboot.core.study.pick.best import solved
from gumboot.core.study.pick.limits import group_title


@dataclass(frozen=True)
class Starts:
    """What may start at one moment: the motors, whether each pair may, and a largest set that may."""

    names: tuple[str, ...]
    titles: tuple[str, ...]
    pairs: dict[tuple[str, str], bool]
    largest: tuple[str, ...]


def _starts(plan: Plan) -> tuple[list[str], dict[str, list[Load]]]:
    groups: dict[str, list[Load]] = {}
    for x in plan.job.loads:
        if x.side == "backed" and x.surge_w > x.running_w:
            groups.setdefault(x.starts_with or x.id, []).append(x)
    return list(groups), groups


def start_ok(plan: Plan, names: Sequence[str]) -> bool:
    """Whether the named groups may start at one moment while everything else runs."""
    _, groups = _starts(plan)
    together = [x for name in names for x in groups[name]]
    p = plan.loads
    extra_w = sum(x.surge_w - x.running_w for x in together)
    if rules.all_starting(_carried("backed-up side", p.running_total, extra_w, p.surge_limit)) is not None:
        return False
    if rules.bank_starts(_carried("bank", p.running_total, extra_w, p.bank_peak)) is not None:
        return False
    on = {leg: sum(leg_share(x, leg) * (x.surge_w - x.running_w) for x in together) for leg in p.running}
    return all(rules.leg_starting(_carried(leg, runs, on[leg], p.leg_surge_limit)) is None for leg, runs in p.running.items())


def _carried(where: str, runs: Figure, extra_w: float, most: Figure) -> rules.Carried:
    """What runs with several starts at once, against what holds them."""
    extra = Figure("starts.extra", "P_start", "Starts at one moment", extra_w, "W", source="cp.surge")
    return rules.Carried(where=where, power=Figure("starts.power", "P_surge", where, runs + extra, "W", source="cp.surge"), most=most)


def what_may_start_together(plan: Plan) -> Starts:
    """Every pair of starts judged, and a largest set that may start at one moment, found exactly."""
    names, groups = _starts(plan)
    pairs = {(a, b): start_ok(plan, (a, b)) for k, a in enumerate(names) for b in names[k + 1 :]}
    largest: tuple[str, ...] = ()
    if names:
        p, rows = plan.loads, []
        for leg in (None, *p.running):
            share = [sum((1.0 if leg is None else leg_share(x, leg)) * (x.surge_w - x.running_w) for x in groups[g]) for g in names]
            most = p.start_limit.value - p.running_total.value if leg is None else p.leg_surge_limit.value - p.running[leg].value
            rows.append((np.array(share), -np.inf, max(most, 0.0) + 1e-6))
        taken = np.round(solved(-np.ones(len(names)), rows, 1.0, np.ones(len(names))))
        largest = tuple(g for k, g in enumerate(names) if taken[k] > 0.5)
    titles = tuple(group_title(plan.job.loads, g).capitalize() for g in names)
    return Starts(tuple(names), titles, pairs, largest)

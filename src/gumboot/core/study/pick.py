"""Which circuits should be backed up when not all fit, on which legs, and what may start together? Solved exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.loads import leg_share
from gumboot.core.sim.autonomy import runs_at, whole_hours


class NoAnswer(GumbootError):
    """The solver found no answer to a question that always has one; nothing is guessed in its place."""


@dataclass(frozen=True)
class Limit:
    """One limit of the backed-up side: title, unit, most allowed, and what each (load, leg) option adds to it."""

    title: str
    unit: str
    most: float
    adds: tuple[float, ...]


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

    chosen: tuple[tuple[Load, str], ...]
    left_out: tuple[LeftOut, ...]

    @property
    def changes(self) -> dict[str, tuple[str, str]]:
        """Side and leg by load id, where they differ from the job."""
        wanted = {load.id: ("backed", leg) for load, leg in self.chosen} | {x.load.id: ("house", x.load.leg) for x in self.left_out}
        loads = [load for load, _ in self.chosen] + [x.load for x in self.left_out]
        return {x.id: wanted[x.id] for x in loads if wanted[x.id] != (x.side, x.leg)}


def options_of(loads: Sequence[Load], phases: Sequence[str], legs_free: bool) -> list[tuple[int, str]]:
    """Every (load index, leg) that may be chosen. A load across legs stays there; one that is fixed stays on its leg."""
    found = []
    for i, load in enumerate(loads):
        single = "+" not in load.leg and load.movable and legs_free
        legs = tuple(phases) if single else (load.leg,)
        found += [(i, leg) for leg in legs if set(leg.split("+")) <= set(phases)]
    return found


def _on(load: Load, leg: str) -> Load:
    return load if load.leg == leg else load.model_copy(update={"leg": leg})


def limits_of(plan: Plan, loads: Sequence[Load], options: Sequence[tuple[int, str]]) -> list[Limit]:
    """Continuous, pass-through, surge and energy limits as rows of a linear programme over the options."""
    inverter = plan.seats.inverter
    p, placed = plan.loads, [_on(loads[i], leg) for i, leg in options]
    bank = plan.figures["bank.power"]
    rows = [
        Limit("all running against the inverter", "W", p.total_limit.value, tuple(x.running_w for x in placed)),
        Limit("all running against the bank", "W", bank.value, tuple(x.running_w for x in placed)),
    ]
    for leg in plan.house.legs:
        on_leg = tuple(x.running_w * leg_share(x, leg) for x in placed)
        rows.append(Limit(f"{leg} running", "W", p.leg_limit.value, on_leg))
        if plan.job.site.supply != "none":
            rows.append(
                Limit(
                    f"{leg} through the inverter from the grid",
                    "W",
                    len(plan.house.units_on(leg)) * inverter.pass_through_a * inverter.leg_v,
                    on_leg,
                )
            )
    groups = list(dict.fromkeys(x.starts_with or x.id for x in placed if x.surge_w > x.running_w))
    for group in groups:
        for phase in (None, *plan.house.legs):
            adds = tuple(
                (1.0 if phase is None else leg_share(x, phase)) * (x.surge_w if (x.starts_with or x.id) == group else x.running_w)
                for x in placed
            )
            most = p.surge_limit.value if phase is None else p.leg_surge_limit.value
            rows.append(Limit(f"{phase or 'all'} when {_group_title(loads, group)} starts", "W", most, adds))
    hours = whole_hours(plan.job.settings.outage_hours)
    for start in range(24):
        adds = tuple(sum(x.running_w * x.duty for k in range(hours) if runs_at(x, (start + k) % 24)) for x in placed)
        rows.append(
            Limit(
                f"{hours} h from {start:02d}:00 out of the bank",
                "Wh",
                p.energy.value - sum(i.card.idle_w for i in plan.seats.inverters) * hours,
                adds,
            )
        )
    return rows


def _group_title(loads: Sequence[Load], group: str) -> str:
    return " and ".join(x.title.lower() for x in loads if (x.starts_with or x.id) == group)


def _solve(cost: Any, rows: Sequence[tuple[Any, float, float]], upper: Any, integral: Any) -> Any:
    from scipy.optimize import Bounds, LinearConstraint, milp

    constraints = (
        [LinearConstraint(np.array([a for a, _, _ in rows]), [lo for _, lo, _ in rows], [hi for _, _, hi in rows])] if rows else []
    )
    answer = milp(cost, constraints=constraints, bounds=Bounds(0, upper), integrality=integral, options={"mip_rel_gap": 0.0})
    if answer.x is None:
        raise NoAnswer(f"The solver gave no answer: {answer.message} Change a load or a limit and ask again.")
    return answer.x


def _feasible_limits(limits: Sequence[Limit], count: int) -> list[tuple[Any, float, float]]:
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
    energy = np.array([sum(loads[i].running_w * loads[i].duty for h in range(24) if runs_at(loads[i], h)) for i, _ in options])
    stays = np.array([1.0 if loads[i].leg == leg and loads[i].side == "backed" else 0.0 for i, leg in options])
    taken = np.zeros(count)
    for goal in (*goals, energy, stays) if count else ():
        if not goal.any():
            continue
        taken = np.round(_solve(-goal, rows, 1.0, np.ones(count)))
        best = float(goal @ taken)
        rows.append((goal, best - 1e-6 * max(1.0, best), np.inf))
    chosen = tuple((loads[i], leg) for k, (i, leg) in enumerate(options) if taken[k] > 0.5)
    ids = {load.id for load, _ in chosen}
    left = tuple(LeftOut(load, _why_left_out(plan, loads, options, limits, taken, i)) for i, load in enumerate(loads) if load.id not in ids)
    return Pick(chosen, left)


def _why_left_out(
    plan: Plan, loads: Sequence[Load], options: Sequence[tuple[int, str]], limits: Sequence[Limit], taken: Any, index: int
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
                excess = _excess(f"pick.{loads[index].id}.{n}.{options[k][1]}", x, total, x.adds[k], most)
                broken[k].append(Shortfall(x.title, excess.value, x.unit, _takes(plan, x, excess.value), excess))
    fewest = min(broken.values(), key=lambda rows: (len(rows), sum(r.over for r in rows)))
    worst: dict[str, Shortfall] = {}
    for row in fewest:
        # Of the many starting hours only the worst is told.
        name = "energy of the outage" if row.unit == "Wh" else row.limit
        if name not in worst or row.over > worst[name].over:
            worst[name] = row
    return tuple(worst.values())


def _excess(key: str, limit: Limit, total: float, more: float, most: float) -> Figure:
    """How far a load would go beyond a limit, with its working."""
    symbol = "E" if limit.unit == "Wh" else "P"
    picked = Figure(f"{key}.picked", f"{symbol}_pick", f"{limit.title}: what is picked takes", total, limit.unit, "arith")
    adds = Figure(f"{key}.more", f"{symbol}_more", "This load adds", more, limit.unit, "arith")
    limit_ = Figure(f"{key}.most", f"{symbol}_lim", f"{limit.title}: most", most, limit.unit, "arith")
    return Figure(key, f"{symbol}_over", f"Beyond the limit: {limit.title}", picked + adds - limit_, limit.unit, "arith")


def _takes(plan: Plan, limit: Limit, over: float) -> str:
    if limit.unit == "Wh":
        each = plan.loads.energy.value / max(1.0, plan.figures["bank.units"].value)
        return "one more battery" if over <= each else "more batteries, or a shorter outage wished"
    if "starts" in limit.title:
        return "a soft starter, or another load switched off while it starts"
    if "bank" in limit.title:
        return "one more battery in parallel"
    if "through" in limit.title:
        return "an inverter with a larger pass-through"
    return "another leg, or a load taken out" if limit.title.startswith("L") else "a larger or second inverter, or a load taken out"


@dataclass(frozen=True)
class Balance:
    """Legs after balancing: moves by load id, and each leg before and after, W."""

    moves: dict[str, str]
    before_w: dict[str, float]
    after_w: dict[str, float]

    def after(self, leg: str) -> Figure:
        """What a leg carries afterwards, as a figure."""
        now = Figure(f"loads.running.{leg}", "P_now", f"Running on {leg}", self.before_w[leg], "W", "arith")
        shift = self.after_w[leg] - self.before_w[leg]
        moved = Figure(f"balance.{leg}.moved", "P_mov", f"Moved onto {leg}, or off it", shift, "W", "arith")
        return Figure(f"balance.{leg}", "P_run", f"Running on {leg} after balancing", now + moved, "W", "arith")


def balance_legs(plan: Plan) -> Balance:
    """The assignment of the backed-up side's movable single-leg loads that makes the heaviest leg lightest, with fewest moves. Exact."""
    phases = plan.house.legs
    loads = [x for x in plan.job.loads if x.side == "backed"]
    before: dict[str, float] = {leg: float(sum(leg_share(x, leg) * x.running_w for x in loads)) for leg in phases}
    options = options_of(loads, phases, legs_free=True)
    known = [x for k, x in enumerate(loads) if any(i == k for i, _ in options)]
    if len(phases) < 2 or not known:
        return Balance({}, before, before)
    n = len(options)
    rows: list[tuple[Any, float, float]] = []
    for i in range(len(loads)):
        mine = np.array([1.0 if j == i else 0.0 for j, _ in options] + [0.0])
        if mine.any():
            rows.append((mine, 1.0, 1.0))
    for leg in phases:
        row = [leg_share(_on(loads[i], on), leg) * loads[i].running_w for i, on in options]
        rows.append((np.array([*row, -1.0]), -np.inf, 0.0))
    upper = np.array([*([1.0] * n), np.inf])
    integral = np.array([*([1] * n), 0])
    heaviest = _solve(np.array([*([0.0] * n), 1.0]), rows, upper, integral)[-1]
    upper[-1] = heaviest + 1e-6 * max(1.0, heaviest)
    moved = np.array([0.0 if loads[i].leg == leg else 1.0 for i, leg in options] + [0.0])
    taken = np.round(_solve(moved, rows, upper, integral)[:-1])
    chosen = {loads[i].id: leg for k, (i, leg) in enumerate(options) if taken[k] > 0.5}
    after: dict[str, float] = {
        leg: float(sum(leg_share(_on(x, chosen.get(x.id, x.leg)), leg) * x.running_w for x in loads)) for leg in phases
    }
    return Balance({x.id: chosen[x.id] for x in loads if x.id in chosen and chosen[x.id] != x.leg}, before, after)


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
    extra = sum(x.surge_w - x.running_w for x in together)
    if p.running_total.value + extra > p.surge_limit.value + 1e-9:
        return False
    return all(
        p.running[leg].value + sum(leg_share(x, leg) * (x.surge_w - x.running_w) for x in together) <= p.leg_surge_limit.value + 1e-9
        for leg in p.running
    )


def what_may_start_together(plan: Plan) -> Starts:
    """Every pair of starts judged, and a largest set that may start at one moment, found exactly."""
    names, groups = _starts(plan)
    pairs = {(a, b): start_ok(plan, (a, b)) for k, a in enumerate(names) for b in names[k + 1 :]}
    largest: tuple[str, ...] = ()
    if names:
        p, rows = plan.loads, []
        for leg in (None, *p.running):
            share = [sum((1.0 if leg is None else leg_share(x, leg)) * (x.surge_w - x.running_w) for x in groups[g]) for g in names]
            most = p.surge_limit.value - p.running_total.value if leg is None else p.leg_surge_limit.value - p.running[leg].value
            rows.append((np.array(share), -np.inf, max(most, 0.0) + 1e-6))
        taken = np.round(_solve(-np.ones(len(names)), rows, 1.0, np.ones(len(names))))
        largest = tuple(g for k, g in enumerate(names) if taken[k] > 0.5)
    titles = tuple(_group_title(plan.job.loads, g).capitalize() for g in names)
    return Starts(tuple(names), titles, pairs, largest)

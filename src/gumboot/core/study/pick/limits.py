"""What bounds the backed-up side: the limits of legs, surge and bank as the rules ask them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from gumboot.core.card.inverter import AcLeg
from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.job.model import Leg, Load
from gumboot.core.plan.connection.generator import generator_mark
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.loads import leg_share
from gumboot.core.sim.autonomy import hours_of, whole_hours

Side = Literal["backed", "house"]


class NoAnswer(GumbootError):
    """The solver found no answer to a question that always has one; nothing is guessed in its place."""


@dataclass(frozen=True)
class Limit:
    """One limit of the backed-up side: title, unit, most allowed, and what each (load, leg) option adds to it."""

    title: str
    unit: str
    most: float
    adds: tuple[float, ...]


def options_of(loads: Sequence[Load], phases: Sequence[AcLeg], legs_free: bool) -> list[tuple[int, Leg]]:
    """Every (load index, leg) that may be chosen. A load across legs stays there; one that is fixed stays on its leg."""
    found: list[tuple[int, Leg]] = []
    for i, load in enumerate(loads):
        single = "+" not in load.leg and load.movable and legs_free
        legs: tuple[Leg, ...] = tuple(phases) if single else (load.leg,)
        found += [(i, leg) for leg in legs if set(leg.split("+")) <= set(phases)]
    return found


def moved(plan: Plan, load: Load, side: Side, leg: Leg) -> Load:
    """A load on another side or leg; one that comes to the backed-up side of a further island sits in that island's first board."""
    boards = [b.id for b in plan.house.boards]
    board = load.board if side == "backed" and load.board in boards else ""
    if side == "backed" and not board and plan.house.mark:
        board = boards[0]
    return load.model_copy(update={"side": side, "leg": leg, "board": board})


def on_leg(load: Load, leg: str) -> Load:
    """A load put on a leg."""
    return load if load.leg == leg else load.model_copy(update={"leg": leg})


def group_title(loads: Sequence[Load], group: str) -> str:
    """The loads of a group that start together, by name."""
    return " and ".join(x.title.lower() for x in loads if (x.starts_with or x.id) == group)


def _on_legs(plan: Plan, placed: Sequence[Load]) -> Iterator[Limit]:
    """Each leg running, and through the inverters from the grid where there is one."""
    inverter = plan.seats.inverter
    for leg in plan.house.legs:
        adds = tuple(x.running_w * leg_share(x, leg) for x in placed)
        yield Limit(f"{leg} running", "W", plan.loads.leg_limit.value, adds)
        if plan.house.joins_grid:
            most = len(plan.house.units_on(leg)) * inverter.pass_through_a * inverter.leg_v
            yield Limit(f"{leg} through the inverter from the grid", "W", most, adds)


def _board(plan: Plan, load: Load) -> str:
    """The board that a load is on, or comes to."""
    return moved(plan, load, "backed", load.leg).board or plan.house.first_board


def _within_devices(plan: Plan, placed: Sequence[Load]) -> Iterator[Limit]:
    """Each leg within the devices that are there already, ahead of the backed-up side and where the grid comes in."""
    house = plan.house
    for cid, z in plan.circuits.sized.items():
        chosen = z.run.device_a is not None or z.demand.fixed_device_a is not None
        if z.circuit.kind not in ("backup", "feeder", "through", "grid") or z.device is None or not chosen:
            continue
        design = z.demand.design_a.value
        hours = z.demand.continuous_a.value / design if design else 1.0
        charging = plan.figures.get(f"circuits.{cid}.charging_a")
        amps = z.device.value / hours - (charging.value if charging else 0.0)
        own, whole = house.inverter(z.circuit.owner), z.circuit.kind in ("backup", "feeder")
        beyond = {b.id for b in house.boards_of(z.circuit)}
        for leg in house.legs if whole else house.phases_of(own):
            sharing = 1 if whole else len(house.units_on(leg))
            adds = tuple(x.running_w * leg_share(x, leg) if _board(plan, x) in beyond else 0.0 for x in placed)
            yield Limit(f"{leg} within the {z.device.value:g} A device of {cid}", "W", max(0.0, amps) * own.card.leg_v * sharing, adds)


def _starting(plan: Plan, loads: Sequence[Load], placed: Sequence[Load]) -> Iterator[Limit]:
    """All running while one group of loads starts, over all and on each leg."""
    for group in dict.fromkeys(x.starts_with or x.id for x in placed if x.surge_w > x.running_w):
        for phase in (None, *plan.house.legs):
            adds = tuple(
                (1.0 if phase is None else leg_share(x, phase)) * (x.surge_w if (x.starts_with or x.id) == group else x.running_w)
                for x in placed
            )
            p, words = plan.loads, f"{phase or 'all'} when {group_title(loads, group)} starts"
            yield Limit(words, "W", p.surge_limit.value if phase is None else p.leg_surge_limit.value, adds)
            if phase is None and p.bank_peak.value < p.surge_limit.value:
                yield Limit(f"{words}, out of the bank", "W", p.bank_peak.value, adds)


def _on_generators(plan: Plan, running: tuple[float, ...]) -> Iterator[Limit]:
    """All running beside the charger on each generator, which carries everything alone."""
    for nth, generator in enumerate(plan.seats.generators):
        mark = generator_mark(plan.house, generator, nth)
        here, need = plan.figures[f"circuits.generator_here{mark}"], plan.figures[f"circuits.generator_need{mark}"]
        charging = need.value - plan.loads.running_total.value
        yield Limit(f"all running on {generator.name} while it charges", "W", max(0.0, here.value - charging), running)


def _out_of_the_bank(plan: Plan, placed: Sequence[Load]) -> Iterator[Limit]:
    """Energy of the outage that one wishes to carry, from each hour."""
    hours = whole_hours(plan.job.settings.outage_hours)
    most = plan.loads.energy.value - sum(i.card.idle_w for i in plan.seats.inverters) * hours
    runs = [(x.running_w * x.duty, frozenset(hours_of(x))) for x in placed]
    for start in range(24):
        adds = tuple(sum(watts for k in range(hours) if (start + k) % 24 in within) for watts, within in runs)
        yield Limit(f"{hours} h from {start:02d}:00 out of the bank", "Wh", most, adds)


def limits_of(plan: Plan, loads: Sequence[Load], options: Sequence[tuple[int, str]]) -> list[Limit]:
    """Continuous, pass-through, surge and energy limits as rows of a linear programme over the options."""
    placed = [on_leg(loads[i], leg) for i, leg in options]
    running = tuple(x.running_w for x in placed)
    return [
        Limit("all running against the inverter", "W", plan.loads.total_limit.value, running),
        Limit("all running against the bank", "W", plan.loads.bank_power.value, running),
        *_on_generators(plan, running),
        *_on_legs(plan, placed),
        *_within_devices(plan, placed),
        *_starting(plan, loads, placed),
        *_out_of_the_bank(plan, placed),
    ]


def excess_figure(key: str, limit: Limit, total: float, more: float, most: float) -> Figure:
    """How far a load would go beyond a limit, with its working."""
    symbol = "E" if limit.unit == "Wh" else "P"
    picked = Figure(f"{key}.picked", f"{symbol}_pick", f"{limit.title}: what is picked takes", total, limit.unit, source="arith")
    adds = Figure(f"{key}.more", f"{symbol}_more", "This load adds", more, limit.unit, source="arith")
    limit_ = Figure(f"{key}.most", f"{symbol}_lim", f"{limit.title}: most", most, limit.unit, source="arith")
    return Figure(key, f"{symbol}_over", f"Beyond the limit: {limit.title}", picked + adds - limit_, limit.unit, source="arith")


def what_it_takes(plan: Plan, limit: Limit, over: float) -> str:
    """What would hold the excess, in words."""
    if limit.unit == "Wh":
        each = plan.loads.energy.value / max(1.0, sum(bank.supply.units.value for bank in plan.banks))
        return "one more battery" if over <= each else "more batteries, or a shorter outage wished"
    if limit.title.endswith("while it charges"):
        return "slower charging, or a larger generator"
    if limit.title.endswith("starts, out of the bank"):
        return "one more battery in parallel, or a soft starter"
    if "starts" in limit.title:
        return "a soft starter, or another load switched off while it starts"
    if "bank" in limit.title:
        return "one more battery in parallel"
    if "through" in limit.title:
        return "an inverter with a larger pass-through"
    return "another leg, or a load taken out" if limit.title.startswith("L") else "a larger or second inverter, or a load taken out"

"""Does the backed-up side fit the inverter, leg by leg, running and starting, and how long does the bank carry it?"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger
from gumboot.core.sim.autonomy import hourly_profile_w, hours_carried, mean_power_w


@dataclass(frozen=True)
class Timed:
    """Power that may be held for a time: of one leg and of all."""

    seconds: float
    leg: Figure
    total: Figure


@dataclass(frozen=True)
class LoadsPlan:
    """Per-leg running and starting power of the backed-up side, and hours carried by starting hour."""

    running: dict[str, Figure]
    starting: dict[str, Figure]
    running_total: Figure
    house_total: Figure
    starting_total: Figure
    leg_limit: Figure
    leg_surge_limit: Figure
    total_limit: Figure
    surge_limit: Figure
    energy: Figure
    profile_w: tuple[float, ...]
    carried: tuple[Figure, ...]
    timed: tuple[Timed, ...] = ()

    @property
    def shortest(self) -> Figure:
        """Hours carried by the worst starting hour."""
        return min(self.carried, key=lambda f: f.value)


def leg_share(load: Load, leg: str) -> float:
    """Share of a load's power on one leg or phase: all of a load on it, a half or a third of one across several."""
    legs = load.leg.split("+")
    return 1 / len(legs) if leg in legs else 0.0


def start_increments_w(loads: list[Load], leg: str | None) -> dict[str, float]:
    """Extra power while starting, by group of loads that start together, on one leg or in total."""
    groups: dict[str, float] = defaultdict(float)
    for load in loads:
        share = 1.0 if leg is None else leg_share(load, leg)
        groups[load.starts_with or load.id] += (load.surge_w - load.running_w) * share
    return dict(groups)


def _sum_figure(ledger: Ledger, key: str, name: str, loads: list[Load], leg: str | None) -> Figure:
    parts, terms = [], []
    for i, load in enumerate(loads):
        share = 1.0 if leg is None else leg_share(load, leg)
        if share:
            figure = ledger.decided(f"loads.{load.id}.running_w", f"P{i}", f"{load.title}, running", "W")
            parts.append(figure)
            terms.append(f"P{i}" if share == 1 else f"P{i} / {len(load.leg.split('+'))}")
    value = sum((1.0 if leg is None else leg_share(x, leg)) * x.running_w for x in loads)
    return ledger.work(
        key,
        "P_run",
        name,
        value,
        "W",
        ("nec.702.4" if ledger.book.family == "nec" else "arith") if leg is None else "arith",
        " + ".join(terms) or "0",
        tuple(parts),
    )


def _start_figure(ledger: Ledger, key: str, name: str, loads: list[Load], leg: str | None, running: Figure) -> Figure:
    increments = start_increments_w(loads, leg)
    worst, extra = max(increments.items(), key=lambda kv: kv[1], default=("nothing", 0.0))
    titles = [x.title for x in loads if (x.starts_with or x.id) == worst]
    rise = ledger.work(
        f"{key}.rise",
        "P_start",
        f"Largest start: {' and '.join(titles) or 'none'}",
        extra,
        "W",
        "cp.surge",
        limits="Starting power less running power of the group that starts together and adds most.",
    )
    return ledger.work(key, "P_surge", name, running.value + extra, "W", "cp.surge", "P_run + P_start", (running, rise))


def _autonomy(ledger: Ledger, loads: list[Load], energy: Figure) -> tuple[tuple[float, ...], tuple[Figure, ...]]:
    inverter = ledger.card("inverter")
    profile = hourly_profile_w(loads, inverter.idle_w)
    carried = []
    for hour in range(24):
        hours = hours_carried(profile, hour, energy.value)
        mean = ledger.work(
            f"loads.mean.{hour}",
            "P_mean",
            f"Mean demand from {hour:02d}:00 until empty",
            mean_power_w(profile, hour, hours),
            "W",
            "physics",
            limits="Hour by hour: running power times duty within its hours, plus the inverter's own draw. No PV is counted.",
        )
        carried.append(
            ledger.work(
                f"loads.carried.{hour}",
                "t",
                f"Hours carried, outage from {hour:02d}:00",
                energy.value / mean.value,
                "h",
                "physics",
                "E / P_mean",
                (energy, mean),
                limits="A dark outage: no PV is counted, so this is the safe side.",
            )
        )
    return profile, tuple(carried)


def _timed(ledger: Ledger, shortest: Timed) -> tuple[Timed, ...]:
    """Every timed overload of the card, the shortest first."""
    inverter = ledger.card("inverter")
    rows = [shortest]
    for overload in sorted(inverter.overloads, key=lambda o: o.seconds)[1:]:
        key, source = f"loads.timed.{overload.seconds:g}", f"card:{inverter.id}:overloads"
        leg = ledger.work(f"{key}.leg", "P_leg_t", f"Power of one leg for {overload.seconds:g} s", overload.leg_watts, "W", source)
        total = ledger.work(f"{key}.total", "P_inv_t", f"Power of all for {overload.seconds:g} s", overload.watts, "W", source)
        rows.append(Timed(overload.seconds, leg, total))
    return tuple(rows)


def plan_loads(ledger: Ledger, energy: Figure, bank_power: Figure) -> LoadsPlan:
    """Work out the Loads station. ``energy`` in Wh and ``bank_power`` in W are AC-side figures of the bank."""
    inverter = ledger.card("inverter")
    if not ledger.job.loads:
        ledger.gap(
            "loads",
            "loads",
            "Which circuits has the house, and which are backed up?",
            "Running and starting power, and how long the bank lasts",
        )
    backed = [x for x in ledger.job.loads if x.side == "backed"]
    surge = min(inverter.overloads, key=lambda o: o.seconds)
    leg_limit = ledger.read(inverter, "leg_w", "P_leg", "Continuous power of one leg", "W")
    total_limit = ledger.read(inverter, "output_w", "P_inv", "Continuous power, both legs", "W")
    leg_surge = ledger.work(
        "loads.leg_surge_limit",
        "P_leg_s",
        f"Power of one leg for {surge.seconds:g} s",
        surge.leg_watts,
        "W",
        f"card:{inverter.id}:overloads",
    )
    total_surge = ledger.work(
        "loads.surge_limit", "P_inv_s", f"Power of both legs for {surge.seconds:g} s", surge.watts, "W", f"card:{inverter.id}:overloads"
    )
    running, starting = {}, {}
    for leg in inverter.phases:
        running[leg] = _sum_figure(ledger, f"loads.running.{leg}", f"Running on {leg}", backed, leg)
        starting[leg] = _start_figure(ledger, f"loads.starting.{leg}", f"Starting on {leg}", backed, leg, running[leg])
        ledger.verdict(
            "LOAD-LEG-OVER",
            running[leg].value <= leg_limit.value,
            leg,
            f"{leg} runs at {running[leg].value:.0f} W; one leg of the inverter carries {leg_limit.value:.0f} W.",
            f"Move a load from {leg} to another leg, or back to the house side.",
            found=running[leg],
            limit=leg_limit,
        )
        ledger.verdict(
            "LOAD-LEG-SURGE",
            starting[leg].value <= leg_surge.value,
            leg,
            f"{leg} reaches {starting[leg].value:.0f} W at the largest start; the leg holds {leg_surge.value:.0f} W for {surge.seconds:g} s.",
            "Let fewer loads start together, fit a soft starter, or move one to the other leg.",
            found=starting[leg],
            limit=leg_surge,
        )
    house = _sum_figure(
        ledger, "loads.running.house", "Running on the house side", [x for x in ledger.job.loads if x.side == "house"], None
    )
    total = _sum_figure(ledger, "loads.running.total", "Running, both legs", backed, None)
    start = _start_figure(ledger, "loads.starting.total", "Starting, both legs", backed, None, total)
    ledger.verdict(
        "LOAD-TOTAL-OVER",
        total.value <= total_limit.value,
        "backed-up side",
        f"The backed-up side runs at {total.value:.0f} W; the inverter carries {total_limit.value:.0f} W.",
        "Move a load back to the house side.",
        found=total,
        limit=total_limit,
    )
    ledger.verdict(
        "LOAD-SURGE",
        start.value <= total_surge.value,
        "backed-up side",
        f"Starting reaches {start.value:.0f} W; the inverter holds {total_surge.value:.0f} W for {surge.seconds:g} s.",
        "Let fewer loads start together or fit a soft starter.",
        found=start,
        limit=total_surge,
    )
    ledger.verdict(
        "LOAD-BANK-OVER",
        total.value <= bank_power.value,
        "bank",
        f"The backed-up side runs at {total.value:.0f} W; the bank gives {bank_power.value:.0f} W at its lowest voltage.",
        "Add a battery or move a load back to the house side.",
        found=total,
        limit=bank_power,
    )
    for load in backed:
        known = set(load.leg.split("+")) <= set(inverter.phases)
        ledger.verdict(
            "LOAD-NO-LEG",
            known,
            load.title,
            f"{load.title} is on {load.leg}; this inverter gives {' and '.join(inverter.phases)}.",
            "Put it on a leg that the inverter has.",
            field=f"loads.{load.id}.leg",
        )
    profile, carried = _autonomy(ledger, backed, energy)
    timed = _timed(ledger, Timed(surge.seconds, leg_surge, total_surge))
    return LoadsPlan(
        running, starting, total, house, start, leg_limit, leg_surge, total_limit, total_surge, energy, profile, carried, timed
    )

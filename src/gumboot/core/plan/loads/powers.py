"""What runs and what starts: on one leg, or in all."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from gumboot.core.expression import Expression, number, total
from gumboot.core.figure import Figure
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger


def leg_share(load: Load, leg: str) -> float:
    """Share of a load's power on one leg or phase: all of a load on it, a half or a third of one across several."""
    legs = load.leg.split("+")
    return 1 / len(legs) if leg in legs else 0.0


def start_increments_w(loads: Sequence[Load], leg: str | None) -> dict[str, float]:
    """Extra power while starting, by group of loads that start together, on one leg or in total."""
    groups: dict[str, float] = defaultdict(float)
    for load in loads:
        share = 1.0 if leg is None else leg_share(load, leg)
        groups[load.starts_with or load.id] += (load.surge_w - load.running_w) * share
    return dict(groups)


def _part(ledger: Ledger, load: Load, leg: str | None) -> Expression:
    watts, legs = ledger.decided_of(load, f"loads.{load.id}.running_w"), len(load.leg.split("+"))
    return watts if leg is None or legs == 1 else watts / legs


def running(ledger: Ledger, key: str, name: str, loads: Sequence[Load], leg: str | None) -> Figure:
    """Running power of loads on one leg, or of all of them."""
    parts = [_part(ledger, load, leg) for load in loads if leg is None or leg_share(load, leg)]
    source = "arith" if leg is not None else ledger.book.standby_source
    return ledger.work(ledger.key(key), "P_run", ledger.titled(name), total(parts, number(0.0)), "W", source=source)


def starting(ledger: Ledger, key: str, name: str, loads: Sequence[Load], leg: str | None, *, runs: Figure) -> Figure:
    """Running power with the largest start on one leg, or of all."""
    increments = start_increments_w(loads, leg)
    worst, extra = max(increments.items(), key=lambda kv: kv[1], default=("nothing", 0.0))
    titles = [x.title for x in loads if (x.starts_with or x.id) == worst]
    title = f"Largest start: {' and '.join(titles) or 'none'}"
    limits = "Starting power less running power of the group that starts together and adds most."
    rise = ledger.work(ledger.key(f"{key}.rise"), "P_start", ledger.titled(title), extra, "W", source="cp.surge", limits=limits)
    return ledger.work(ledger.key(key), "P_surge", ledger.titled(name), runs + rise, "W", source="cp.surge")

"""A year run hour by hour, or finer."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gumboot.core.plan.derive import Plan
from gumboot.core.sim.sun import Place, Series
from gumboot.core.sim.year import Store, Year, settled_year
from gumboot.core.study.year.series import MINUTES, load_series_w, pv_series_w
from gumboot.core.study.year.store import grid_charge_hours, rules_of, store_of


def run_hours(plan: Plan, pv: Series, load: Series, store: Store, minutes: int = MINUTES) -> Year:
    """One year, hour by hour or finer."""
    rules = rules_of(plan, store)
    hours_flags = grid_charge_hours(plan.job)
    flags = None
    if rules.grid and any(hours_flags) and plan.job.settings.grid_charge_a > 0:
        amps = plan.job.settings.grid_charge_a
        drawn = sum(amps * len(plan.house.on_bank(b.id)) * plan.house.bank(b.id).card.nominal_v * b.supply.series.value for b in plan.banks)
        rules = replace(rules, grid_charge_w=drawn / store.eta_in)
        flags = np.tile(np.repeat(hours_flags, 60 // minutes), 365).tolist()
    return settled_year(pv, load, store, rules, minutes / 60, flags)


def run_quarter_hours(plan: Plan, place: Place) -> Year:
    """The year at 15 minutes, 35 040 steps; same rules as the hourly one."""
    return run_hours(
        plan, pv_series_w(plan, place, minutes=15), load_series_w(plan, plan.job.site.supply == "none", 15), store_of(plan), 15
    )

"""A year run hour by hour, or finer."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gumboot.core.plan.derive import Plan
from gumboot.core.sim.sun import Place, Series
from gumboot.core.sim.year import Store, Year, settled_year
from gumboot.core.study.year.series import MINUTES, load_series_w, pv_series_w
from gumboot.core.study.year.store import grid_charge_hours, rules_of, store_of


def grid_charge_w(plan: Plan, store: Store) -> float:
    """AC power that fills the banks from the grid, W: the set current of each inverter at its bank's nominal voltage."""
    amps = plan.job.settings.grid_charge_a
    each = ((len(plan.house.on_bank(b.id)), plan.house.bank(b.id).card.nominal_v * b.supply.series.value) for b in plan.banks)
    return sum(amps * inverters * volts for inverters, volts in each) / store.eta_in


def run_hours(plan: Plan, pv: Series, load: Series, store: Store, minutes: int = MINUTES) -> Year:
    """One year, hour by hour or finer."""
    rules = rules_of(plan, store)
    hours_flags = grid_charge_hours(plan.job)
    flags = None
    if rules.grid and any(hours_flags) and plan.job.settings.grid_charge_a > 0:
        rules = replace(rules, grid_charge_w=grid_charge_w(plan, store))
        flags = np.tile(np.repeat(hours_flags, 60 // minutes), 365).tolist()
    return settled_year(pv, load, store, rules, minutes / 60, grid_charge=flags)


def run_quarter_hours(plan: Plan, place: Place) -> Year:
    """The year at 15 minutes, 35 040 steps; same rules as the hourly one."""
    return run_hours(plan, pv_series_w(plan, place, minutes=15), load_series_w(plan, not plan.house.joins_grid, 15), store_of(plan), 15)

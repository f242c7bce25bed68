"""The battery as a store, and by which rules it is filled and emptied."""

from __future__ import annotations

from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.storage import BatteryCard
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan
from gumboot.core.sim.year import Rules, Store


def store_of(plan: Plan, more_units: int = 0) -> Store:
    """The bank as a store, from the plan's figures and the cards."""
    battery, inverter, f = plan.seats.battery, plan.seats.inverter, plan.figures
    if not isinstance(battery, BatteryCard) or not isinstance(inverter, InverterCard):
        raise TypeError("a plan has a battery and an inverter")
    units = f["bank.units"].value + more_units
    series, parallel = f["bank.series"].value, f["bank.parallel"].value
    if battery.in_series:
        series += more_units
    else:
        parallel += more_units
    capacity = units * battery.energy_wh
    floor = f.get("bank.floor")
    floor_pct = floor.value if floor else battery.discharge_floor_pct
    volts = series * battery.nominal_v if battery.in_series else battery.nominal_v
    low = series * battery.v_low_operating if battery.in_series else battery.v_low_operating
    eta = inverter.battery.efficiency
    return Store(
        capacity,
        capacity * floor_pct / 100,
        min(inverter.battery.charge_a, parallel * battery.charge_a) * volts / eta,
        min(inverter.output_w, min(inverter.battery.discharge_a, parallel * battery.discharge_a) * low * eta),
        eta,
        eta,
    )


def rules_of(plan: Plan, store: Store) -> Rules:
    """How the job runs the bank: its reserve, its grid, its export limit."""
    job = plan.job
    grid = job.site.supply != "none"
    export = job.site.export_limit_w if job.site.export_limit_w is not None else 0.0
    held = 1.0 if job.settings.work_mode == "backup" else job.settings.reserve_pct / 100
    return Rules(store.capacity_wh * held, grid, export)


def grid_charge_hours(job: Job) -> list[bool]:
    """For each hour of the day, whether a tariff window allows filling the battery from the grid."""
    flags = [False] * 24
    for window in job.settings.tariff:
        if window.grid_charge:
            hour = window.from_hour
            while True:
                flags[hour % 24] = True
                hour += 1
                if hour % 24 == window.to_hour % 24:
                    break
    return flags

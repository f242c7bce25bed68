"""The battery as a store, and by which rules it is filled and emptied."""

from __future__ import annotations

from gumboot.core.job import Job
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.settings import window_halves, window_months
from gumboot.core.sim.year import Rules, Store


def store_of(plan: Plan, more_units: int = 0, of: str | None = None) -> Store:
    """The banks as one store, from the plan's figures and the cards; of one inverter alone with ``of``. Further units join the first bank."""
    every = (_store(plan, bank, more_units if n == 0 else 0, of) for n, bank in enumerate(plan.banks))
    parts = [part for part in every if part is not None]
    first = parts[0]
    return Store(
        sum(part.capacity_wh for part in parts),
        sum(part.floor_wh for part in parts),
        sum(part.charge_w for part in parts),
        sum(part.discharge_w for part in parts),
        first.eta_in,
        first.eta_out,
    )


def _store(plan: Plan, bank: BankPlan, more_units: int, of: str | None) -> Store | None:
    """One bank with its inverters, or with one of them; None where that hangs on another."""
    cards = [seat.card for seat in plan.house.on_bank(bank.id) if of is None or seat.id == of]
    if not cards:
        return None
    battery, f, eta = plan.house.bank(bank.id).card, bank.supply, plan.house.on_bank(bank.id)[0].card.battery.efficiency
    units, series, parallel = f.units.value + more_units, f.series.value, f.parallel.value
    if battery.in_series:
        series += more_units
    else:
        parallel += more_units
    row = series if battery.in_series else 1.0
    share = 1.0 if f.at_current is None else f.at_current.value
    capacity, volts, low = units * battery.energy_wh * share, row * battery.nominal_v, row * battery.v_low_operating
    floor = plan.figures.get(bank.key("bank.floor"))
    return Store(
        capacity,
        capacity * (floor.value if floor else battery.discharge_floor_pct) / 100,
        min(sum(card.battery.charge_a for card in cards), parallel * battery.charge_a) * volts / eta,
        min(
            sum(card.output_w for card in cards),
            min(sum(card.battery.discharge_a for card in cards), parallel * battery.discharge_a) * low * eta,
        ),
        eta,
        eta,
    )


def rules_of(plan: Plan, store: Store) -> Rules:
    """How the job runs the bank: its reserve, its grid, its export limit."""
    job = plan.job
    grid = plan.house.joins_grid
    export = job.site.export_limit_w if job.site.export_limit_w is not None else 0.0
    held = 1.0 if job.settings.work_mode == "backup" else job.settings.reserve_pct / 100
    return Rules(store.capacity_wh * held, grid, export)


def grid_charge_hours(job: Job) -> list[bool]:
    """For each hour of the day, whether a tariff window allows filling the battery from the grid through all of it, on every day."""
    always = [w for w in job.settings.tariff if w.grid_charge and w.days == "every day" and len(window_months(w)) == 12]
    halves = set[int]().union(*(window_halves(w) for w in always))
    return [{2 * hour, 2 * hour + 1} <= halves for hour in range(24)]

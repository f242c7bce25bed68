"""What do battery, grid and PV do through a year, step by step? Plain energy balance; nothing is lost that is not counted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gumboot.core.sim.sun import Series


@dataclass(frozen=True)
class Store:
    """A bank as a store: energies at the cells in Wh above empty, powers on the AC side in W, one-way efficiencies."""

    capacity_wh: float
    floor_wh: float
    charge_w: float
    discharge_w: float
    eta_in: float
    eta_out: float


@dataclass(frozen=True)
class Rules:
    """How the system is run: reserve kept for outages at the cells in Wh, whether a grid stands by, most export in W."""

    reserve_wh: float
    grid: bool
    export_w: float
    grid_charge_w: float = 0.0


@dataclass(frozen=True, eq=False)
class Year:
    """Energy stored at the end of each step, Wh, and mean power of each step, W, on the AC side. All of one shape."""

    hours: float
    began_wh: float
    stored_wh: Series
    imported_w: Series
    exported_w: Series
    curtailed_w: Series
    unserved_w: Series
    lost_w: Series


def run_year(
    pv_w: Series, load_w: Series, store: Store, rules: Rules, hours: float, *, began_wh: float, grid_charge: Sequence[bool] | None = None
) -> Year:
    """Run the store through a series: loads first, then battery, then grid. ``hours`` is the length of one step.

    The battery serves the house down to the reserve while a grid stands by, and down to its floor where there is none.
    ``grid_charge`` marks the steps in which the battery may be filled from the grid.
    """
    stored, flow, taken, lost = ([0.0] * len(load_w) for _ in range(4))
    energy = min(max(began_wh, 0.0), store.capacity_wh)
    floor = max(store.floor_wh, rules.reserve_wh) if rules.grid else store.floor_wh
    into, out = store.eta_in, store.eta_out
    capacity, most_in, most_out = store.capacity_wh, store.charge_w, store.discharge_w
    flags = list(grid_charge) if grid_charge is not None and rules.grid and rules.grid_charge_w > 0 else [False] * len(load_w)
    for i, net in enumerate((pv_w - load_w).tolist()):
        if net >= 0:
            charge = min(net, most_in, max((capacity - energy) / into / hours, 0.0))
            energy += charge * into * hours
            flow[i], lost[i], spare = -charge, charge * (1 - into), most_in - charge
        else:
            give = min(-net, most_out, max((energy - floor) * out / hours, 0.0))
            energy -= give / out * hours
            flow[i], lost[i], spare = give, give / out - give, most_in if give == 0 else 0.0
        if flags[i] and spare > 0:
            take = min(rules.grid_charge_w, spare, max((capacity - energy) / into / hours, 0.0))
            energy += take * into * hours
            taken[i] = take
            lost[i] += take * (1 - into)
        stored[i] = energy
    # What the battery left over: above nothing it goes out or nobody takes it, below nothing it comes in or is lacking.
    rest = pv_w - load_w + np.array(flow)
    over, under = np.maximum(rest, 0.0), np.maximum(-rest, 0.0)
    nothing = np.zeros(len(load_w))
    exported = np.minimum(over, rules.export_w) if rules.grid else nothing
    imported, unserved = (under + np.array(taken), nothing) if rules.grid else (nothing, under)
    return Year(hours, began_wh, np.array(stored), imported, exported, over - exported, unserved, np.array(lost))


def settled_year(
    pv_w: Series, load_w: Series, store: Store, rules: Rules, hours: float, *, grid_charge: Sequence[bool] | None = None
) -> Year:
    """A year that begins as it ends, so that the first days owe nothing to a guess: a lead-in over December, then the year."""
    lead = min(len(load_w), round(31 * 24 / hours))
    flags = list(grid_charge) if grid_charge is not None else None
    before = run_year(
        pv_w[-lead:], load_w[-lead:], store, rules, hours, began_wh=store.capacity_wh, grid_charge=flags[-lead:] if flags else None
    )
    return run_year(pv_w, load_w, store, rules, hours, began_wh=float(before.stored_wh[-1]), grid_charge=flags)

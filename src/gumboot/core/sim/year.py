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
    pv_w: Series, load_w: Series, store: Store, rules: Rules, hours: float, began_wh: float, grid_charge: Sequence[bool] | None = None
) -> Year:
    """Run the store through a series: loads first, then battery, then grid. ``hours`` is the length of one step.

    The battery serves the house down to the reserve while a grid stands by, and down to its floor where there is none.
    ``grid_charge`` marks the steps in which the battery may be filled from the grid.
    """
    count = len(load_w)
    stored, imported, exported, curtailed, unserved, lost = ([0.0] * count for _ in range(6))
    energy = min(max(began_wh, 0.0), store.capacity_wh)
    floor = max(store.floor_wh, rules.reserve_wh) if rules.grid else store.floor_wh
    into, out = store.eta_in, store.eta_out
    capacity, most_in, most_out = store.capacity_wh, store.charge_w, store.discharge_w
    grid, export_most, top_up = rules.grid, rules.export_w, rules.grid_charge_w
    flags = list(grid_charge) if grid_charge is not None else [False] * count
    for i, net in enumerate((pv_w - load_w).tolist()):
        if net >= 0:
            room = (capacity - energy) / into / hours
            charge = min(net, most_in, max(room, 0.0))
            energy += charge * into * hours
            lost[i] = charge * (1 - into)
            left = net - charge
            if left > 0:
                if grid:
                    export = min(left, export_most)
                    exported[i] = export
                    left -= export
                curtailed[i] = left
            spare = most_in - charge
        else:
            need = -net
            held = (energy - floor) * out / hours
            give = min(need, most_out, held if held > 0 else 0.0)
            energy -= give / out * hours
            lost[i] = give / out - give
            need -= give
            if need > 0:
                if grid:
                    imported[i] = need
                else:
                    unserved[i] = need
            spare = most_in if give == 0 else 0.0
        if grid and flags[i] and spare > 0 and top_up > 0:
            room = (capacity - energy) / into / hours
            take = min(top_up, spare, max(room, 0.0))
            energy += take * into * hours
            lost[i] += take * (1 - into)
            imported[i] += take
        stored[i] = energy
    return Year(hours, began_wh, *(np.array(x) for x in (stored, imported, exported, curtailed, unserved, lost)))


def settled_year(pv_w: Series, load_w: Series, store: Store, rules: Rules, hours: float, grid_charge: Sequence[bool] | None = None) -> Year:
    """A year that begins as it ends, so that the first days owe nothing to a guess: a lead-in over December, then the year."""
    lead = min(len(load_w), round(31 * 24 / hours))
    flags = list(grid_charge) if grid_charge is not None else None
    before = run_year(pv_w[-lead:], load_w[-lead:], store, rules, hours, store.capacity_wh, flags[-lead:] if flags else None)
    return run_year(pv_w, load_w, store, rules, hours, float(before.stored_wh[-1]), flags)

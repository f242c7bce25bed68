"""How long is an outage carried that begins at any hour of the year, and what reserve carries a wished length?"""

from __future__ import annotations

import numpy as np

from gumboot.core.sim.sun import DAYS, Series
from gumboot.core.sim.year import Store

MOST_HOURS = 240


def hours_carried_from(pv_w: Series, load_w: Series, store: Store, begin_wh: Series, most_hours: int = MOST_HOURS) -> Series:
    """Hours until the floor is reached, for an outage from each hour, capped at ``most_hours``.

    All series are hourly and of one shape; the year is a ring. ``begin_wh`` is what the cells hold as each outage begins.
    """
    count = len(load_w)
    gain = (pv_w - load_w).astype(np.float64)
    # Per hour at the cells: what charging adds, what discharging takes.
    flow = np.where(gain >= 0, np.minimum(gain, store.charge_w) * store.eta_in, gain / store.eta_out)
    energy = np.clip(begin_wh, 0.0, store.capacity_wh) - store.floor_wh
    top = store.capacity_wh - store.floor_wh
    hours = np.full(count, float(most_hours))
    alive = energy > 0
    hours[~alive] = 0.0
    alive |= flow >= 0  # an empty battery still lives while the sun carries the load
    hours[alive] = float(most_hours)
    energy = np.maximum(energy, 0.0)
    twice = np.concatenate([flow, np.tile(flow, -(-most_hours // count))])
    for k in range(most_hours):
        step = twice[k : k + count]
        after = energy + step
        ends = alive & (after < -1e-9)
        if ends.any():
            hours[ends] = k + energy[ends] / -step[ends]
            alive &= ~ends
            if not alive.any():
                break
        energy = np.clip(after, 0.0, top)
    return hours


def need_for(pv_w: Series, load_w: Series, store: Store, wished_hours: int) -> Series:
    """Energy at the cells above the floor, Wh, that carries ``wished_hours`` from each hour; may exceed what the bank holds.

    Worked backward from the outage's end. Where the answer is above the bank's span, no reserve is enough.
    """
    count = len(load_w)
    gain = (pv_w - load_w).astype(np.float64)
    flow = np.where(gain >= 0, np.minimum(gain, store.charge_w) * store.eta_in, gain / store.eta_out)
    around = np.concatenate([flow, np.tile(flow, -(-wished_hours // count))])
    need = np.zeros(count)
    span = store.capacity_wh - store.floor_wh
    for k in range(wished_hours - 1, -1, -1):
        # A full bank takes no more: what must be there after a sunny hour beyond the span cannot be made up by it.
        need = np.where(need > span, need + np.maximum(-around[k : k + count], 0.0), np.maximum(need - around[k : k + count], 0.0))
    return need


def field_24x12(series: Series, percentile: float) -> Series:
    """A percentile over the days of each month, for each hour of the day. Shape (24, 12) from hourly (8760,)."""
    by_day = series.reshape(365, 24)
    out, at = np.empty((24, 12)), 0
    for month, count in enumerate(DAYS):
        out[:, month] = np.percentile(by_day[at : at + count], percentile, axis=0, method="lower")
        at += count
    return out

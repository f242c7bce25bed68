"""How far is an outage carried, and what does a reserve cost?"""

from __future__ import annotations

import numpy as np

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.sim.autonomy import whole_hours
from gumboot.core.sim.outage import hours_carried_from, need_for
from gumboot.core.sim.sun import Place, Series
from gumboot.core.sim.year import Store, Year
from gumboot.core.study.year.series import load_series_w, pv_series_w
from gumboot.core.workbook import Workbook


def carried_from_each_hour(plan: Plan, place: Place, store: Store, year: Year, extra: dict[str, int] | None = None) -> Series:
    """Hours that an outage is carried from each hour of the year."""
    pv = pv_series_w(plan, place, extra, island=True)
    return hours_carried_from(pv, load_series_w(plan, True), store, np.roll(year.stored_wh, 1))


def outages_carried(w: Workbook, plan: Plan, place: Place, store: Store, year: Year) -> tuple[Series, tuple[Figure, ...], Figure]:
    """Hours carried from each hour, the figures that sum them up, and the shortest."""
    carried = carried_from_each_hour(plan, place, store, year)
    words = (
        (0, "Shortest outage carried, of all hours of the year"),
        (10, "nine outages in ten are carried longer than"),
        (50, "half of all outages are carried longer than"),
        (90, "one outage in ten is carried longer than"),
    )
    rows = tuple(
        w.work(
            f"outage.p{q}",
            f"t_{q}",
            name,
            float(np.percentile(carried, q, method="lower")),
            "h",
            source="sun.outage",
            limits="An outage from each of 8760 hours, PV counted, from the charge the year leaves at that hour; 240 h is the most counted.",
        )
        for q, name in words
    )
    wished = w.given("settings.outage_hours", "t_w", "Outage wished to be carried", plan.job.settings.outage_hours, "h")
    share = w.work(
        "outage.share",
        "s_t",
        "Outages carried as long as wished",
        float(np.mean(carried >= wished.value - 1e-9)) * 100,
        "%",
        source="sun.outage",
        limits="Share of 8760 starting hours.",
    )
    return carried, rows, share


def reserves_needed(w: Workbook, plan: Plan, place: Place, store: Store) -> tuple[Figure, ...]:
    """State of charge that must be kept for the outage one wishes to carry."""
    wished = whole_hours(plan.job.settings.outage_hours)
    need = need_for(pv_series_w(plan, place, island=True), load_series_w(plan, True), store, wished)
    floor = w.work(
        "outage.floor_pct",
        "S_min",
        "State of charge at which discharge stops",
        100 * store.floor_wh / store.capacity_wh,
        "%",
        source="physics",
    )
    capacity = w.work("outage.capacity", "E_cap", "Energy of the bank", store.capacity_wh, "Wh", source="arith")
    rows = []
    for q, words in ((50, "half of the hours"), (90, "nine hours in ten"), (100, "every hour of the year")):
        most = w.work(
            f"outage.need_p{q}",
            "E_need",
            f"Energy above the floor that carries {wished} h from {words}",
            float(np.percentile(need, q, method="higher")),
            "Wh",
            source="sun.outage",
            limits="Worked backward from the outage's end, PV counted.",
        )
        rows.append(
            w.work(
                f"outage.reserve_p{q}",
                "S_res",
                f"Reserve that carries {wished} h from {words}",
                floor + 100 * most / capacity,
                "%",
                source="sun.outage",
                limits="Above 100 %: the bank is too small for this wish.",
            )
        )
    return tuple(rows)

"""A year with this system, worked out."""

from __future__ import annotations

import numpy as np

from gumboot.core.expression import number
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.rulebook.books import book
from gumboot.core.sim.outage import field_24x12
from gumboot.core.sim.sun import Place, Series, monthly
from gumboot.core.sim.year import Store
from gumboot.core.study.year.hours import run_hours
from gumboot.core.study.year.outage import carried_from_each_hour, outages_carried, reserves_needed
from gumboot.core.study.year.parts import More, YearStudy
from gumboot.core.study.year.series import MINUTES, load_series_w, place_of, pv_series_w
from gumboot.core.study.year.store import store_of
from gumboot.core.workbook import Workbook, with_parts

# What a year is summed up by: key, symbol, name, and what the sum leaves out.
SUMS = (
    ("pv", "E_pv", "PV yield of a year, AC side", "Solar position, clear sky, monthly clearness and cell temperature; a typical year."),
    ("load", "E_load", "Consumption of a year", "Measured months where there are any, else the loads' own hours."),
    ("import", "E_imp", "Taken from the grid", ""),
    ("export", "E_exp", "Given to the grid", ""),
    ("curtailed", "E_cut", "PV that nobody took", ""),
    ("lost", "E_lost", "Lost in charging and discharging", ""),
    ("unserved", "E_dark", "Demand left unserved", ""),
)


def _summed(w: Workbook, series: dict[str, Series]) -> dict[str, Figure]:
    """Energy of the year in kWh by kind."""
    found = {}
    for key, symbol, name, limits in SUMS:
        source = "sun.chain" if key == "pv" else "physics"
        found[key] = w.work(f"year.{key}", symbol, name, float(series[key].sum()) / 1000, "kWh", source=source, limits=limits)
    return found


def study_year(plan: Plan) -> YearStudy:
    """Run the year of a plan and ask its outages. Pure: the same plan gives the same study."""
    place, missing = place_of(plan.job)
    if place is None:
        return YearStudy(missing, {})
    w = Workbook(book(plan.job.rule_book))
    store, grid = store_of(plan), plan.house.joins_grid
    pv, load = pv_series_w(plan, place), load_series_w(plan, backed_only=not grid)
    year = run_hours(plan, pv, load, store)
    series = {"pv": pv, "load": load, "import": year.imported_w, "export": year.exported_w}
    sums = _summed(w, {**series, "curtailed": year.curtailed_w, "lost": year.lost_w, "unserved": year.unserved_w})
    own = _own(w, "year.own", sums["load"], sums["import" if grid else "unserved"])
    carried, percentiles, share = outages_carried(w, plan, place, store, year)
    reserves, more = reserves_needed(w, plan, place, store), _buys(w, plan, place, store, percentiles[1], own=own, load=load)
    return YearStudy(
        (),
        with_parts(w.figures),
        year,
        monthly(pv, MINUTES) / 1000,
        monthly(load, MINUTES) / 1000,
        monthly(year.imported_w, MINUTES) / 1000,
        carried,
        field_24x12(carried, 10),
        percentiles,
        share,
        reserves,
        more,
        _notes(plan, sums["pv"]),
    )


def _own(w: Workbook, key: str, used: Figure, foreign: Figure, extra: str = "") -> Figure:
    share = 100 * (1 - foreign / used) if used.value > 0 else number(100.0)
    return w.work(key, "s_own", f"Share of the load served without the grid{extra}", share, "%", source="physics")


def _buys(w: Workbook, plan: Plan, place: Place, store: Store, now: Figure, *, own: Figure, load: Series) -> tuple[More, ...]:
    options: list[tuple[str, str, dict[str, int], int]] = []
    for face in plan.job.faces:
        if plan.seats.module_or_none(face.id) is not None:
            longest = max((s.modules for s in plan.job.strings if s.face == face.id), default=0)
            if longest:
                options.append((f"string-{face.id}", f"one more string of {longest} on {face.title.lower()}", {face.id: longest}, 0))
    options.append(("battery", "one more battery", {}, 1))
    rows = [More("as planned", now, own)]
    for key, title, extra, units in options:
        bigger = store_of(plan, units) if units else store
        pv = pv_series_w(plan, place, extra)
        year = run_hours(plan, pv, load, bigger)
        carried = carried_from_each_hour(plan, place, bigger, year, extra)
        hours = w.work(
            f"buys.{key}.hours",
            "t_10",
            f"Nine outages in ten, with {title}",
            float(np.percentile(carried, 10, method="lower")),
            "h",
            source="sun.outage",
        )
        used = w.figures["year.load"]
        foreign = year.imported_w if plan.house.joins_grid else year.unserved_w
        taken = w.work(
            f"buys.{key}.import",
            "E_imp",
            f"Taken from the grid or unserved, with {title}",
            float(foreign.sum()) / 1000,
            "kWh",
            source="physics",
        )
        rows.append(More(title, hours, _own(w, f"buys.{key}.own", used, taken, f", with {title}")))
    return tuple(rows)


def _notes(plan: Plan, yield_: Figure) -> tuple[str, ...]:
    notes = []
    months = plan.job.consumption.month_hour_w
    if months:
        empty = [m for m in range(12) if all(v is None for v in months[m])]
        if empty:
            names = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
            notes.append(
                f"No consumption was measured in {', '.join(names[m] for m in empty)}: the listed loads stand in for those months."
            )
    else:
        notes.append("No consumption is imported: the listed loads and their hours stand for the house.")
    site = plan.job.site
    if site.longitude_deg is not None and site.utc_offset_h is not None:
        noon = 12 - site.longitude_deg / 15 + site.utc_offset_h
        if abs(noon - 12) > 2:
            notes.append(
                f"Longitude and standard time do not belong together: the sun would stand highest at {noon % 24:.1f} h. Check both signs."
            )
    if plan.house.joins_grid and site.export_limit_w is None:
        notes.append("The permitted export is not answered: nothing is counted as given to the grid.")
    if plan.job.settings.work_mode == "timed":
        notes.append("Timed mode is run as self-use with its charging windows.")
    if plan.house.mark:
        notes.append("The house side is counted with the first island.")
    if plan.seats.generator:
        notes.append("No generator is counted.")
    if not plan.job.strings:
        notes.append("No PV is planned.")
    elif not yield_.value:
        notes.append("The strings lie on no face: no yield is counted.")
    return tuple(notes)

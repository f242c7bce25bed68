"""What does a year with this system look like, and how long does an outage from any hour of it last?"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from gumboot.core.card.model import BatteryCard, InverterCard, ModuleCard, PvInverterCard
from gumboot.core.expression import number
from gumboot.core.figure import Figure, constant
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan
from gumboot.core.rulebook.books import book
from gumboot.core.sim.autonomy import hourly_profile_w, whole_hours
from gumboot.core.sim.outage import field_24x12, hours_carried_from, need_for
from gumboot.core.sim.sun import DAYS, Place, Series, climates, module_power, monthly, of_hemisphere
from gumboot.core.sim.year import Rules, Store, Year, settled_year
from gumboot.core.workbook import Workbook

PV_TO_AC = constant("eta_pv", "Conversion of PV to AC", 0.97, "", "cp.pvac")
MINUTES = 60


@dataclass(frozen=True)
class More:
    """What one more of something buys: hours carried in the worst tenth, and the share of the load served without the grid."""

    title: str
    hours: Figure
    own: Figure


@dataclass(frozen=True, eq=False)
class YearStudy:
    """A year of operation and the outages in it; ``waits_for`` names what must be answered first and is empty when all is there."""

    waits_for: tuple[str, ...]
    figures: dict[str, Figure]
    year: Year | None = None
    pv_month_kwh: Series | None = None
    load_month_kwh: Series | None = None
    import_month_kwh: Series | None = None
    carried: Series | None = None
    field_low: Series | None = None
    percentiles: tuple[Figure, ...] = ()
    share: Figure | None = None
    reserves: tuple[Figure, ...] = ()
    buys: tuple[More, ...] = ()
    notes: tuple[str, ...] = ()


def place_of(job: Job) -> tuple[Place | None, tuple[str, ...]]:
    """Where the job is and under what sky, or the answers that are missing."""
    site = job.site
    missing = [
        words
        for words, value in (("latitude", site.latitude_deg), ("longitude", site.longitude_deg), ("time zone", site.utc_offset_h))
        if value is None
    ]
    if site.climate is None and not (site.clearness and site.air_c):
        missing.append("climate, or monthly clearness and air temperature")
    if missing or site.latitude_deg is None or site.longitude_deg is None or site.utc_offset_h is None:
        return None, tuple(missing)
    shipped = climates()[site.climate] if site.climate else None
    clearness = tuple(site.clearness) or of_hemisphere(shipped.clearness if shipped else (), site.latitude_deg)
    air = tuple(site.air_c) or of_hemisphere(shipped.air_c if shipped else (), site.latitude_deg)
    return Place(site.latitude_deg, site.longitude_deg, site.altitude_m, site.utc_offset_h, clearness, air), ()


def face_yield_w(plan: Plan, place: Place, face_id: str, minutes: int = MINUTES) -> Series:
    """AC power of one module on a face through a year, W, losses counted. Raises KeyError for an unknown face."""
    module = plan.seats.module
    if not isinstance(module, ModuleCard):
        raise KeyError(face_id)
    face = next((f for f in plan.job.faces if f.id == face_id), None)
    if face is None:
        raise KeyError(face_id)
    unit = module_power(place, minutes, face.tilt_deg, face.azimuth_deg, face.cell_rise_k, module.vmp_per_k)
    kept = (1 - plan.job.preferences.pv_loss_pct / 100) * PV_TO_AC.value
    return np.asarray(unit * module.power_w * kept)


def pv_series_w(plan: Plan, place: Place, extra: dict[str, int] | None = None, island: bool = False, minutes: int = MINUTES) -> Series:
    """PV power on the AC side through a year, W. ``extra`` adds modules by face; in an island a PV inverter without droop is silent."""
    total = np.zeros(525600 // minutes)
    extra_at = next((at.place for at in plan.house.inputs), None)
    for place_id in dict.fromkeys(at.place for at in plan.house.inputs):
        own = [at for at in plan.house.inputs if at.place == place_id]
        card = own[0].converter
        if island and isinstance(card, PvInverterCard) and not card.droop:
            continue
        part = np.zeros_like(total)
        for string in (s for at in own for s in plan.house.strings_on(at)):
            if any(f.id == string.face for f in plan.job.faces):
                part += string.modules * face_yield_w(plan, place, string.face, minutes)
        for face_id, count in (extra or {}).items() if place_id == extra_at else ():
            part += count * face_yield_w(plan, place, face_id, minutes)
        total += np.minimum(part, _most_w(plan, card))
    return total


def _most_w(plan: Plan, card: InverterCard | PvInverterCard) -> float:
    """Most PV power that is of use: what a PV inverter gives; of a hybrid, what its inputs take and what output and charging can use."""
    if isinstance(card, PvInverterCard):
        return card.output_w
    return min(card.pv_max_w, card.output_w + store_of(plan).charge_w)


def load_series_w(plan: Plan, backed_only: bool, minutes: int = MINUTES) -> Series:
    """Demand through a year, W: measured months where there are any, else the loads' own hours."""
    inverter = plan.seats.inverter
    idle = inverter.idle_w if isinstance(inverter, InverterCard) else 0.0
    loads = [x for x in plan.job.loads if x.side == "backed" or not backed_only]
    listed = np.array(hourly_profile_w(loads, idle))
    months = plan.job.consumption.month_hour_w if not backed_only else []
    days = []
    for month, count in enumerate(DAYS):
        day = listed
        if months:
            day = np.array([listed[h] if v is None else v + idle for h, v in enumerate(months[month])])
        days.append(np.tile(np.repeat(day, 60 // minutes), count))
    return np.concatenate(days)


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


def _run(plan: Plan, pv: Series, load: Series, store: Store, minutes: int = MINUTES) -> Year:
    battery = plan.seats.battery
    volts = store.capacity_wh and getattr(battery, "nominal_v", 0.0) * (plan.figures["bank.series"].value or 1)
    rules = rules_of(plan, store)
    hours_flags = grid_charge_hours(plan.job)
    flags = None
    if rules.grid and any(hours_flags) and plan.job.settings.grid_charge_a > 0:
        rules = replace(rules, grid_charge_w=plan.job.settings.grid_charge_a * volts / store.eta_in)
        flags = np.tile(np.repeat(hours_flags, 60 // minutes), 365).tolist()
    return settled_year(pv, load, store, rules, minutes / 60, flags)


def run_quarter_hours(plan: Plan, place: Place) -> Year:
    """The year at 15 minutes, 35 040 steps; same rules as the hourly one."""
    return _run(plan, pv_series_w(plan, place, minutes=15), load_series_w(plan, plan.job.site.supply == "none", 15), store_of(plan), 15)


def study_year(plan: Plan) -> YearStudy:
    """Run the year of a plan and ask its outages. Pure: the same plan gives the same study."""
    place, missing = place_of(plan.job)
    if place is None:
        return YearStudy(missing, {})
    w = Workbook(book(plan.job.rule_book))
    store, grid = store_of(plan), plan.job.site.supply != "none"
    pv = pv_series_w(plan, place)
    load = load_series_w(plan, backed_only=not grid)
    year = _run(plan, pv, load, store)

    def kwh(key: str, symbol: str, name: str, series: Series, limits: str = "") -> Figure:
        return w.work(
            f"year.{key}", symbol, name, float(series.sum()) / 1000, "kWh", "sun.chain" if key == "pv" else "physics", limits=limits
        )

    yield_ = kwh(
        "pv",
        "E_pv",
        "PV yield of a year, AC side",
        pv,
        "Solar position, clear sky, monthly clearness and cell temperature; a typical year.",
    )
    used = kwh("load", "E_load", "Consumption of a year", load, "Measured months where there are any, else the loads' own hours.")
    bought = kwh("import", "E_imp", "Taken from the grid", year.imported_w)
    kwh("export", "E_exp", "Given to the grid", year.exported_w)
    kwh("curtailed", "E_cut", "PV that nobody took", year.curtailed_w)
    kwh("lost", "E_lost", "Lost in charging and discharging", year.lost_w)
    dark = kwh("unserved", "E_dark", "Demand left unserved", year.unserved_w)
    own = _own(w, "year.own", used, bought if grid else dark)
    carried, percentiles, share = _outages(w, plan, place, store, year)
    return YearStudy(
        (),
        w.figures,
        year,
        monthly(pv, MINUTES) / 1000,
        monthly(load, MINUTES) / 1000,
        monthly(year.imported_w, MINUTES) / 1000,
        carried,
        field_24x12(carried, 10),
        percentiles,
        share,
        _reserves(w, plan, place, store),
        _buys(w, plan, place, store, percentiles[1], own, load),
        _notes(plan, yield_),
    )


def _own(w: Workbook, key: str, used: Figure, foreign: Figure, extra: str = "") -> Figure:
    share = 100 * (1 - foreign / used) if used.value > 0 else number(100.0)
    return w.work(key, "s_own", f"Share of the load served without the grid{extra}", share, "%", "physics")


def _carried(plan: Plan, place: Place, store: Store, year: Year, extra: dict[str, int] | None = None) -> Series:
    pv = pv_series_w(plan, place, extra, island=True)
    return hours_carried_from(pv, load_series_w(plan, True), store, np.roll(year.stored_wh, 1))


def _outages(w: Workbook, plan: Plan, place: Place, store: Store, year: Year) -> tuple[Series, tuple[Figure, ...], Figure]:
    carried = _carried(plan, place, store, year)
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
            "sun.outage",
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
        "sun.outage",
        limits="Share of 8760 starting hours.",
    )
    return carried, rows, share


def _reserves(w: Workbook, plan: Plan, place: Place, store: Store) -> tuple[Figure, ...]:
    wished = whole_hours(plan.job.settings.outage_hours)
    need = need_for(pv_series_w(plan, place, island=True), load_series_w(plan, True), store, wished)
    floor = w.work(
        "outage.floor_pct", "S_min", "State of charge at which discharge stops", 100 * store.floor_wh / store.capacity_wh, "%", "physics"
    )
    capacity = w.work("outage.capacity", "E_cap", "Energy of the bank", store.capacity_wh, "Wh", "arith")
    rows = []
    for q, words in ((50, "half of the hours"), (90, "nine hours in ten"), (100, "every hour of the year")):
        most = w.work(
            f"outage.need_p{q}",
            "E_need",
            f"Energy above the floor that carries {wished} h from {words}",
            float(np.percentile(need, q, method="higher")),
            "Wh",
            "sun.outage",
            limits="Worked backward from the outage's end, PV counted.",
        )
        rows.append(
            w.work(
                f"outage.reserve_p{q}",
                "S_res",
                f"Reserve that carries {wished} h from {words}",
                floor + 100 * most / capacity,
                "%",
                "sun.outage",
                limits="Above 100 %: the bank is too small for this wish.",
            )
        )
    return tuple(rows)


def _buys(w: Workbook, plan: Plan, place: Place, store: Store, now: Figure, own: Figure, load: Series) -> tuple[More, ...]:
    options: list[tuple[str, str, dict[str, int], int]] = []
    if plan.job.equipment.module:
        for face in plan.job.faces:
            longest = max((s.modules for s in plan.job.strings if s.face == face.id), default=0)
            if longest:
                options.append((f"string-{face.id}", f"one more string of {longest} on {face.title.lower()}", {face.id: longest}, 0))
    options.append(("battery", "one more battery", {}, 1))
    rows = [More("as planned", now, own)]
    for key, title, extra, units in options:
        bigger = store_of(plan, units) if units else store
        pv = pv_series_w(plan, place, extra)
        year = _run(plan, pv, load, bigger)
        carried = _carried(plan, place, bigger, year, extra)
        hours = w.work(
            f"buys.{key}.hours",
            "t_10",
            f"Nine outages in ten, with {title}",
            float(np.percentile(carried, 10, method="lower")),
            "h",
            "sun.outage",
        )
        used = w.figures["year.load"]
        foreign = year.imported_w if plan.job.site.supply != "none" else year.unserved_w
        taken = w.work(
            f"buys.{key}.import", "E_imp", f"Taken from the grid or unserved, with {title}", float(foreign.sum()) / 1000, "kWh", "physics"
        )
        rows.append(More(title, hours, _own(w, f"buys.{key}.own", used, taken, f", with {title}")))
    return tuple(rows)


MONTHS = ("January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December")


def field_figure(study: YearStudy, hour: int, month: int) -> Figure | None:
    """One place of the field as a figure; ``month`` counts from 0. None while there is no field."""
    if study.field_low is None:
        return None
    return Figure(
        f"outage.field.{hour}.{month + 1}",
        "t_10",
        f"Outage from {hour:02d}:00 in {MONTHS[month]}: nine days in ten carry it longer",
        float(study.field_low[hour, month]),
        "h",
        "sun.outage",
        limits="The tenth part of that month's days, shortest first; 240 h is the most counted.",
    )


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
    if site.supply != "none" and site.export_limit_w is None:
        notes.append("The permitted export is not answered: nothing is counted as given to the grid.")
    if plan.job.settings.work_mode == "timed":
        notes.append("Timed mode is run as self-use with its charging windows.")
    if plan.seats.generator:
        notes.append("No generator is counted.")
    if not plan.job.strings:
        notes.append("No PV is planned.")
    elif not yield_.value:
        notes.append("The strings lie on no face: no yield is counted.")
    return tuple(notes)

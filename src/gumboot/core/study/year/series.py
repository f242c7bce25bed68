"""What does the sun give and what do the loads take, hour by hour?"""

from __future__ import annotations

import numpy as np

from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.solar import PvInverterCard
from gumboot.core.figure import constant
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan
from gumboot.core.sim.autonomy import hourly_profile_w
from gumboot.core.sim.sun import DAYS, Place, Series, climates, module_power, of_hemisphere
from gumboot.core.study.year.store import store_of

PV_TO_AC = constant("eta_pv", "Conversion of PV to AC", 0.97, "", "cp.pvac")


MINUTES = 60


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
    module = plan.seats.module_or_none(face_id)
    if module is None:
        raise KeyError(face_id)
    face = next((f for f in plan.job.faces if f.id == face_id), None)
    if face is None:
        raise KeyError(face_id)
    unit = module_power(place, minutes, face.tilt_deg, face.azimuth_deg, face.cell_rise_k, gamma_per_k=module.vmp_per_k)
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
        total += np.minimum(part, _most_w(plan, place_id, card))
    return total


def _most_w(plan: Plan, place: str, card: InverterCard | PvInverterCard) -> float:
    """Most PV power that is of use: what a PV inverter gives; of a hybrid, what its inputs take and what output and charging can use."""
    if isinstance(card, PvInverterCard):
        return card.output_w
    return min(card.pv_max_w, card.output_w + store_of(plan, of=place).charge_w)


def load_series_w(plan: Plan, backed_only: bool, minutes: int = MINUTES) -> Series:
    """Demand through a year, W: measured months where there are any, else the loads' own hours."""
    idle = sum(seat.card.idle_w for seat in plan.seats.inverters)
    # The house side, and what was measured at the supply, is counted once: with the first island.
    whole = not backed_only and not plan.house.mark
    loads = [x for x in plan.job.loads if x.side == "backed" or whole]
    listed = np.array(hourly_profile_w(loads, idle))
    months = plan.job.consumption.month_hour_w if whole else []
    days = []
    for month, count in enumerate(DAYS):
        day = listed
        if months:
            day = np.array([listed[h] if v is None else v + idle for h, v in enumerate(months[month])])
        days.append(np.tile(np.repeat(day, 60 // minutes), count))
    return np.concatenate(days)

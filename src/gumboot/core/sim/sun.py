"""How much sun falls on a face through a year? Solar position, clear sky and transposition come from pvlib."""

from __future__ import annotations

import csv
import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

Series = npt.NDArray[np.float64]
DAYS = (31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
TURBIDITY = 3.0  # Linke turbidity of ordinary rural air, common practice
ALBEDO = 0.2
# Ten days of weather as they follow each other: a dull spell of three in every ten. Their mean is 1, so the month keeps its clearness.
SPELL = (1.3, 1.35, 1.2, 0.95, 0.6, 0.4, 0.45, 0.95, 1.35, 1.45)
TABLE = Path(__file__).parent / "climates.csv"


@dataclass(frozen=True)
class Climate:
    """Monthly clearness (sun received against a clear sky) and mean air temperature in °C, January first, northern half of the earth."""

    id: str
    title: str
    clearness: tuple[float, ...]
    air_c: tuple[float, ...]


@dataclass(frozen=True)
class Place:
    """Where and under what sky. ``clearness`` and ``air_c`` have shape (12,), January first; offset of local standard time in h."""

    latitude_deg: float
    longitude_deg: float
    altitude_m: float
    offset_h: float
    clearness: tuple[float, ...]
    air_c: tuple[float, ...]


@lru_cache(maxsize=1)
def climates() -> dict[str, Climate]:
    """Shipped defaults by id. Common practice, rounded, from memory: enter the site's own values where they are known."""
    with TABLE.open(encoding="utf-8", newline="") as file:
        rows = list(csv.DictReader(file))
    found = {}
    for row in rows:
        clear = tuple(float(x) for x in row["clearness_jan_to_dec"].split())
        air = tuple(float(x) for x in row["mean_air_c_jan_to_dec"].split())
        found[row["id"]] = Climate(row["id"], row["title"], clear, air)
    return found


def of_hemisphere(months: Sequence[float], latitude_deg: float) -> tuple[float, ...]:
    """Monthly values of the northern half turned by six months for the southern one."""
    return tuple(months) if latitude_deg >= 0 else (*months[6:], *months[:6])


def day_clearness(clearness: Sequence[float]) -> Series:
    """Clearness of each day of a year, shape (365,): the month's mean kept, spread over dull and bright spells, never above 1."""
    days, at = np.empty(365), 0
    for month, count in enumerate(DAYS):
        k = clearness[month]
        factors = np.array([SPELL[(at + d) % len(SPELL)] for d in range(count)])
        values = k * factors / factors.mean()
        # What would be brighter than a clear sky is handed to the other days, so that the month's sum stays.
        for _ in range(20):
            over = values > 1.0
            surplus = float((values[over] - 1.0).sum())
            if surplus < 1e-12 or over.all():
                break
            values[over] = 1.0
            room = 1.0 - values[~over]
            values[~over] += surplus * room / room.sum() if room.sum() > 0 else 0.0
        days[at : at + count] = np.minimum(values, 1.0)
        at += count
    return days


@dataclass(frozen=True, eq=False)
class Sky:
    """The sky over a place at each step of a year, local standard time; W/m2 on the horizontal and along the beam, angles in degrees."""

    minutes: int
    times: Any
    apparent_zenith: Series
    zenith: Series
    azimuth: Series
    ghi: Series
    dni: Series
    dhi: Series
    dni_extra: Series
    air_c: Series


@lru_cache(maxsize=16)
def sky(place: Place, minutes: int) -> Sky:
    """Solar position (SPA), Ineichen clear sky, monthly clearness and the Erbs split, at the middle of each step. Shape (525600/minutes,)."""
    import pandas as pd
    import pvlib

    zone = pd.Timedelta(hours=place.offset_h)
    local = pd.date_range("2023-01-01", periods=525600 // minutes, freq=f"{minutes}min") + pd.Timedelta(minutes=minutes / 2)
    times = (local - zone).tz_localize("UTC")
    position = pvlib.solarposition.get_solarposition(times, place.latitude_deg, place.longitude_deg, place.altitude_m, method="nrel_numpy")
    extra = pvlib.irradiance.get_extra_radiation(times)
    pressure = pvlib.atmosphere.alt2pres(place.altitude_m)
    airmass = pvlib.atmosphere.get_absolute_airmass(pvlib.atmosphere.get_relative_airmass(position["apparent_zenith"]), pressure)
    clear = pvlib.clearsky.ineichen(position["apparent_zenith"], airmass, TURBIDITY, place.altitude_m, extra)
    per_day = 1440 // minutes
    k = np.repeat(day_clearness(place.clearness), per_day)
    ghi = clear["ghi"].to_numpy() * k
    split = pvlib.irradiance.erbs(ghi, position["zenith"].to_numpy(), times)
    # A whole clear day keeps the clear sky's own beam; only what cloud takes away is split by Erbs.
    whole = k >= 0.999
    dni = np.where(whole, clear["dni"].to_numpy(), np.asarray(split["dni"]))
    dhi = np.where(whole, clear["dhi"].to_numpy(), np.asarray(split["dhi"]))
    hour = (np.arange(per_day) + 0.5) * minutes / 60
    swing = 5.0 * np.cos(2 * np.pi * (hour - 15) / 24)
    air = np.repeat(np.repeat(np.array(place.air_c), DAYS), per_day) + np.tile(swing, 365)
    return Sky(
        minutes,
        times,
        position["apparent_zenith"].to_numpy(),
        position["zenith"].to_numpy(),
        position["azimuth"].to_numpy(),
        ghi,
        np.nan_to_num(dni),
        np.nan_to_num(dhi),
        np.asarray(extra, dtype=np.float64),
        air,
    )


@lru_cache(maxsize=64)
def on_face(place: Place, minutes: int, tilt_deg: float, azimuth_deg: float) -> Series:
    """Sun on a tilted face, W/m2, Hay and Davies. Shape (525600/minutes,)."""
    import pvlib

    s = sky(place, minutes)
    total = pvlib.irradiance.get_total_irradiance(
        tilt_deg,
        azimuth_deg,
        s.apparent_zenith,
        s.azimuth,
        s.dni,
        s.ghi,
        s.dhi,
        dni_extra=s.dni_extra,
        albedo=ALBEDO,
        model="haydavies",
    )
    return np.asarray(np.nan_to_num(np.asarray(total["poa_global"])), dtype=np.float64)


@lru_cache(maxsize=128)
def module_power(place: Place, minutes: int, tilt_deg: float, azimuth_deg: float, rise_k: float, *, gamma_per_k: float) -> Series:
    """DC power of one module against its rating (1 at 1000 W/m2 and 25 °C cell), by the PVWatts equation. Shape (525600/minutes,).

    ``rise_k`` is the cell's rise above air in full sun for this mounting, in K.
    """
    import pvlib

    poa = on_face(place, minutes, tilt_deg, azimuth_deg)
    cell = sky(place, minutes).air_c + rise_k * poa / 1000
    return np.asarray(np.maximum(pvlib.pvsystem.pvwatts_dc(poa, cell, 1.0, gamma_per_k), 0.0), dtype=np.float64)


def monthly(series: Series, minutes: int) -> Series:
    """Energy of each month, shape (12,): the sum of a power series times its step in h."""
    ends = np.cumsum([0, *(d * 1440 // minutes for d in DAYS)])
    return np.array([series[a:b].sum() * minutes / 60 for a, b in itertools.pairwise(ends)])

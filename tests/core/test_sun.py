"""The solar chain against the library's own model chain, and its weather against the months it is made of."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pvlib
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.sim.sun import DAYS, SPELL, TURBIDITY, Place, climates, day_clearness, module_power, monthly, of_hemisphere, on_face, sky

PLACE = Place(52.3, -1.2, 60.0, 0.0, (1.0,) * 12, (5.0,) * 12)


@pytest.mark.parametrize(
    ("latitude", "longitude", "offset", "tilt", "azimuth"),
    [(52.3, -1.2, 0, 35, 170), (-33.6, 150.8, 10, 20, 350), (35.4, -82.5, -5, 10, 265)],
)
def test_clear_year_against_the_reference_chain(latitude: float, longitude: float, offset: float, tilt: float, azimuth: float) -> None:
    """ModelChain with PVWatts modules, the same clear sky, transposition and temperature: within half a percent over the year."""
    place = Place(latitude, longitude, 60.0, offset, (1.0,) * 12, (15.0,) * 12)
    ours = module_power(place, 60, tilt, azimuth, 30.0, gamma_per_k=-0.003)
    s = sky(place, 60)
    location = pvlib.location.Location(latitude, longitude, tz=int(offset), altitude=60.0)
    clear = location.get_clearsky(s.times, model="ineichen", linke_turbidity=TURBIDITY)
    total = pvlib.irradiance.get_total_irradiance(
        tilt,
        azimuth,
        s.apparent_zenith,
        s.azimuth,
        clear["dni"],
        clear["ghi"],
        clear["dhi"],
        dni_extra=pvlib.irradiance.get_extra_radiation(s.times),
        model="haydavies",
        albedo=0.2,
    )
    system = pvlib.pvsystem.PVSystem(
        arrays=[
            pvlib.pvsystem.Array(
                pvlib.pvsystem.FixedMount(tilt, azimuth),
                module_parameters={"pdc0": 1.0, "gamma_pdc": -0.003},
                temperature_model_parameters={"noct": 45, "module_efficiency": 0.2},
                albedo=0.2,
            )
        ],
        inverter_parameters={"pdc0": 10.0},
    )
    chain = pvlib.modelchain.ModelChain(
        system,
        location,
        clearsky_model="ineichen",
        transposition_model="haydavies",
        dc_model="pvwatts",
        ac_model="pvwatts",
        aoi_model="no_loss",
        spectral_model="no_loss",
        temperature_model="noct_sam",
    )
    weather = clear.assign(temp_air=s.air_c, wind_speed=1.0)
    weather["cell_temperature"] = s.air_c + 30.0 * total["poa_global"].fillna(0) / 1000
    chain.run_model(weather)
    reference = chain.results.dc.fillna(0).to_numpy()
    assert ours.sum() == pytest.approx(reference.sum(), rel=0.005)
    assert np.abs(monthly(ours, 60) - monthly(reference, 60)).max() < 0.01 * monthly(reference, 60).max()


def test_noon_sun_by_hand() -> None:
    """At the equinox the sun stands 90° less the latitude above the southern horizon."""
    s = sky(PLACE, 60)
    day = sum(DAYS[:2]) + 19
    noon = s.zenith[day * 24 : day * 24 + 24].min()
    assert noon == pytest.approx(52.3, abs=1.0)
    assert s.azimuth[day * 24 + int(s.zenith[day * 24 : day * 24 + 24].argmin())] == pytest.approx(180, abs=12)


def test_nothing_at_night_and_no_more_than_the_rating_by_much() -> None:
    power = module_power(PLACE, 60, 35, 180, 30, gamma_per_k=-0.003)
    s = sky(PLACE, 60)
    assert power[s.apparent_zenith > 91].max() < 0.002
    assert power.max() < 1.25


def test_an_hour_and_its_quarters_hold_the_same_energy() -> None:
    hour, quarters = module_power(PLACE, 60, 35, 180, 30, gamma_per_k=-0.003), module_power(PLACE, 15, 35, 180, 30, gamma_per_k=-0.003)
    assert hour.sum() == pytest.approx(quarters.sum() / 4, rel=0.005)


def test_a_south_face_gets_more_than_a_north_one_and_turns_below_the_equator() -> None:
    def year(place: Place, azimuth: float) -> float:
        return float(on_face(place, 60, 30, azimuth).sum())

    south = Place(-41.3, 173.2, 10.0, 12.0, (0.6,) * 12, (12.0,) * 12)
    assert year(PLACE, 180) > 1.3 * year(PLACE, 0)
    assert year(south, 0) > 1.3 * year(south, 180)


def test_the_spell_keeps_its_mean() -> None:
    assert sum(SPELL) == pytest.approx(len(SPELL))


@given(st.lists(st.floats(0.05, 1.0), min_size=12, max_size=12))
def test_days_keep_the_month(months: list[float]) -> None:
    days = day_clearness(months)
    assert days.max() <= 1.0 + 1e-12
    assert days.min() >= 0
    at = 0
    for k, count in zip(months, DAYS, strict=True):
        assert days[at : at + count].mean() == pytest.approx(k, abs=1e-6)
        at += count


def test_shipped_climates_are_twelve_months_each_and_possible() -> None:
    for climate in climates().values():
        assert len(climate.clearness) == len(climate.air_c) == 12
        assert all(0.3 <= k <= 0.95 for k in climate.clearness)
        assert all(-15 <= t <= 40 for t in climate.air_c)
        assert climate.air_c.index(max(climate.air_c)) in (6, 7)
        assert of_hemisphere(of_hemisphere(climate.air_c, -1), -1) == climate.air_c
    # Ordered by what everybody knows of them.
    mean = {name: sum(c.clearness) for name, c in climates().items()}
    assert mean["maritime"] < mean["continental"] < mean["arid"]
    assert mean["maritime"] < mean["mediterranean"]


def test_months_add_up_to_the_year() -> None:
    power = module_power(PLACE, 60, 35, 180, 30, gamma_per_k=-0.003)
    assert monthly(power, 60).sum() == pytest.approx(power.sum())
    assert isinstance(sky(PLACE, 60).times, pd.DatetimeIndex)

"""The year and its outages: an hour table by hand, conservation, brute force, and what more of something may do."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.sim.autonomy import whole_hours
from gumboot.core.sim.outage import field_24x12, hours_carried_from, need_for
from gumboot.core.sim.year import Rules, Store, run_year, settled_year
from gumboot.core.study.year import grid_charge_hours, place_of, run_quarter_hours, study_year
from tests.helpers import edited, plan_of, with_card

STORE = Store(capacity_wh=10_000, floor_wh=1_000, charge_w=3_000, discharge_w=2_000, eta_in=0.9, eta_out=0.8)


def test_hours_by_hand() -> None:
    """Each line worked with a pencil: PV, load, then stored, imported, exported, curtailed, lost."""
    pv = np.array([0.0, 5000.0, 8000.0, 0.0, 0.0, 0.0])
    load = np.array([1000.0, 1000.0, 1000.0, 3000.0, 3000.0, 500.0])
    year = run_year(pv, load, STORE, Rules(reserve_wh=4_000, grid=True, export_w=2_500), 1.0, began_wh=4_400)
    # 1: need 1000; above the reserve 400 Wh x 0.8 = 320 W; 680 from the grid. 2: 4000 over, 3000 charged, 1000 out.
    # 3: 7000 over, 3000 charged, 2500 out, 1500 nobody's. 4: 2000 given, 1000 bought. 5: 9400-2500=6900-> 2000 given. 6: 500 / 0.8.
    assert year.stored_wh == pytest.approx([4000, 6700, 9400, 6900, 4400, 4000])
    assert year.imported_w == pytest.approx([680, 0, 0, 1000, 1000, 180])
    assert year.exported_w == pytest.approx([0, 1000, 2500, 0, 0, 0])
    assert year.curtailed_w == pytest.approx([0, 0, 1500, 0, 0, 0])
    assert year.lost_w == pytest.approx([80, 300, 300, 500, 500, 80])


def test_without_a_grid_the_floor_is_the_end_and_the_rest_is_dark() -> None:
    year = run_year(np.zeros(3), np.full(3, 2500.0), STORE, Rules(4_000, False, 0), 1.0, began_wh=6_000)
    assert year.stored_wh == pytest.approx([3500, 1000, 1000])
    assert year.unserved_w == pytest.approx([500, 500, 2500])
    assert year.imported_w.sum() == 0


def test_filled_from_the_grid_only_when_marked() -> None:
    rules = Rules(4_000, True, 0, grid_charge_w=1_000)
    year = run_year(np.zeros(2), np.zeros(2), STORE, rules, 1.0, began_wh=5_000, grid_charge=[True, False])
    assert year.stored_wh == pytest.approx([5900, 5900])
    assert year.imported_w == pytest.approx([1000, 0])


def test_sun_and_grid_fill_together_up_to_the_charge_limit() -> None:
    store = Store(20_000, 0, 1_500, 5_000, 1.0, 1.0)
    rules = Rules(0, True, 9_000, grid_charge_w=2_000)
    year = run_year(np.array([1000.0]), np.zeros(1), store, rules, 1.0, began_wh=0, grid_charge=[True])
    assert (year.stored_wh[0], year.imported_w[0], year.exported_w[0]) == pytest.approx((1500, 500, 0))


def test_nothing_is_taken_from_the_grid_while_the_battery_gives() -> None:
    rules = Rules(0, True, 0, grid_charge_w=2_000)
    year = run_year(np.zeros(1), np.array([700.0]), STORE, rules, 1.0, began_wh=9_000, grid_charge=[True])
    assert year.imported_w[0] == 0


powers = st.lists(st.floats(0, 8000), min_size=4, max_size=60)
stores = st.builds(
    lambda c, f, i, o, a, b: Store(c, f * c, i, o, a, b),
    st.floats(1000, 40000), st.floats(0, 0.5), st.floats(100, 8000), st.floats(100, 8000), st.floats(0.7, 1), st.floats(0.7, 1),
)  # fmt: skip


@given(powers, powers, stores, st.booleans(), st.floats(0, 5000), st.floats(0, 1), st.sampled_from([0.25, 0.5, 1.0]))
def test_energy_is_conserved(a: list[float], b: list[float], store: Store, grid: bool, export: float, reserve: float, hours: float) -> None:
    n = min(len(a), len(b))
    pv, load = np.array(a[:n]), np.array(b[:n])
    year = run_year(
        pv,
        load,
        store,
        Rules(reserve * store.capacity_wh, grid, export, 500),
        hours,
        began_wh=0.6 * store.capacity_wh,
        grid_charge=[True] * n,
    )
    into = (pv + year.imported_w).sum() * hours
    out = (load - year.unserved_w + year.exported_w + year.curtailed_w + year.lost_w).sum() * hours
    assert into == pytest.approx(out + year.stored_wh[-1] - 0.6 * store.capacity_wh, abs=1e-6 * max(1.0, into))
    assert year.stored_wh.max() <= store.capacity_wh + 1e-6
    assert min(x.min() for x in (year.imported_w, year.exported_w, year.curtailed_w, year.unserved_w, year.lost_w)) >= -1e-9


@given(powers, powers, stores)
def test_a_larger_bank_leaves_no_more_in_the_dark(a: list[float], b: list[float], store: Store) -> None:
    n = min(len(a), len(b))
    pv, load = np.array(a[:n]), np.array(b[:n])
    small = run_year(pv, load, store, Rules(0, False, 0), 1.0, began_wh=store.capacity_wh)
    big = run_year(pv, load, replace(store, capacity_wh=2 * store.capacity_wh), Rules(0, False, 0), 1.0, began_wh=2 * store.capacity_wh)
    assert big.unserved_w.sum() <= small.unserved_w.sum() + 1e-6


def _walk(pv: Any, load: Any, store: Store, start: int, energy: float, most: int) -> float:
    """An outage walked hour by hour, the plain way."""
    energy = min(energy, store.capacity_wh) - store.floor_wh
    if energy <= 0 and pv[start % len(pv)] < load[start % len(pv)]:
        return 0.0
    energy = max(energy, 0.0)
    for k in range(most):
        gain = pv[(start + k) % len(pv)] - load[(start + k) % len(pv)]
        step = min(gain, store.charge_w) * store.eta_in if gain >= 0 else gain / store.eta_out
        if energy + step < -1e-9:
            return float(k + energy / -step)
        energy = min(energy + step, store.capacity_wh - store.floor_wh)
    return float(most)


@given(
    st.lists(st.floats(0, 6000), min_size=24, max_size=24), st.lists(st.floats(10, 4000), min_size=24, max_size=24), stores, st.floats(0, 1)
)
def test_every_outage_against_a_plain_walk(a: list[float], b: list[float], store: Store, charge: float) -> None:
    pv, load, begin = np.array(a), np.array(b), np.full(24, charge * store.capacity_wh)
    found = hours_carried_from(pv, load, store, begin, 96)
    for start in range(24):
        assert found[start] == pytest.approx(_walk(pv, load, store, start, begin[start], 96), abs=1e-6)


@given(
    st.lists(st.floats(0, 6000), min_size=24, max_size=24),
    st.lists(st.floats(10, 4000), min_size=24, max_size=24),
    stores,
    st.integers(1, 48),
)
def test_the_reserve_asked_for_is_enough_and_hardly_less_is_not(a: list[float], b: list[float], store: Store, wished: int) -> None:
    pv, load = np.array(a), np.array(b)
    need = need_for(pv, load, store, wished)
    span = store.capacity_wh - store.floor_wh
    carried = hours_carried_from(pv, load, store, store.floor_wh + need + 1e-6, wished)
    less = hours_carried_from(pv, load, store, store.floor_wh + need - 1.0, wished)
    for start in range(24):
        if need[start] <= span - 1e-3:
            assert carried[start] == pytest.approx(wished, abs=1e-6)
        if need[start] > span + 1.0:
            full = hours_carried_from(pv, load, store, np.full(24, store.capacity_wh), wished)
            assert full[start] < wished
        if 1.0 < need[start] <= span:
            assert less[start] < wished


def test_field_takes_a_day_of_each_month() -> None:
    series = np.tile(np.arange(24.0), 365)
    field = field_24x12(series, 10)
    assert field.shape == (24, 12)
    assert (field == np.arange(24.0)[:, None]).all()
    by_day = field_24x12(np.repeat(np.arange(365.0), 24), 0)
    assert list(by_day[0]) == [0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334]


def test_a_year_begins_as_it_ends() -> None:
    pv, load = np.tile([0.0, 4000.0], 4380), np.full(8760, 900.0)
    year = settled_year(pv, load, STORE, Rules(2_000, True, 9_000), 1.0)
    assert year.began_wh == pytest.approx(year.stored_wh[-1], rel=0.02)


def test_the_house_through_the_year() -> None:
    plan = plan_of({})
    study = study_year(plan)
    f = {k: v.value for k, v in study.figures.items()}
    assert study.year is not None
    stored = (study.year.stored_wh[-1] - study.year.began_wh) / 1000
    assert f["year.pv"] + f["year.import"] == pytest.approx(
        f["year.load"] - f["year.unserved"] + f["year.export"] + f["year.curtailed"] + f["year.lost"] + stored, abs=0.01
    )
    # 24-hour demand of the listed loads is the same each day of the year.
    idle = plan.seats.inverter.idle_w
    from gumboot.core.sim.autonomy import hourly_profile_w

    assert f["year.load"] == pytest.approx(sum(hourly_profile_w(plan.job.loads, idle)) * 365 / 1000)
    assert f["outage.p0"] <= f["outage.p10"] <= f["outage.p50"] <= f["outage.p90"]
    assert f["outage.reserve_p50"] <= f["outage.reserve_p90"] <= f["outage.reserve_p100"]
    # The dark outage from a full bank is the safe side only of a full bank; from the reserve it is shorter.
    assert f["outage.p0"] <= plan.loads.shortest.value


def test_quarter_hours_agree_with_hours() -> None:
    plan = plan_of({})
    place, _ = place_of(plan.job)
    assert place is not None
    fine, coarse = run_quarter_hours(plan, place), study_year(plan).year
    assert coarse is not None
    assert len(fine.stored_wh) == 35_040
    assert fine.imported_w.sum() / 4 == pytest.approx(coarse.imported_w.sum(), rel=0.01)


def test_more_of_anything_never_shortens_the_outage() -> None:
    study = study_year(plan_of({}))
    now = study.buys[0]
    assert len(study.buys) == 4
    for more in study.buys[1:]:
        assert more.hours.value >= now.hours.value
        assert more.own.value >= now.own.value


def test_what_is_missing_is_named_and_nothing_is_guessed() -> None:
    study = study_year(plan_of({"site.latitude_deg": None, "site.climate": None}))
    assert study.figures == {}
    assert study.waits_for == ("latitude", "climate, or monthly clearness and air temperature")
    own = study_year(plan_of({"site.climate": None, "site.clearness": [0.6] * 12, "site.air_c": [10.0] * 12}))
    assert own.waits_for == ()


def test_a_house_that_uses_nothing_buys_nothing() -> None:
    cards = with_card("plover-6s", {"idle_w": 0.0})
    empty = study_year(plan_of({"consumption.month_hour_w": [[0.0] * 24 for _ in range(12)]}, cards))
    assert empty.figures["year.load"].value == 0
    assert empty.buys[0].own.value == 100


def test_measured_consumption_stands_for_the_house_and_a_gap_is_said() -> None:
    days: list[list[float | None]] = [[1000.0] * 24 for _ in range(12)]
    days[3] = [None] * 24
    study = study_year(plan_of({"consumption.month_hour_w": days}))
    assert any("Apr" in note for note in study.notes)
    assert study.load_month_kwh is not None
    assert study.load_month_kwh[0] == pytest.approx(31 * 24 * (1000 + plan_of({}).shelf["plover-6s"].idle_w) / 1000, rel=1e-9)  # type: ignore[union-attr]


def test_grid_charge_hours_wrap_midnight() -> None:
    flags = grid_charge_hours(edited({}))
    assert len(flags) == 24
    assert [h for h in range(24) if flags[h]] == [0, 1, 2, 3, 4, 5, 22, 23]


def test_off_grid_the_dark_hours_are_counted() -> None:
    study = study_year(plan_of({}, None, "d4-lookout"))
    assert study.figures["year.import"].value == 0
    assert "year.unserved" in study.figures
    assert any("generator" in note for note in study.notes)


def test_a_longitude_of_the_wrong_sign_is_noticed() -> None:
    assert not any("do not belong together" in n for n in study_year(plan_of({})).notes)
    assert any("do not belong together" in n for n in study_year(plan_of({"site.longitude_deg": 68.4})).notes)


@pytest.mark.parametrize(("wished", "whole"), [(0.0, 1), (4.5, 5), (5.0, 5), (5.5, 6), (5.0001, 6)])
def test_a_part_of_an_hour_is_never_wished_away(wished: float, whole: int) -> None:
    assert whole_hours(wished) == whole
    assert f"carries {whole} h" in study_year(plan_of({"settings.outage_hours": wished})).reserves[0].name


def test_an_unanswered_export_limit_is_said() -> None:
    assert any("permitted export" in n for n in study_year(plan_of({"site.export_limit_w": None})).notes)

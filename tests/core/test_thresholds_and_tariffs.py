"""Every threshold as a decision, by volts and by charge; tariffs by half hour, kind of day and season."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gumboot.core.job.settings import TariffWindow
from gumboot.core.plan.settings import ORDER, window_halves, window_months
from gumboot.core.study.year import grid_charge_hours
from tests.helpers import codes, edited, findings, plan_of

SET = {"SET-ORDER", "SET-GAP", "SET-HUNT", "SET-DEPTH", "SET-TARIFF-GAP", "SET-TARIFF-OVERLAP"}


def said(edits: dict[str, Any], name: str = "d1-saltmarsh") -> set[str]:
    return {c for c in codes(edits, name=name) if c in SET}


def window(first: int, last: int, **more: Any) -> TariffWindow:
    return TariffWindow(id="w", title="W", kind="peak", from_hour=first, to_hour=last, price=0.1, **more)


@pytest.mark.parametrize("key", [key for key, _ in ORDER])
def test_every_threshold_is_the_jobs_to_decide(key: str) -> None:
    card = plan_of().settings.rulers[0].thresholds
    (row,) = [r for r in card if r.key == key]
    wanted = round(row.amount.value + 0.3, 2)
    plan = plan_of({f"settings.{key}": wanted})
    (again,) = [r for r in plan.settings.rulers[0].thresholds if r.key == key]
    assert (again.amount.value, again.why.split(";")[0]) == (wanted, "chosen by this job")
    assert not {c for c in {f.code for f in plan.findings} if c in SET}


@pytest.mark.parametrize(("below", "above"), [(a, b) for (a, _), (b, _) in itertools.pairwise(ORDER) if a != "float_v"])
def test_no_two_neighbours_may_be_told_apart_by_less_than_a_display(below: str, above: str) -> None:
    """One is brought near the other by hand: 0.204 V is too near of 51.2 V, 0.205 V is not; equal or beyond is an order."""
    rows = {r.key: r.amount.value for r in plan_of().settings.rulers[0].thresholds}
    for apart, code in ((0.205, set()), (0.204, {"SET-GAP"}), (0.01, {"SET-GAP"}), (0.0, {"SET-ORDER"}), (-0.1, {"SET-ORDER"})):
        assert said({f"settings.{below}": rows[above] - apart}) - {"SET-HUNT"} == code
    found = [f for f in findings({f"settings.{below}": rows[above] - 0.1}) if f.code == "SET-GAP"]
    assert [f.field for f in found] == [f"settings.{above}"]


def test_thresholds_by_charge_have_their_order_and_their_distance() -> None:
    good = {
        "settings.cut_off_pct": 12,
        "settings.grid_takeover_pct": 20,
        "settings.recover_pct": 25,
        "settings.grid_release_pct": 30,
    }
    assert said(good) == set()
    sheet = {row.key: row for row in plan_of(good).settings.sheet}
    assert [sheet[key.removeprefix("settings.")].amount.value for key in good] == [12, 20, 25, 30]
    assert said(good | {"settings.recover_pct": 22}) == set()
    assert said(good | {"settings.recover_pct": 21.9}) == {"SET-GAP"}
    assert said(good | {"settings.recover_pct": 19}) == {"SET-ORDER"}
    assert said(good | {"settings.cut_off_pct": 9}) == {"SET-DEPTH"}
    # Half is the floor of lead-acid, whatever its card says.
    assert said({"settings.cut_off_pct": 49}, "d4-lookout") == {"SET-DEPTH"}
    assert said({"settings.cut_off_pct": 50}, "d4-lookout") == set()
    # One that is not chosen is not asked about.
    assert said({"settings.cut_off_pct": 12, "settings.grid_release_pct": 14}) == set()


@given(first=st.integers(0, 23), last=st.integers(1, 24), m=st.sampled_from([0, 30]), n=st.sampled_from([0, 30]))
def test_a_window_covers_the_half_hours_between_its_ends(first: int, last: int, m: int, n: int) -> None:
    halves = window_halves(window(first, last, from_minute=m, to_minute=n))
    start, end = first * 60 + m, last * 60 + n
    length = (end - start) % 1440 or 1440
    assert halves == {(start + k) % 1440 // 30 for k in range(0, length, 30)}


@given(first=st.integers(1, 12), last=st.integers(1, 12))
def test_a_season_may_wrap_the_year(first: int, last: int) -> None:
    months = window_months(window(0, 24, from_month=first, to_month=last))
    assert months == ({*range(first, last + 1)} if first <= last else {*range(first, 13), *range(1, last + 1)})


def test_windows_on_other_days_or_in_other_seasons_do_not_overlap() -> None:
    evening = "settings.tariff.evening."
    assert said({evening + "from_hour": 15}) == {"SET-TARIFF-OVERLAP"}
    # From 15:30 half an hour has two prices, from 16:30 half an hour has none.
    assert said({evening + "from_hour": 15, evening + "from_minute": 30}) == {"SET-TARIFF-OVERLAP"}
    assert said({evening + "from_minute": 30}) == {"SET-TARIFF-GAP"}
    # By weekday alone it leaves the weekend without a price; beside a window of the weekend it does not.
    assert said({evening + "days": "weekdays"}) == {"SET-TARIFF-GAP"}
    job = edited({}).model_dump(mode="json")
    (night, day, peak) = job["settings"]["tariff"]
    for other in ({"days": "weekends"}, {"from_month": 5, "to_month": 9}):
        mine = {"days": "weekdays"} if "days" in other else {"from_month": 10, "to_month": 4}
        windows = [night, day, {**peak, **mine}, {**peak, **other, "id": "evening-2", "title": "Evening 2", "price": 0.2}]
        assert said({"settings.tariff": windows}) == set()
        assert said({"settings.tariff": [*windows[:3], {**windows[3], "from_hour": 15}]}) == {"SET-TARIFF-OVERLAP"}
    assert said({"settings.tariff": []}) == set()


def test_the_year_charges_by_windows_that_hold_every_day_and_the_whole_hour() -> None:
    always = grid_charge_hours(edited({}))
    assert [h for h in range(24) if always[h]] == [0, 1, 2, 3, 4, 5, 22, 23]
    later = grid_charge_hours(edited({"settings.tariff.night.from_minute": 30}))
    assert [h for h in range(24) if later[h]] == [0, 1, 2, 3, 4, 5, 23]
    assert not any(grid_charge_hours(edited({"settings.tariff.night.days": "weekdays"})))
    assert not any(grid_charge_hours(edited({"settings.tariff.night.to_month": 11})))


def test_the_day_that_is_drawn_has_48_half_hours() -> None:
    halves = plan_of({"settings.tariff.evening.from_minute": 30}).settings.tariff_by_half
    assert [len(ws) for ws in halves] == [1] * 32 + [0] + [1] * 15

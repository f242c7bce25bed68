"""What an inverter gives where it hangs, less in thin and in hot air by its card; and what a single line may feed."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.study.pick import best_pick
from tests.helpers import codes, plan_of, with_card

D4 = "d4-lookout"
# The card gives 1 % less for each 100 m above 1500 m, and 2 % less for each kelvin above 40 °C.
PLACES = [(0, 30, 1.0), (1500, 40, 1.0), (2500, 40, 0.90), (1500, 45, 0.90), (2500, 45, 0.81)]


@pytest.mark.parametrize(("altitude_m", "air_c", "share"), PLACES)
def test_thin_and_hot_air_by_hand(altitude_m: float, air_c: float, share: float) -> None:
    plan = plan_of({"site.altitude_m": altitude_m, "site.room_high_c": air_c}, None, D4)
    assert plan.loads.total_limit.value == pytest.approx(share * plan.seats.inverter.output_w)
    assert plan.loads.leg_limit.value == pytest.approx(share * plan.seats.inverter.leg_w)


def heavy(watts: float) -> dict[str, Any]:
    """Lights that run all day, over what the others run."""
    others = sum(x.running_w for x in plan_of({}, None, D4).job.loads if x.side == "backed" and x.id != "lights")
    return {"loads.lights.running_w": watts - others, "loads.lights.surge_w": watts - others}


def test_a_load_that_fits_at_the_sea_is_a_stop_on_the_mountain() -> None:
    rated = plan_of({}, None, D4).seats.inverter.output_w
    assert "LOAD-TOTAL-OVER" not in codes({**heavy(rated * 0.9), "site.altitude_m": 2500, "site.room_high_c": 40}, None, D4)
    assert "LOAD-TOTAL-OVER" in codes({**heavy(rated * 0.9 + 1), "site.altitude_m": 2500, "site.room_high_c": 40}, None, D4)
    assert "LOAD-TOTAL-OVER" not in codes({**heavy(rated * 0.9 + 1), "site.altitude_m": 1500, "site.room_high_c": 40}, None, D4)


def test_the_pick_knows_of_it() -> None:
    high = {"site.altitude_m": 3000, "site.room_high_c": 50}
    plan = plan_of(high, None, D4)
    picked = [x for x in plan.job.loads if best_pick(plan).changes.get(x.id, (x.side,))[0] == "backed"]
    assert sum(x.running_w for x in picked) <= plan.loads.total_limit.value


def test_a_card_that_says_nothing_keeps_its_rating() -> None:
    plan = plan_of({"site.altitude_m": 2500}, with_card("lantern-4", {"derating": None}), D4)
    assert plan.loads.total_limit.value == plan.seats.inverter.output_w
    assert "loads.derating" not in plan.figures


def test_a_single_120_v_line_asks_for_multiwire_circuits() -> None:
    """710.15(C): none behind it, and a label that says so; a line of 230 V, or two of them, ask nobody."""
    cards = with_card("lantern-4", {"output": "single phase", "output_v": 120, "leg_v": 120})
    plan = plan_of({}, cards, D4)
    assert "backup.multiwire" in {gap.path for gap in plan.gaps}
    assert any("DO NOT CONNECT MULTIWIRE" in label.text for label in plan.labels)
    assert "LOAD-MULTIWIRE" in codes({"backup.multiwire": True}, cards, D4)
    assert "LOAD-MULTIWIRE" not in codes({"backup.multiwire": False}, cards, D4)
    for house in (D4, "k03-tollhouse"):
        assert "backup.multiwire" not in {gap.path for gap in plan_of({}, None, house).gaps}
        assert "LOAD-MULTIWIRE" not in codes({"backup.multiwire": True}, None, house)

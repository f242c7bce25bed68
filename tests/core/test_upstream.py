"""Where the grid is measured: what lies before it, and what it sees."""

from __future__ import annotations

import pytest

from gumboot.drawing.upstream import stages_of, upstream_canvas
from tests.helpers import plan_of
from tests.kept import HOUSES

PLANS = {house: plan_of(None, name=house) for house in HOUSES}


@pytest.mark.parametrize(
    ("house", "titles", "before"),
    [
        ("d1-saltmarsh", ["Street", "Main board", "Inverter", "Backed-up board"], ["Street"]),
        ("d3-lockkeeper", ["Street", "Main board", "Gateway", "Inverter", "Backed-up board"], ["Street"]),
        ("k07-ridge", ["Street", "Main board", "Gateway", "Inverter", "Backed-up board"], ["Street", "Main board"]),
        ("g02-dairy", ["Street", "Main board", "3 inverters", "Backed-up board"], ["Street"]),
        # No grid; and a switch that is thrown by hand measures nothing.
        ("d4-lookout", [], []),
        ("k05-homestead", [], []),
    ],
)
def test_what_lies_before_the_measurement(house: str, titles: list[str], before: list[str]) -> None:
    stages, at = stages_of(PLANS[house])
    assert [stage.title for stage in stages] == titles
    assert [stage.title for stage in stages[: at + 1]] == before


def test_loads_and_pv_inverters_stand_where_they_hang() -> None:
    stages, _ = stages_of(PLANS["d3-lockkeeper"])
    under = {stage.title: stage.under for stage in stages}
    assert under["Backed-up board"].endswith("pv-inverter")
    moved, _ = stages_of(plan_of({"things.pv-inverter.feeds": "main-board"}, name="d3-lockkeeper"))
    assert next(stage.under for stage in moved if stage.title == "Main board").endswith("pv-inverter")


@pytest.mark.parametrize("house", HOUSES)
def test_it_is_drawn_where_something_is_measured(house: str) -> None:
    drawn = upstream_canvas(PLANS[house])
    assert (drawn is not None) == bool(stages_of(PLANS[house])[0])
    if drawn is not None:
        words = [shape.words for shape in drawn.shapes if shape.words]
        assert {"not seen", "seen: import reads positive", "measured here"} <= set(words)
        assert all(left >= 0 and right <= 729 for left, _, right, _ in (shape.box() for shape in drawn.shapes if shape.words))


def test_a_gateway_that_measures_by_itself_is_tried_with_a_load() -> None:
    found = {house: [c for c in plan.live_checks if c.id == "meter-gateway"] for house, plan in PLANS.items()}
    assert [house for house, checks in found.items() if checks] == ["k07-ridge"]
    assert found["k07-ridge"][0].after == "grid-breaker"

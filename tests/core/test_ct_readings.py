"""The meter test: right, reversed, other leg, and when readings cannot tell."""

from __future__ import annotations

import pytest

from gumboot.core.sim.ct_readings import solve, tolerance_w

LEGS = {"CT1": "L1", "CT2": "L2"}
LOADS = {"L1": 1500.0, "L2": 600.0}


def verdicts(ct1: float, ct2: float, loads: dict[str, float] | None = None) -> list[str]:
    return [v.verdict for v in solve({"CT1": ct1, "CT2": ct2}, LEGS, loads or LOADS)]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("ct1", "ct2", "expected"),
    [
        (1500, 600, ["right", "right"]),
        (-1500, 600, ["reversed", "right"]),
        (1500, -600, ["right", "reversed"]),
        (600, 1500, ["other leg", "other leg"]),
        (-600, -1500, ["other leg and reversed", "other leg and reversed"]),
        (600, -1500, ["other leg", "other leg and reversed"]),
        (1480, 640, ["right", "right"]),
        (0, 600, ["none", "right"]),
        (3000, 600, ["none", "right"]),
    ],
)
def test_with_unlike_loads_each_case_is_told(ct1: float, ct2: float, expected: list[str]) -> None:
    assert verdicts(ct1, ct2) == expected


def test_equal_loads_cannot_tell_the_leg() -> None:
    assert verdicts(1000, 1000, {"L1": 1000.0, "L2": 1000.0}) == ["cannot tell", "cannot tell"]


def test_a_small_load_cannot_tell_the_direction() -> None:
    assert verdicts(20, 1500, {"L1": 20.0, "L2": 1500.0})[0] == "cannot tell"


def test_one_clear_ct_settles_the_other() -> None:
    # 700 against 600 overlap alone; CT2 clearly on L2 leaves only L1 for CT1.
    loads = {"L1": 700.0, "L2": 600.0}
    assert verdicts(650, -500, loads) == ["right", "reversed"]


def test_both_on_one_leg_is_never_called_right() -> None:
    assert "right" not in [v.verdict for v in solve({"CT1": 1500.0, "CT2": 1500.0}, LEGS, LOADS) if v.channel == "CT2"]  # type: ignore[arg-type]


def test_tolerance_edge() -> None:
    edge = 1500 + tolerance_w(1500)
    assert verdicts(edge, 600)[0] == "right"
    assert verdicts(edge + 1, 600)[0] == "none"

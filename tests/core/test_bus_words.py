"""What a measured bus says, in words: every count of terminators, both faults, and voltages at rest."""

from __future__ import annotations

import pytest

from gumboot.core.rulebook.common.bus import told_by_ohm, told_by_volts
from gumboot.core.rules.readings import READ, Reading


@pytest.mark.parametrize(
    ("ohm", "says"),
    [
        (-3, "never negative"),
        (0, "cores touch"),
        (4.9, "cores touch"),
        (5, "No number"),
        (30, "4 terminators are seen, 2 too many"),
        (40, "3 terminators are seen, 1 too many"),
        (54, "Both ends"),
        (60, "Both ends"),
        (66, "Both ends"),
        (66.1, "No number"),
        (107.9, "No number"),
        (108, "One terminator"),
        (120, "One terminator"),
        (132, "One terminator"),
        (132.1, "No number"),
        (1000, "No number"),
        (1001, "No terminator"),
    ],
)
def test_a_resistance_across_a_dead_pair(ohm: float, says: str) -> None:
    assert says in told_by_ohm(ohm)


@pytest.mark.parametrize("ends", range(1, 9))
def test_each_count_of_terminators_is_told_by_its_own_resistance(ends: int) -> None:
    said = told_by_ohm(120 / ends)
    assert said.startswith({1: "One", 2: "Both"}.get(ends, f"{ends} terminators"))


@pytest.mark.parametrize(
    ("bus", "high", "low", "says"),
    [
        ("CAN", 2.5, 2.5, "awake and silent"),
        ("CAN", 3.2, 1.8, "the bus talks"),
        ("CAN", 1.8, 3.2, "exchanged"),
        ("CAN", 4.9, 2.4, "near the supply"),
        ("CAN", 2.4, 0.1, "near the reference"),
        ("CAN", 0.1, 0.0, "Nothing drives"),
        ("RS-485", 2.8, 2.2, "rests as it should"),
        ("RS-485", 2.2, 2.8, "exchanged"),
        ("RS-485", 2.5, 2.4, "no bias"),
        ("RS-485", 0.0, 0.0, "Nothing drives"),
    ],
)
def test_voltages_of_a_bus_at_rest(bus: str, high: float, low: float, says: str) -> None:
    assert says in told_by_volts(bus, high, low)


def test_a_reading_of_the_pair_is_answered_with_what_it_says() -> None:
    pair = Reading(check="bus-pair", title="Pair", life=False, unit="ohm", low=54.0, high=66.0, value=120.0, is_pair=True)
    assert "One terminator is seen" in READ["READ-BUS"](pair).act  # type: ignore[union-attr]
    assert "No terminator is seen" in READ["READ-BUS"](pair.but(value=None, over=True)).act  # type: ignore[union-attr]
    assert "measure again" in READ["READ-BUS"](pair.but(value=None)).act  # type: ignore[union-attr]
    assert "measure again" in READ["READ-BUS"](pair.but(is_pair=False)).act  # type: ignore[union-attr]

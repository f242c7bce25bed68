"""The live board: what each move makes live, and the moves that are refused."""

from __future__ import annotations

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.plan.power_up.station import closed_by
from gumboot.core.sim.switch_line import Line, live_nodes, rehearse
from tests.helpers import plan_of

BATTERIES = ["bat-1", "bat-2", "bat-3"]
ISLAND = [*BATTERIES, "precharge", "battery-switch", "inverter", "sub-main"]
ALL = [*ISLAND, "grid-breaker", "pv-switch"]


@pytest.fixture(scope="module")
def line() -> Line:
    return plan_of().power_up.line


@pytest.fixture(scope="module")
def bypassed() -> Line:
    return plan_of({"backup.bypass": "breaker without interlock"}).power_up.line


def test_with_everything_open_only_sources_are_live(line: Line) -> None:
    assert set(live_nodes(line, [])) == {"bat-1-cells", "bat-2-cells", "bat-3-cells", "main-board", "pv-strings"}


def test_the_plan_order_is_allowed_and_ends_all_live(line: Line) -> None:
    played = rehearse(line, ALL)
    assert all(o.allowed for o in played.outcomes)
    assert {n for s in line.switches for n in (s.near, s.far)} == set(played.live)


def test_the_planned_steps_are_the_rehearsed_order() -> None:
    plan = plan_of()
    assert all(o.allowed for o in rehearse(plan.power_up.line, plan.power_up.moves).outcomes)


def test_one_battery_makes_the_bus_live(line: Line) -> None:
    assert live_nodes(line, ["bat-2"])["dc-bus"] == "battery"
    assert "inverter-dc" not in live_nodes(line, ["bat-2"])


@pytest.mark.parametrize(
    ("moves", "words"),
    [
        ([*BATTERIES, "battery-switch"], "pre-charge first"),
        (["precharge"], "batteries on first"),
        ([*BATTERIES, "precharge", "inverter"], "battery switch closed first"),
        (["sub-main"], "output is dead"),
        (["grid-breaker"], "Island first"),
        ([*ISLAND, "pv-switch"], "grid comes before PV"),
        ([*ISLAND, "battery-switch"], "DC under load"),
        ([*BATTERIES, "precharge", "battery-switch", "bat-1"], "battery switch before the batteries"),
    ],
)
def test_wrong_moves_are_refused_with_the_reason_and_change_nothing(line: Line, moves: list[str], words: str) -> None:
    before, after = rehearse(line, moves[:-1]), rehearse(line, moves)
    assert not after.outcomes[-1].allowed
    assert words in after.outcomes[-1].text
    assert (after.closed, after.live) == (before.closed, before.live)


def test_main_onto_the_inverter_fed_board_without_interlock_is_refused(bypassed: Line) -> None:
    played = rehearse(bypassed, [*ISLAND, "bypass"])
    assert not played.outcomes[-1].allowed
    assert "without an interlock" in played.outcomes[-1].text
    assert played.live["backed-up-board"] == "inverter"
    assert "bypass" not in played.closed


def test_the_same_accident_from_the_other_side(bypassed: Line) -> None:
    played = rehearse(bypassed, ["bypass", *ISLAND])
    assert not played.outcomes[-1].allowed
    assert played.live["backed-up-board"] == "grid"


def test_an_interlock_asks_to_open_the_other_first() -> None:
    line = plan_of({"backup.bypass": "interlocked"}).power_up.line
    assert "open the backed-up board's main" in rehearse(line, [*ISLAND, "bypass"]).outcomes[-1].text
    opened = rehearse(line, [*ISLAND, "sub-main", "bypass"])
    assert opened.outcomes[-1].allowed
    assert opened.live["backed-up-board"] == "grid"
    assert "open the bypass first" in rehearse(line, [*ISLAND, "sub-main", "bypass", "sub-main"]).outcomes[-1].text


def test_opening_the_battery_switch_asks_for_pre_charge_again(line: Line) -> None:
    moves = [*BATTERIES, "precharge", "battery-switch", "battery-switch", "battery-switch"]
    played = rehearse(line, moves)
    assert [o.allowed for o in played.outcomes[-3:]] == [True, True, False]


def test_passing_the_grid_through(line: Line) -> None:
    assert rehearse(line, [*ISLAND, "grid-breaker"]).live["backed-up-board"] == "grid through the inverter"


def test_an_unknown_switch_is_an_error(line: Line) -> None:
    with pytest.raises(KeyError):
        rehearse(line, ["main-lever"])


def group() -> Line:
    return plan_of(name="g01-cooperage").power_up.line


READY = ["bat-1", "bat-2", "bat-3", "bat-4", "precharge", "battery-switch", "precharge-inv-2", "battery-switch-inv-2"]
ALONE = [*READY, "inverter", "panel-inv-1", "panel-inv-1", "inverter-inv-2", "panel-inv-2", "panel-inv-2"]


@pytest.mark.parametrize("house", [path.name.removesuffix(".gumboot.json") for path in demo_houses()])
def test_the_board_allows_every_planned_step(house: str) -> None:
    plan = plan_of(name=house)
    played = rehearse(plan.power_up.line, plan.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []


@pytest.mark.parametrize("house", ["g01-cooperage", "g02-dairy"])
def test_the_planned_steps_of_a_group_are_allowed_and_end_all_live(house: str) -> None:
    plan = plan_of(name=house)
    played = rehearse(plan.power_up.line, plan.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []
    assert {n for s in plan.power_up.line.switches for n in (s.near, s.far)} == set(played.live)
    assert closed_by(plan.power_up.line, plan.power_up.steps) == played.closed


@pytest.mark.parametrize(
    ("moves", "words"),
    [
        ([*READY, "inverter", "panel-inv-1", "inverter-inv-2", "panel-inv-2"], "Each is proved alone there first"),
        ([*READY, "inverter", "panel-inv-1", "sub-main"], "prove each inverter alone on the combining panel first"),
        ([*READY[:-2], "inverter-inv-2"], "battery switch closed first"),
        ([*READY[:6], "battery-switch-inv-2"], "pre-charge first"),
        ([*ALONE, "inverter-inv-2", "panel-inv-1", "panel-inv-2"], "would be fed from the others through its output"),
    ],
)
def test_wrong_moves_of_a_group(moves: list[str], words: str) -> None:
    played = rehearse(group(), moves)
    assert not played.outcomes[-1].allowed
    assert words in played.outcomes[-1].text


def test_a_group_that_was_proved_feeds_the_house() -> None:
    played = rehearse(group(), [*ALONE, "panel-inv-1", "panel-inv-2", "sub-main"])
    assert all(o.allowed for o in played.outcomes)
    assert played.live["backed-up-board"] == "inverter"


def test_every_unit_is_measured_alone_and_the_group_before_the_house() -> None:
    steps = plan_of(name="g02-dairy").power_up.steps
    order = [s.id for s in steps]
    house = order.index("sub-main")
    for check in ("island-volts", "island-volts-inv-l2", "island-volts-inv-l3", "group-lines", "group-rotation"):
        assert order.index(check) < house
        assert check in steps[house].holds
    assert "phase-inv-2" in [s.id for s in plan_of(name="g01-cooperage").power_up.steps]
    assert not any(s.id.startswith("phase-") for s in steps)

"""The acts of a house: which there are, what comes before each, what they must show, until when they are true."""

from __future__ import annotations

import gc
from collections.abc import Mapping

import pytest

from gumboot.catalogue import demo_houses, shelf
from gumboot.core.acts import PLAN, Act, Acts, Gates, Kind, Stands, State, acts, build
from gumboot.core.errors import GumbootError
from gumboot.core.plan.derive import Plan
from gumboot.drawing.acts import gates_drawing, rows_of
from tests.helpers import plan_of, with_card

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
D1 = "d1-saltmarsh"


def names(of: Acts, kind: Kind) -> list[str]:
    return [a.name for a in of.values() if a.kind is kind]


def needs(plan: Plan, act: str) -> set[str]:
    return set(acts(plan)[act].needs)


@pytest.mark.parametrize("house", HOUSES)
def test_every_act_can_be_reached_in_some_order_and_none_waits_for_itself(house: str) -> None:
    of, done = acts(plan_of(name=house)), dict[str, Stands]()
    todo = [a.id for a in of.values()]
    while todo:
        gates = Gates(of, done)
        now = [i for i in todo if not gates.held_by(i)]
        assert now, f"nothing can be done of {todo[:5]}"
        done |= dict.fromkeys(now, Stands(State.GOOD))
        todo = [i for i in todo if i not in done]
    assert all(a.id not in {b.id for b in of.before(a.id)} for a in of.values())


@pytest.mark.parametrize("house", HOUSES)
def test_a_house_has_an_act_for_everything_that_is_landed_read_stepped_set_and_labelled(house: str) -> None:
    plan = plan_of(name=house)
    of = acts(plan)
    assert names(of, Kind.TORQUE) == [t.id for t in plan.terminations]
    assert [a.name for a in of.values() if a.id.startswith("check:")] == [
        *(c.id for c in plan.checks),
        *(s.measure.id for s in plan.power_up.steps if s.measure),
        *(c.id for c in plan.live_checks),
    ]
    assert names(of, Kind.STEP) == [s.id for s in plan.power_up.steps]
    assert names(of, Kind.SETTING) == [r.key for r in plan.settings.sheet]
    assert [a.see for a in of.of("live-checks") if a.kind is Kind.LABEL] == [label.text for label in plan.labels]
    assert [a.name for a in of.values() if a.id.startswith("recheck:")] == [t.id for t in plan.terminations if t.terminal.recheck_24h]
    assert len(names(of, Kind.METER)) == sum(bool(s.cts) for s in plan.sensing.sets)


@pytest.mark.parametrize("house", HOUSES)
def test_ids_stay_where_an_edit_is_made_elsewhere(house: str) -> None:
    before = acts(plan_of(name=house))
    after = acts(plan_of({"title": "Another", "preferences.units": "SI"}, name=house))
    assert list(before) == list(after)


def test_a_docked_house_has_no_ritual_and_one_without_grid_no_meter_test() -> None:
    assert names(acts(plan_of(name="k07-ridge")), Kind.RITUAL) == []
    off_grid = acts(plan_of(name="d4-lookout"))
    assert names(off_grid, Kind.RITUAL) == names(off_grid, Kind.METER) == []


def test_a_step_waits_for_the_plan_the_step_before_and_the_landings_that_it_makes_live() -> None:
    plan = plan_of()
    step = next(s for s in plan.power_up.steps if s.id == "grid-breaker")
    wanted = {f"torque:{t.id}" for t in plan.terminations if t.circuit in step.lands}
    assert wanted
    assert {PLAN, "step:small-load", "setting:charge_a", *wanted} <= needs(plan, "step:grid-breaker")
    assert "check:voc-PV1" in needs(plan, "step:pv-switch")
    assert "meter:ct-test" in needs(plan, "step:pv-switch") & needs(plan, "step:export")
    assert {"ritual:rest.bat-3", "ring:battery.bank", "ring:chain.bat-2.bat-3"} <= needs(plan, "step:on-bat-1")


def test_the_first_step_heeds_every_dead_check_that_it_does_not_need() -> None:
    plan = plan_of()
    first = acts(plan)["step:start-dead"]
    assert {*first.needs, *first.heeds} >= {f"check:{c.id}" for c in plan.checks if c.station == "prove"}
    assert set(first.needs).isdisjoint(first.heeds)


def test_the_meter_test_comes_after_the_grid_and_a_cover_after_what_is_measured_behind_it() -> None:
    plan = plan_of()
    assert needs(plan, "meter:ct-test") == {"core:meter.CT1", "core:meter.CT2", "step:grid-breaker"}
    assert {"check:dead-grid", "check:island-volts", "check:earth-grid"} <= needs(plan, "cover:inverter")
    assert "check:voc-PV1" in needs(plan, "cover:inverter")
    assert needs(plan, "check:meter-pv") == {"step:pv-switch"}


@pytest.mark.parametrize("first", [False, True])
def test_a_box_is_hung_before_it_is_wired_where_its_card_says_so(first: bool) -> None:
    plan = plan_of({}, with_card("plover-6s", {"hang_first": first}))
    lug = "torque:inverter.battery.pos.bat-main"
    assert ("lift:inverter" in needs(plan, lug)) == first
    assert needs(plan, "lift:inverter") == {"unpack:inverter", "hole:inverter", "inside:inverter"}


@pytest.mark.parametrize("wakes", [True, False])
def test_a_battery_is_woken_for_its_ritual_unlanded_only_where_its_card_says_so(wakes: bool) -> None:
    plan = plan_of({}, with_card("cobble-5", {"wakes_open": wakes}))
    landed = "torque:bat-1.battery.pos.bat-1"
    assert (landed in needs(plan, "ritual:program.bat-1")) != wakes
    assert ("check:dead-dc" in needs(plan, "ritual:program.bat-1")) != wakes
    assert landed not in needs(plan, "ritual:off")


def test_the_way_back_is_held_by_nothing_and_undoes_what_stands_on_it() -> None:
    plan = plan_of()
    of = acts(plan)
    gates = Gates(of, {PLAN: Stands(State.FAILED, "a stop")})
    assert [a for a in of.values() if a.kind is Kind.OFF and gates.held_by(a.id)] == []
    assert of["off:grid-breaker"].undoes == ("step:grid-breaker", "step:pv-switch", "step:export")
    assert of["off:all.switches"].undoes == tuple(f"step:{s.id}" for s in plan.power_up.steps)


def test_an_order_that_is_not_planned_leaves_live_checks_behind_the_plan() -> None:
    plan = plan_of({}, with_card("plover-6s", {"start_order": "grid first"}))
    of = acts(plan)
    assert names(of, Kind.STEP) == names(of, Kind.OFF) == []
    assert of["check:thermal"].needs == (PLAN,)


def test_a_pv_inverter_that_stood_there_stays_off_until_the_meter_is_proved() -> None:
    plan = plan_of({"strings": [], "equipment.module": None}, name="d3-lockkeeper")
    step = next(s for s in plan.power_up.steps if s.id.startswith("pv-breaker-"))
    assert step.move in {s.id for s in plan.power_up.line.switches}
    assert {"meter:ct-test", "setting:charge_a"} <= needs(plan, f"step:{step.id}")
    order = [s.id for s in plan.power_up.steps]
    assert order.index("grid-breaker") < order.index(step.id)


def act(name: str, *before: str, **more: object) -> Act:
    return Act(id=name, kind=Kind.LOOK, station="prove", title=name, needs=before, **more)  # type: ignore[arg-type]


def held(of: Acts, standing: Mapping[str, State], name: str) -> list[tuple[str, State]]:
    gates = Gates(of, {i: Stands(state) for i, state in standing.items()})
    return [(t.act.id, t.state) for t in gates.held_by(name)]


CHAIN = Acts((act("a:1"), act("a:2", "a:1"), act("a:3", "a:2"), act("a:4", "a:3", heeds=("a:5",)), act("a:5")))


@pytest.mark.parametrize(
    ("standing", "said"),
    [
        ({}, [("a:3", State.OPEN)]),
        ({"a:1": State.GOOD, "a:2": State.GOOD, "a:3": State.GOOD}, []),
        ({"a:1": State.CLEARED, "a:2": State.GOOD, "a:3": State.GOOD}, []),
        # What turned bad behind something that was done closes the gate as well.
        ({"a:1": State.FAILED, "a:2": State.GOOD, "a:3": State.GOOD}, [("a:1", State.FAILED)]),
        ({"a:1": State.LAPSED, "a:2": State.GOOD, "a:3": State.GOOD}, [("a:1", State.LAPSED)]),
        # A proof that was used up by what it guards is not asked for again.
        ({"a:1": State.USED, "a:2": State.GOOD, "a:3": State.GOOD}, []),
        ({"a:1": State.GOOD, "a:2": State.GOOD, "a:3": State.GOOD, "a:5": State.FAILED}, [("a:5", State.FAILED)]),
    ],
)
def test_a_gate_is_closed_by_what_is_not_done_has_failed_or_is_true_no_more(
    standing: dict[str, State], said: list[tuple[str, State]]
) -> None:
    assert held(CHAIN, standing, "a:4") == said


def test_what_makes_something_live_asks_for_a_proof_of_the_day() -> None:
    step = Acts((act("a:1"), act("s:1", "a:1").but(kind=Kind.STEP)))
    assert held(step, {"a:1": State.USED}, "s:1") == [("a:1", State.LAPSED)]
    assert held(step, {"a:1": State.USED, "s:1": State.GOOD}, "s:1") == []
    assert held(Acts((act("a:1"), act("l:1", "a:1"))), {"a:1": State.USED}, "l:1") == []


def test_what_makes_safe_waits_for_nothing_that_it_names() -> None:
    off = Acts((act("a:1"), act("off:1", "a:1", makes_safe=True), act("a:2", "a:1")))
    assert held(off, {}, "off:1") == []
    assert held(off, {}, "a:2") == [("a:1", State.OPEN)]


def test_what_comes_before_and_behind() -> None:
    assert [a.id for a in CHAIN.before("a:4")] == ["a:1", "a:2", "a:3", "a:5"]
    assert [a.id for a in CHAIN.behind("a:2")] == ["a:3", "a:4"]


def test_two_of_one_name_and_one_that_is_missing_are_refused() -> None:
    with pytest.raises(GumbootError, match="two acts are called a:1"):
        Acts((act("a:1"), act("a:1")))
    with pytest.raises(GumbootError, match="a:1 waits for a:2"):
        Acts((act("a:1", "a:2"),))


@pytest.mark.parametrize("house", HOUSES)
def test_the_drawing_has_a_row_for_every_act_that_counts(house: str) -> None:
    of = acts(plan_of(name=house))
    rows = rows_of(of)
    counted = [a.id for a in of.values() if not a.is_optional and a.kind is not Kind.SIGN_OFF and a.id != "plan:answered"]
    assert sorted(a.id for row in rows for a in row.acts) == sorted(counted)
    drawn = str(gates_drawing(of, "the house").render())
    assert f"{len(names(of, Kind.STEP))}. " in drawn


def test_cards_that_say_nothing_hang_and_wake_as_before() -> None:
    assert not shelf()["plover-6s"].hang_first  # type: ignore[union-attr]


@pytest.mark.parametrize("name", ["all", "inverter-on", "start-dead", "export", "house", "A" * 40])
def test_a_battery_may_be_called_as_anything_that_is_not_taken(name: str) -> None:
    import json

    from gumboot.catalogue import demo_house
    from gumboot.core.job import Job
    from gumboot.core.plan.derive import derive

    renamed = json.loads(json.dumps(demo_house(D1).model_dump(mode="json")).replace('"bat-1"', f'"{name}"'))
    of = acts(derive(Job.model_validate(renamed), shelf()))
    assert f"serial:{name}" in of
    assert max(map(len, of)) < 160


def test_the_acts_of_a_plan_are_worked_out_once_and_go_with_it() -> None:
    plan, other = plan_of(), plan_of({"things.inverter.card": "plover-6p"})
    assert acts(plan) is acts(plan)
    assert acts(plan)["lift:inverter"].lasts.cards != acts(other)["lift:inverter"].lasts.cards
    known = len(build._KNOWN)
    del plan, other
    gc.collect()
    assert len(build._KNOWN) <= known - 2

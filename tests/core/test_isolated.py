"""Landing: every source that can be switched off is proved dead first, no zero is asked of one that cannot, and the schools of landing."""

from __future__ import annotations

import pytest

from gumboot.core.acts import State, acts
from gumboot.core.plan.terminations.order import SCHOOLS
from tests.core.test_stands import one, state
from tests.helpers import GOOD, plan_of, with_card
from tests.kept import HOUSES

PLANS = {house: plan_of(None, name=house) for house in HOUSES}


def isolated(house: str) -> dict[str, str]:
    return {check.places[0]: check.id for check in PLANS[house].checks if check.station == "wire"}


@pytest.mark.parametrize(
    ("house", "places"),
    [
        ("d1-saltmarsh", {"main-board", "bat-1", "bat-2", "bat-3"}),
        # Flooded blocks have no breaker: nobody may ask their posts for zero volts. The generator can be stopped.
        ("d4-lookout", {"generator"}),
        ("k07-ridge", {"main-board"}),
    ],
)
def test_what_can_be_switched_off_is_proved_dead_before_anything_is_landed_there(house: str, places: set[str]) -> None:
    assert set(isolated(house)) == places


@pytest.mark.parametrize("house", HOUSES)
def test_every_end_at_a_source_waits_for_its_zero_or_follows_the_method_of_its_card(house: str) -> None:
    plan, graph, found = PLANS[house], acts(PLANS[house]), isolated(house)
    sources = {b.id for b in plan.seats.mains} | {g.id for g in plan.seats.generators} | {r.id for r in plan.seats.roof_boxes}
    sources |= {unit.id for bank in plan.seats.banks for unit in bank.thing.units}
    for t in plan.terminations:
        needs = graph[f"torque:{t.id}"].needs
        if t.place in found:
            assert f"check:{found[t.place]}" in needs
            assert not t.live_method
        elif t.place in sources and t.role != "earth":
            assert t.live_method, t.id
            assert not any(need.startswith("check:isolated") for need in needs)
    for check in (c for c in plan.checks if c.id in found.values()):
        assert (check.life, check.measures, check.lasts.hours, check.code) == (True, "magnitude", 12.0, "READ-DEAD")
        # First power asks for its own proofs of the day, not for those of the day of landing.
        assert all(check.id not in step.holds for step in plan.power_up.steps)


@pytest.mark.parametrize(("volts", "good"), [(0.0, True), (5.0, True), (-5.0, True), (5.1, False), (-120.0, False)])
def test_dead_is_at_most_five_volts_whatever_the_sign(volts: float, good: bool) -> None:
    found = state("check:isolated-main-board", one("check:isolated-main-board", kind="reading", value=volts))
    assert found[0] is (State.GOOD if good else State.FAILED)


def test_a_battery_without_a_breaker_is_never_asked_for_zero() -> None:
    plan = plan_of(None, with_card("cobble-5", {"breaker_a": None, "breaker_interrupting_a": None}))
    assert not [c.id for c in plan.checks if c.id.startswith("isolated-bat")]
    assert all(t.live_method for t in plan.terminations if t.place == "bat-1" and t.role != "earth")


def test_where_all_is_landed_already_it_is_not_asked_for_any_more() -> None:
    plan = PLANS[GOOD]
    ends = [t for t in plan.terminations if t.place == "main-board"]
    rows = [
        one(f"torque:{t.id}", kind="landing", reached_nm=t.torque.value if t.torque else None, tug=True, pressed=True, size=t.size)
        for t in ends
    ]
    assert state("check:isolated-main-board", *rows)[0] is State.GOOD
    assert state("check:isolated-main-board", *rows[1:])[0] is State.OPEN


def turns(school: str, place: str = "inverter") -> list[str]:
    plan = plan_of({"preferences.landing": school})
    kinds = []
    for t in (t for t in plan.terminations if t.place == place):
        circuit = plan.circuits.sized[t.circuit].circuit
        kinds.append("earth" if t.role == "earth" else "pv" if circuit.kind == "pv" else "battery" if circuit.is_dc else "ac")
    return list(dict.fromkeys(kinds))


@pytest.mark.parametrize("school", SCHOOLS)
def test_a_school_orders_the_ends_at_the_inverter_behind_its_earths(school: str) -> None:
    assert turns(school) == ["earth", *SCHOOLS[school]]


def test_a_maker_who_asks_for_an_order_is_followed_in_every_school() -> None:
    ends = {
        school: [t.id for t in plan_of({"preferences.landing": school}, name="d2-schoolhouse").terminations]
        for school in ("as the card says", *SCHOOLS)
    }
    assert len({tuple(order) for order in ends.values()}) == 1


@pytest.mark.parametrize("school", SCHOOLS)
def test_whatever_the_school_live_ends_come_last(school: str) -> None:
    plan = plan_of({"preferences.landing": school})
    graph = list(acts(plan))
    for t in (t for t in plan.terminations if t.live_method):
        others = [o for o in plan.terminations if o.circuit == t.circuit and not o.live_method and o.role == t.role]
        assert all(graph.index(f"torque:{o.id}") < graph.index(f"torque:{t.id}") for o in others)


@pytest.mark.parametrize("house", HOUSES)
def test_the_island_s_own_earth_is_looked_at_before_power(house: str) -> None:
    plan = PLANS[house]
    found = [check for check in plan.checks if check.id == "electrode"]
    assert bool(found) == bool(plan.job.site.island_electrode)
    for check in found:
        assert check.life
        steps = plan.power_up.steps
        assert not steps or check.id in steps[0].holds

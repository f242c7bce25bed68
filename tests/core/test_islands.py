"""A house whose inverters feed apart: every island is worked out as a house of its own, what they share as one."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.standing import stand
from gumboot.core.study.pick import balance_legs, moved
from tests.core.test_standing import NOW, everything
from tests.helpers import beside, circuits_by_joins

PAIRS = (
    ("d1-saltmarsh", "g01-cooperage"),
    ("g01-cooperage", "k07-ridge"),
    ("k05-homestead", "d1-saltmarsh"),
    ("d1-saltmarsh", "d4-lookout"),
    ("k13-printworks", "g02-dairy"),
    ("d3-lockkeeper", "k09-terrace"),
    ("k02-weaver", "k03-tollhouse"),
)


def plan_of(document: dict[str, Any]) -> Plan:
    return derive(Job.model_validate(document), shelf())


@pytest.fixture(scope="module", params=PAIRS, ids="-beside-".join)
def told(request: pytest.FixtureRequest) -> tuple[Plan, Plan, Plan]:
    """A house with two islands, the second's system by itself on the same site, and the first's."""
    first, other = request.param
    both, alone = beside(first, other)
    return plan_of(both), plan_of(alone), derive(demo_house(first), shelf())


def numbers(loads: Any) -> list[float]:
    rows = (loads.running_total, loads.starting_total, loads.leg_limit, loads.leg_surge_limit, loads.total_limit, loads.surge_limit)
    legs = [*loads.running.values(), *loads.starting.values()]
    return [f.value for f in (*rows, loads.energy, *legs, *loads.carried)]


def test_each_island_is_worked_out_as_by_itself(told: tuple[Plan, Plan, Plan]) -> None:
    both, alone, first = told
    assert len(both.house.islands) == 2
    assert numbers(both.islands[0].loads) == numbers(first.loads)
    assert numbers(both.islands[1].loads) == numbers(alone.loads)
    for island, own in zip(both.islands, (first, alone), strict=True):
        assert [b.id for b in island.banks] == [b.id for b in own.banks]
        for bank, same in zip(island.banks, own.banks, strict=True):
            assert {f: getattr(bank.supply, f).value for f in ("delivered", "design_a", "power_w", "fault_a")} == {
                f: getattr(same.supply, f).value for f in ("delivered", "design_a", "power_w", "fault_a")
            }
            assert [s.value for s in bank.shares] == [s.value for s in same.shares]


def test_each_circuit_is_sized_as_by_itself(told: tuple[Plan, Plan, Plan]) -> None:
    both, alone, first = told
    here = circuits_by_joins(both.house)
    for own in (alone, first):
        compared = 0
        for joins, cid in circuits_by_joins(own.house).items():
            same, that = both.circuits.sized[here[joins]], own.circuits.sized[cid]
            assert (same.size, same.earth_size) == (that.size, that.earth_size), cid
            assert same.demand.design_a.value == that.demand.design_a.value, cid
            assert (same.device and same.device.value) == (that.device and that.device.value), cid
            assert same.drop_pct.value == that.drop_pct.value, cid
            compared += 1
        assert compared == len(own.circuits.sized) > 2


def test_first_power_goes_island_by_island_and_the_board_allows_every_step(told: tuple[Plan, Plan, Plan]) -> None:
    both, alone, first = told
    steps = [s.id for s in both.power_up.steps]
    assert len(steps) == len(set(steps))
    lead = both.house.islands[1].lead.id
    assert (
        steps.index("sub-main") < steps.index(f"inverter-on-{lead}") < steps.index(f"sub-main-{lead}") < steps.index(f"small-load-{lead}")
    )
    shared = {"start-dead", "export"}
    own = {s.id for s in alone.power_up.steps} - shared
    if not both.house.islands[1].joins_grid:
        own -= {"grid-breaker"}
    assert len(steps) == len(own) + len({s.id for s in first.power_up.steps} | shared)
    played = rehearse(both.power_up.line, both.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []


def test_the_second_island_is_dark_until_its_own_inverter_is_on() -> None:
    both = plan_of(beside("d1-saltmarsh", "g01-cooperage")[0])
    moves = both.power_up.moves
    until = moves[: moves.index("sub-main") + 1]
    live = rehearse(both.power_up.line, until).live
    assert live["backed-up-board"] == "inverter"
    assert "backed-up-board-inv-1-x" not in live
    # A breaker of the second island's panel is no business of the first.
    assert rehearse(both.power_up.line, [*until, "sub-main-inv-1-x"]).outcomes[-1].text.startswith("Nothing to feed")


def test_what_they_share_is_judged_together() -> None:
    both, alone = beside("d1-saltmarsh", "g01-cooperage")
    plan = plan_of(both)
    found = {f.code: f for f in plan.stops}
    # 25 A of the one and twice 25 A of the two on one leg, at 125 %, beside a main of 60 A.
    assert found["BUS-120"].found is not None
    assert found["BUS-120"].found.value == pytest.approx(60 + 1.25 * 75)
    assert "Inverter 1 has no CTs to hold a limit by" in found["GRID-EXPORT"].text
    assert found["GRID-EXPORT"].found is not None
    assert found["GRID-EXPORT"].found.value == 18000
    assert "GRID-EXPORT" not in {f.code for f in plan_of(alone).stops}


def test_the_settings_stand_for_each_inverter() -> None:
    rows = {r.key: r for r in plan_of(beside("d1-saltmarsh", "k07-ridge")[0]).settings.sheet}
    for key in ("grid_type", "clock", "work_mode", "reserve_pct", "export_w", "bond", "password"):
        assert rows[f"{key}-inverter-x"].title.endswith(", inverter-x"), key
        assert rows[key].title.endswith(", inverter"), key


def test_an_island_that_the_network_does_not_reach_bonds_its_own_neutral() -> None:
    both, _ = beside("d1-saltmarsh", "d4-lookout")
    plan = plan_of(both)
    assert [island.joins_grid for island in plan.house.islands] == [True, False]
    assert "grid-breaker-inverter-x" not in {s.id for s in plan.power_up.steps}
    # The main board's bond does not reach it: its inverter's relay is the one.
    assert "BOND-ISLAND" not in {f.code for f in plan.findings}
    inverter = next(t for t in both["things"] if t["id"] == "inverter-x")
    card = {**shelf()}
    card[inverter["card"]] = card[inverter["card"]].model_copy(update={"neutral_bond": "none"})
    bare = derive(Job.model_validate(both), card)
    assert "BOND-ISLAND" in {f.code for f in bare.stops}


def test_one_bank_for_two_islands_is_a_stop() -> None:
    both, _ = beside("d1-saltmarsh", "d4-lookout")
    next(t for t in both["things"] if t["id"] == "inverter-x")["bank"] = "bank"
    both["banks"] = [b for b in both["banks"] if b["id"] == "bank"]
    found = next(f for f in plan_of(both).stops if f.code == "BANK-ISLANDS")
    assert (found.where, found.field) == ("bank", "things.inverter-x.bank")


def test_inverters_of_one_board_are_one_island() -> None:
    both, _ = beside("d1-saltmarsh", "d4-lookout")
    next(t for t in both["things"] if t["id"] == "inverter-x")["feeds"] = "sub-board"
    plan = plan_of(both)
    assert [island.names for island in plan.house.islands] == [("inverter", "inverter-x", "main-board", "sub-board", "sub-board-x")]
    assert {"PAR-ALIKE", "BOARD-UNFED"} <= {f.code for f in plan.stops}


def test_every_circuit_is_landed_before_a_step_lets_a_source_onto_it(told: tuple[Plan, Plan, Plan]) -> None:
    both = told[0]
    waited = {circuit for step in both.power_up.steps for circuit in step.lands}
    assert {t.circuit for t in both.terminations} <= waited


def test_everything_recorded_brings_a_house_of_islands_to_its_end() -> None:
    document = beside("d1-saltmarsh", "g01-cooperage")[0]
    document["site"] |= {"busbar_a": 200.0, "export_limit_w": None}
    # Three inverters charge from one supply of 60 A.
    document["demand"] |= {"peak_a": 24.0}
    next(t for t in document["things"] if t["id"] == "main-board")["card"] = "house-board-200"
    plan = plan_of(document)
    assert {f.code for f in plan.stops} == set()
    standing = stand(plan, everything(plan), NOW)
    # The export permit alone is open.
    assert [words for words in standing.missing if "answer" not in words] == []
    assert not any(standing.step_holds.values())


def test_a_load_that_comes_to_an_island_sits_in_its_first_board() -> None:
    both = plan_of(beside("d1-saltmarsh", "g01-cooperage")[0])
    first, second = both.islands
    washer = next(x for x in both.job.loads if x.side == "house")
    assert moved(first, washer, "backed", "L1").board == ""
    assert moved(second, washer, "backed", "L2").model_dump(include={"side", "leg", "board"}) == {
        "side": "backed",
        "leg": "L2",
        "board": "sub-board-x",
    }
    steam = next(x for x in second.job.loads if x.board)
    assert moved(second, steam, "house", steam.leg).board == ""
    assert moved(second, steam, "backed", steam.leg) == steam
    assert [x.id for x in second.job.loads if x.side == "house"] == [x.id for x in first.job.loads if x.side == "house"]
    assert {x.board for x in second.job.loads if x.side == "backed"} == {"sub-board-x"}


@pytest.mark.parametrize("name", ["rise", "all", "total", "L1", "house"])
def test_any_name_of_a_leader_keeps_the_figures_apart(name: str) -> None:
    both, alone = beside("d1-saltmarsh", "d4-lookout")
    for document in (both, alone):
        for thing in document["things"]:
            for field in ("id", "inverter", "feeds"):
                if thing.get(field) == "inverter-x":
                    thing[field] = name
        for string in document["strings"]:
            string["inverter"] = name if string["inverter"] == "inverter-x" else string["inverter"]
    assert numbers(plan_of(both).islands[1].loads) == numbers(plan_of(alone).loads)


def test_what_a_leg_carries_after_balancing_rests_on_what_the_island_runs() -> None:
    both = plan_of(beside("d1-saltmarsh", "g01-cooperage")[0])
    for island in both.islands:
        balance = balance_legs(island)
        for leg, now in island.loads.running.items():
            assert balance.after(leg).given[0].key == now.key
            assert both.figures[now.key] == now


@pytest.mark.parametrize("name", ["d2-schoolhouse", "k02-weaver"])
def test_an_inverter_of_another_voltage_is_a_stop_and_no_error(name: str) -> None:
    both, _ = beside(name, "d1-saltmarsh")
    plan = plan_of(both)
    times = {f.key: f.value for f in plan.figures.values() if f.key.startswith("const.iec.41.411.t_max")}
    # IEC 60364-4-41 Table 41.1, TN: 0.4 s up to 230 V, 0.8 s up to 120 V.
    assert times == {"const.iec.41.411.t_max": 0.4, "const.iec.41.411.t_max.of_inverter-x": 0.8}
    assert ("GRID-SUPPLY", "inverter-x") in [(f.code, f.where) for f in plan.stops]

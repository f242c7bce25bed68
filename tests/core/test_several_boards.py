"""Boards behind boards, several transfer switches and a second main board in one house: each is fed, sized, judged and switched on."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.study.pick import limits_of, options_of
from gumboot.drawing import loads
from gumboot.drawing.show import figure_text
from tests.helpers import beside

RUN = {"length_m": 12.0, "ambient_c": 30.0, "current_carrying": 2, "raceway": "EMT", "raceway_size": "3/4"}


def plan_of(document: dict[str, Any]) -> Plan:
    return derive(Job.model_validate(document), shelf())


def barn(*moved: str, name: str = "g01-cooperage", **more: Any) -> dict[str, Any]:
    """A house with a board in the barn behind its backed-up board, and some loads moved there."""
    document = demo_house(name).model_dump(mode="json")
    next(t for t in document["things"] if t["id"] == "sub-board")["card"] = "larder-24"
    document["things"].append(
        {"seat": "board", "duty": "backed-up", "id": "barn", "card": "larder-8", "title": "Barn board", "fed_from": "sub-board", **more}
    )
    document["runs"].append({"id": "feeder-barn", **RUN})
    for load in document["loads"]:
        load["board"] = "barn" if load["id"] in moved else ""
    document["walls"][0]["placements"].append({"id": "barn", "x_mm": 100, "y_mm": 1300})
    return document


def codes(plan: Plan) -> set[str]:
    return {f.code for f in plan.stops}


def test_a_board_behind_another_is_fed_by_what_runs_on_it() -> None:
    plan = plan_of(barn("extractor-1", "lights", "cold"))
    feed = plan.circuits.sized["feeder-barn"]
    # L1: 1100 and 260 W, L2: 420 W; 120 V. Continuous at 125 %: the next breaker is 15 A.
    assert plan.figures["circuits.feeder-barn.running.L1"].value == 1360
    assert plan.figures["circuits.feeder-barn.running.L2"].value == 420
    assert feed.demand.design_a.value == pytest.approx(1360 / 120)
    assert feed.device is not None
    assert feed.device.value == 15
    # All of it still runs through the first board.
    assert plan.circuits.sized["backup"].demand.design_a.value == plan_of(barn()).circuits.sized["backup"].demand.design_a.value
    assert plan.figures["circuits.feeder-barn.neutral_a"].value == pytest.approx((1360 - 420) / 120)
    assert {t.place for t in plan.terminations if t.circuit == "feeder-barn"} == {"sub-board", "barn"}


def test_the_drop_is_that_of_the_farthest_board() -> None:
    near, far = plan_of(demo_house("g01-cooperage").model_dump(mode="json")), plan_of(barn("steam-box", "lights"))
    ways = [("grid", "inverter-out"), ("grid-inv-2", "inverter-out-inv-2")]
    lost = [sum(far.circuits.sized[c].drop_pct.value for c in (*way, "backup", "feeder-barn")) for way in ways]
    assert far.figures["circuits.drop_total_pct"].value == pytest.approx(max(lost))
    assert far.figures["circuits.drop_total_pct"].value > near.figures["circuits.drop_total_pct"].value


def test_a_board_behind_another_is_switched_on_after_it() -> None:
    plan = plan_of(barn("lights"))
    steps = [s.id for s in plan.power_up.steps]
    assert steps.index("sub-main") + 1 == steps.index("feeder-barn") < steps.index("small-load")
    step = next(s for s in plan.power_up.steps if s.id == "feeder-barn")
    assert (step.title, step.lands) == ("Close the breaker of Barn board in the board ahead", ("feeder-barn",))
    played = rehearse(plan.power_up.line, plan.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []
    assert rehearse(plan.power_up.line, ["feeder-barn"]).outcomes[0].text.startswith("Nothing to feed that board with")


def test_a_bar_behind_a_device_that_is_too_large_is_found_on_any_board() -> None:
    document = barn("lights")
    next(r for r in document["runs"] if r["id"] == "feeder-barn")["device_a"] = 125
    found = [f for f in plan_of(document).stops if f.code == "BUS-DEVICE"]
    # The smaller of what feeds it and its own main counts: a main of its own guards the bar.
    assert found == []
    card = {**shelf(), "larder-8": shelf()["larder-8"].model_copy(update={"main_device_a": None})}
    found = [f for f in derive(Job.model_validate(document), card).stops if f.code == "BUS-DEVICE"]
    assert [(f.where, f.field) for f in found] == [("barn", "things.barn.card")]


def test_a_board_that_nothing_feeds_is_a_stop() -> None:
    document = barn()
    document["things"][-1]["fed_from"] = None
    found = next(f for f in plan_of(document).stops if f.code == "BOARD-UNFED")
    assert (found.where, found.field) == ("barn", "things.barn.fed_from")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"fed_from": "attic"}, "things.barn.fed_from names 'attic'"),
        ({"fed_from": "barn"}, "leads back to itself"),
    ],
)
def test_a_board_fed_from_nowhere_or_from_itself_is_refused(change: dict[str, str], says: str) -> None:
    document = barn()
    document["things"][-1].update(change)
    with pytest.raises(ValueError, match=says):
        Job.model_validate(document)


def test_a_load_on_a_board_that_is_none_is_refused() -> None:
    document = barn()
    document["loads"][0]["board"] = "main-board"
    with pytest.raises(ValueError, match=r"loads.steam-box.board names 'main-board', which is no backed-up board"):
        Job.model_validate(document)


def two_switches() -> dict[str, Any]:
    """A homestead whose inverters' panel feeds two manual transfer switches, each with a board behind it."""
    document = demo_house("g01-cooperage").model_dump(mode="json")
    things = {t["id"]: t for t in document["things"]}
    things["main-board"]["card"] = "house-board-125"
    things["panel"]["feeds"] = "switch-a"
    for name, board, fed in (("switch-a", "sub-board", None), ("switch-b", "board-b", "panel")):
        document["things"].append(
            {"seat": "transfer", "id": name, "card": "siding-60", "board": "main-board", "feeds": board, "fed_from": fed}
        )
    document["things"].append({"seat": "board", "duty": "backed-up", "id": "board-b", "card": "larder-8"})
    for load in document["loads"]:
        load["board"] = "board-b" if load["id"] in ("steam-box", "well") else ""
    names = ("through", "through-switch-b", "combined", "combined-switch-b", "backup-switch-b")
    document["runs"] += [{"id": name, **RUN} for name in names]
    return document


def test_two_transfer_switches_each_carry_what_is_behind_them() -> None:
    plan = plan_of(two_switches())
    sized = plan.circuits.sized
    assert {"through", "through-switch-b", "combined", "combined-switch-b", "backup", "backup-switch-b"} <= set(sized)
    # 3600 and 1000 W between the legs: half of it on each, at 120 V.
    assert sized["backup-switch-b"].demand.design_a.value == pytest.approx(2300 / 120)
    one = plan_of(demo_house("g01-cooperage").model_dump(mode="json")).circuits.sized["backup"].demand.design_a.value
    assert sized["backup"].demand.design_a.value == pytest.approx(one - 2300 / 120)
    assert {f.where for f in plan.findings if f.code in ("BUS-DEVICE", "TRANSFER-CAPACITY")} <= {"switch-a", "switch-b", "main board"}
    steps = [s.id for s in plan.power_up.steps]
    assert steps.index("sub-main") < steps.index("sub-main-board-b")
    played = rehearse(plan.power_up.line, plan.power_up.moves)
    assert [o.text for o in played.outcomes if not o.allowed] == []
    assert {"backed-up-board", "backed-up-board-board-b"} <= set(played.live)


def test_what_the_grid_sends_to_a_switch_is_shared_by_no_inverter() -> None:
    """From the grid a switch feeds all behind it; on its other side two inverters share that."""
    sized = plan_of(two_switches()).circuits.sized
    for grid, board in (("through", "backup"), ("through-switch-b", "backup-switch-b")):
        assert sized[grid].demand.design_a.value == pytest.approx(sized[board].demand.design_a.value)
    assert sized["combined-switch-b"].demand.design_a.value == 2 * 25


def in_a_gateway(inverters: int, pv: float = 15.7) -> Plan:
    """The lock-keeper's house with some inverters in one gateway, and PV of some output on its board."""
    document = demo_house("d3-lockkeeper").model_dump(mode="json")
    first = next(t for t in document["things"] if t["seat"] == "inverter")
    document["things"] += [{**first, "id": f"inv-{n}", "address": n} for n in range(2, inverters + 1)]
    through = next(r for r in document["runs"] if r["id"] == "through")
    document["runs"] += [{**through, "id": f"through-inv-{n}"} for n in range(2, inverters + 1)]
    card = next(t["card"] for t in document["things"] if t["seat"] == "pv-inverter")
    return derive(Job.model_validate(document), {**shelf(), card: shelf()[card].model_copy(update={"output_current_a": pv})})


def test_the_feed_of_a_gateway_carries_all_that_comes_back_along_it() -> None:
    """21.7 A of each inverter and 15.7 A of PV: more than the loads and charging together."""
    one, two = in_a_gateway(1), in_a_gateway(2)
    assert one.circuits.sized["grid"].demand.design_a.value == pytest.approx(21.7 + 15.7)
    assert two.circuits.sized["grid"].demand.design_a.value == pytest.approx(2 * 21.7 + 15.7)
    # An inverter's own run carries its own; the board's feed its loads or its PV.
    assert two.circuits.sized["through-inv-2"].demand.design_a.value == 21.7
    assert one.circuits.sized["backup"].demand.design_a.value == 15.7
    assert one.circuits.sized["backup"].demand.design_a.value > one.figures["circuits.backup.leg_a"].value
    # The device of 50 A stays at the limit, and not beyond; 63 A of the gateway are passed by more.
    stops = {pv: {(f.code, f.where) for f in in_a_gateway(1, pv).stops} for pv in (28.3, 28.4, 41.3, 41.4)}
    assert ("DEVICE-SMALL", "grid") not in stops[28.3]
    assert ("DEVICE-SMALL", "grid") in stops[28.4]
    assert ("TRANSFER-CAPACITY", "transfer") not in stops[41.3]
    assert ("TRANSFER-CAPACITY", "transfer") in stops[41.4]


def test_pv_behind_an_inverter_leaves_through_it() -> None:
    """Of two inverters that share a board each passes half of its PV: 25 A of its own and 8 A."""
    document = demo_house("g01-cooperage").model_dump(mode="json")
    document["things"].append({"seat": "pv-inverter", "id": "barn-pv", "card": "rush-3k6", "feeds": "sub-board"})
    card = shelf()["rush-3k6"].model_copy(update={"output_current_a": 16.0, "output": "split phase", "output_v": 240.0})
    plain = plan_of(demo_house("g01-cooperage").model_dump(mode="json"))
    plan = derive(Job.model_validate(document), {**shelf(), "rush-3k6": card})
    for feed in ("grid", "grid-inv-2"):
        assert plain.circuits.sized[feed].demand.design_a.value == 25
        assert plan.circuits.sized[feed].demand.design_a.value == pytest.approx(25 + 16 / 2)
        assert plan.figures[f"circuits.{feed}.rise_pct"].value == pytest.approx(plain.figures[f"circuits.{feed}.rise_pct"].value * 33 / 25)
    most = plan.seats.inverter.pass_through_a
    codes_of = [
        {
            (f.code, f.where)
            for f in derive(Job.model_validate(document), {**shelf(), "rush-3k6": card.model_copy(update={"output_current_a": amps})}).stops
        }
        for amps in (2 * (most - 25), 2 * (most - 25) + 0.1)
    ]
    assert ("GRID-PASS-THROUGH", "grid") not in codes_of[0]
    assert ("GRID-PASS-THROUGH", "grid") in codes_of[1]


def test_a_transfer_switch_too_small_for_its_own_circuits_is_named() -> None:
    document = two_switches()
    card = {**shelf(), "siding-60": shelf()["siding-60"].model_copy(update={"rated_a": 20})}
    found = {f.where: f for f in derive(Job.model_validate(document), card).stops if f.code == "TRANSFER-CAPACITY"}
    assert set(found) == {"switch-a", "switch-b"}
    assert found["switch-b"].field == "things.switch-b.card"


def mains(*, behind: bool, at: str = "annex", ends: bool = False) -> dict[str, Any]:
    """The saltmarsh house with a second main board, the inverter on one of the two."""
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["things"].append(
        {
            "seat": "board",
            "duty": "main",
            "id": "annex",
            "card": "house-board-100",
            "opposite_ends": ends,
            "fed_from": "main-board" if behind else None,
            "bonded": False if behind else None,
        }
    )
    next(t for t in document["things"] if t["seat"] == "inverter")["board"] = at
    return document


def test_a_second_main_board_is_judged_by_its_card() -> None:
    # 60 A and 25 A at 125 %: 91.3 A on bars of 100 A.
    plan = plan_of(mains(behind=False))
    assert plan.figures["circuits.annex.sum_a"].value == pytest.approx(60 + 1.25 * 25)
    assert plan.figures["circuits.annex.limit_a"].value == 100
    assert "BUS-120" not in codes(plan)
    assert plan.circuits.busbar_sum is None  # Nothing joins the first one.
    small = {**shelf(), "house-board-100": shelf()["house-board-100"].model_copy(update={"busbar_a": 80.0})}
    found = next(f for f in derive(Job.model_validate(mains(behind=False)), small).stops if f.code == "BUS-120")
    assert (found.where, found.field) == ("annex", "things.annex.opposite_ends")
    assert "BUS-120" not in {f.code for f in derive(Job.model_validate(mains(behind=False, ends=True)), small).stops}


def test_what_joins_behind_loads_the_board_ahead_too() -> None:
    behind = plan_of(mains(behind=True))
    assert behind.circuits.busbar_sum is not None
    assert behind.circuits.busbar_sum.value == behind.figures["circuits.annex.sum_a"].value
    first = plan_of(mains(behind=True, at="main-board"))
    assert first.circuits.busbar_sum is not None
    assert "circuits.annex.sum_a" not in first.figures


def test_a_second_main_behind_too_large_a_device_is_found() -> None:
    small = {**shelf(), "house-board-100": shelf()["house-board-100"].model_copy(update={"busbar_a": 50.0})}
    found = [f for f in derive(Job.model_validate(mains(behind=True)), small).stops if f.code == "BUS-DEVICE"]
    assert ("annex", "things.annex.card") in [(f.where, f.field) for f in found]


def test_the_feeder_of_a_board_behind_another_takes_back_what_its_sources_give() -> None:
    """25 A at 125 %: 31.25 A, on a main of 60 A; not where the board has a service of its own."""
    plan = plan_of(mains(behind=True))
    assert plan.figures["circuits.annex.back_a"].value == pytest.approx(1.25 * 25)
    assert "BUS-FEEDER" not in codes(plan)
    assert "circuits.annex.back_a" not in plan_of(mains(behind=False)).figures
    assert "circuits.annex.back_a" not in plan_of(mains(behind=True, at="main-board")).figures
    for main, stops in ((31.25, False), (31.2, True)):
        card = shelf()["house-board-100"].model_copy(update={"main_device_a": main})
        found = [
            f for f in derive(Job.model_validate(mains(behind=True)), {**shelf(), "house-board-100": card}).stops if f.code == "BUS-FEEDER"
        ]
        assert bool(found) == stops
        assert all((f.where, f.field) == ("annex", "things.annex.card") for f in found)


FEEDER = {**RUN, "id": "feeder-annex", "length_m": 20.0, "raceway_size": "1", "installed_size": "6 AWG", "device_a": 60.0}


def fed(*, board: str = "house-board-100", **run: Any) -> dict[str, Any]:
    """The annex behind the first main board, with the answers of its feeder."""
    document = mains(behind=True)
    document["things"][-1]["card"] = board
    document["runs"].append({**FEEDER, **run})
    return document


def test_the_feeder_between_main_boards_is_a_circuit_and_judged() -> None:
    plan = plan_of(fed())
    feeder = plan.circuits.sized["feeder-annex"]
    assert feeder.demand.design_a.value == 25
    assert feeder.demand.continuous_a.value == pytest.approx(31.25)
    # 6 AWG copper at 75 °C carries 65 A (Table 310.16): behind 60 A it stands, behind 70 A it stands (240.4(B)), behind 80 A it does not.
    assert codes(plan) == set()
    small = {f.code for f in plan_of(fed(installed_size="8 AWG")).stops if f.where == "feeder-annex"}
    assert small == {"COND-SMALL", "COND-UNPROTECTED"}
    # The device ahead takes back 125 % of 25 A; one of 30 A does not.
    assert {f.code for f in plan_of(fed(device_a=35)).stops} == set()
    assert [(f.code, f.where) for f in plan_of(fed(device_a=30)).stops] == [("DEVICE-SMALL", "feeder-annex")]


def test_the_feeder_between_main_boards_lies_in_every_way() -> None:
    near, far = plan_of(fed(length_m=10.0)), plan_of(fed())
    assert far.house.ways == (("feeder-annex", "grid", "backup"),)
    # Twice the length: twice the drop and the rise of it; 3.1 V over 1000 ft at 25 A of 0.491 ohm/kft, both wires.
    for figure in ("drop_pct", "rise_pct"):
        assert far.figures[f"circuits.feeder-annex.{figure}"].value == pytest.approx(
            2 * near.figures[f"circuits.feeder-annex.{figure}"].value
        )
    ohm_per_km = 0.491 / 0.3048
    assert far.figures["circuits.feeder-annex.rise_pct"].value == pytest.approx(100 * 2 * 0.020 * ohm_per_km * 25 / 240, rel=2e-3)
    assert far.figures["circuits.rise_pct"].value == pytest.approx(
        far.figures["circuits.feeder-annex.rise_pct"].value + far.figures["circuits.grid.rise_pct"].value
    )
    assert far.figures["circuits.drop_total_pct"].value > near.figures["circuits.drop_total_pct"].value


def test_a_feeder_that_the_survey_found_is_not_landed_and_a_new_one_is() -> None:
    found, new = plan_of(fed()), plan_of(fed(board="larder-24"))
    assert {t.place for t in found.terminations if t.circuit == "feeder-annex"} == set()
    assert "stands-feeder-annex" in {c.id for c in found.checks}
    assert {t.place for t in new.terminations if t.circuit == "feeder-annex"} == {"main-board", "annex"}
    assert "feeder-annex" in next(s.lands for s in new.power_up.steps if s.id == "grid-breaker")
    assert "stands-feeder-annex" not in {c.id for c in new.checks}
    # With several main boards a step names the one whose breaker it means.
    assert next(s.title for s in new.power_up.steps if s.id == "grid-breaker") == "Close the grid breaker in annex"
    assert next(s.title for s in new.power_up.line.switches if s.id == "grid-breaker") == "Grid breaker in annex"
    assert next(s.title for s in plan_of(barn()).power_up.steps if s.id == "grid-breaker") == "Close the grid breaker of Inverter 1"


def test_a_feeder_that_carries_nothing_back_is_the_house_s_own() -> None:
    for document in (mains(behind=True, at="main-board"), mains(behind=False)):
        assert "feeder-annex" not in plan_of(document).house.by_id
    takes_only = {**shelf()}
    inverter = next(t["card"] for t in fed()["things"] if t["seat"] == "inverter")
    takes_only[inverter] = shelf()[inverter].model_copy(update={"role": "off-grid"})
    assert "feeder-annex" not in derive(Job.model_validate(fed()), takes_only).house.by_id


def test_two_supplies_are_not_tied_together_by_inverters_that_share_a_panel() -> None:
    """A main board behind the first is of its supply; one with a supply of its own is not, unless what joins it feeds apart."""
    document = demo_house("g01-cooperage").model_dump(mode="json")
    document["things"].append(
        {"seat": "board", "duty": "main", "id": "annex", "card": "house-board-100", "fed_from": "main-board", "bonded": False}
    )
    document["runs"].append(FEEDER)
    [t for t in document["things"] if t["seat"] == "inverter"][1]["board"] = "annex"
    assert "PAR-SUPPLY" not in codes(plan_of(document))
    document["things"][-1]["fed_from"] = None
    found = next(f for f in plan_of(document).stops if f.code == "PAR-SUPPLY")
    assert (found.where, found.field) == ("inv-2", "things.inv-2.board")
    apart = beside("d1-saltmarsh", "k07-ridge")[0]
    apart["things"].append({"seat": "board", "duty": "main", "id": "annex", "card": "house-board-100"})
    next(t for t in apart["things"] if t["seat"] == "inverter")["board"] = "annex"
    assert "PAR-SUPPLY" not in codes(plan_of(apart))


def test_a_main_board_behind_another_has_no_bond_of_its_own() -> None:
    asked = fed()
    asked["things"][-1]["bonded"] = None
    assert [g.path for g in plan_of(asked).gaps] == ["things.annex.bonded"]
    asked["things"][-1]["bonded"] = True
    found = next(f for f in plan_of(asked).stops if f.code == "BOND-BEHIND")
    assert (found.where, found.field) == ("neutral", "things.annex.bonded")
    # The bond of a supply of its own is that supply's.
    alone = mains(behind=False)
    alone["things"][-1]["bonded"] = True
    assert "BOND-BEHIND" not in codes(plan_of(alone))
    assert plan_of(alone).gaps == ()


def test_what_the_survey_does_not_say_of_a_feeder_is_asked() -> None:
    assert [g.path for g in plan_of(mains(behind=True)).gaps] == ["runs.feeder-annex"]
    plan = plan_of(fed(device_a=None))
    assert [(g.path, g.question) for g in plan.gaps] == [
        ("runs.feeder-annex.device_a", "Which device guards the feed of annex in the board ahead?")
    ]
    assert plan.circuits.sized["feeder-annex"].device is None


def test_an_inverter_that_moves_between_main_boards_is_found_by_its_feeder() -> None:
    """Planned on the plan before, the feeder carries what joins behind it now."""
    document = demo_house("g01-cooperage").model_dump(mode="json")
    document["things"].append(
        {"seat": "board", "duty": "main", "id": "annex", "card": "house-board-100", "fed_from": "main-board", "bonded": False}
    )
    document["runs"].append(FEEDER)
    units = [t for t in document["things"] if t["seat"] == "inverter"]
    units[0]["board"] = "annex"
    one = derive(Job.model_validate(document), shelf(), noted=True)
    units[1]["board"] = "annex"
    both = derive(Job.model_validate(document), shelf(), before=one)
    first, second = (p.circuits.sized["feeder-annex"].demand.design_a.value for p in (one, both))
    assert second == 2 * first > 0
    assert both.figures == plan_of(document).figures


@pytest.mark.parametrize("document", [barn("lights"), barn("freezer", name="d1-saltmarsh"), two_switches(), fed(), fed(board="larder-24")])
def test_every_circuit_is_landed_before_a_step_lets_a_source_onto_it(document: dict[str, Any]) -> None:
    plan = plan_of(document)
    waited = {circuit for step in plan.power_up.steps for circuit in step.lands}
    assert {t.circuit for t in plan.terminations} <= waited
    assert {c.id for c in plan.circuits.all} == set(plan.circuits.sized)


def test_a_board_without_a_way_for_it_cannot_feed_another() -> None:
    document = barn("lights")
    document["runs"] = [r for r in document["runs"] if r["id"] != "feeder-barn"]
    assert "BOARD-PORTS" not in codes(plan_of(document))
    next(t for t in document["things"] if t["id"] == "sub-board")["card"] = "larder-16"
    found = next(f for f in plan_of(document).stops if f.code == "BOARD-PORTS")
    assert (found.where, found.field) == ("sub-board", "things.sub-board.card")


def test_what_is_fed_by_two_ways_is_a_stop() -> None:
    # Two switches onto one board: one may stand on the grid while the other stands on the inverters.
    document = two_switches()
    next(t for t in document["things"] if t["id"] == "switch-b")["feeds"] = "sub-board"
    found = [f for f in plan_of(document).stops if f.code == "FED-TWICE"]
    assert [(f.where, f.field) for f in found] == [("sub-board", "things.sub-board.fed_from")]
    assert "switch-a and by switch-b" in found[0].text
    # One panel by its main and by a breaker.
    twice = two_switches()
    next(t for t in twice["things"] if t["id"] == "switch-a")["fed_from"] = "panel"
    assert ("switch-a", "things.switch-a.fed_from") in [(f.where, f.field) for f in plan_of(twice).stops if f.code == "FED-TWICE"]
    # A board that the panel feeds and that stands behind another.
    ring = barn("lights")
    next(t for t in ring["things"] if t["id"] == "panel")["feeds"] = "barn"
    next(t for t in ring["things"] if t["id"] == "sub-board")["fed_from"] = "barn"
    ring["things"][-1]["fed_from"] = None
    assert "FED-TWICE" not in codes(plan_of(ring))
    assert "FED-TWICE" not in codes(plan_of(barn("lights"))) | codes(plan_of(two_switches()))


def with_pv(at: str) -> Plan:
    """The lock-keeper's house with a board in the barn, and its PV inverter on one board or the other."""
    document = demo_house("d3-lockkeeper").model_dump(mode="json")
    next(t for t in document["things"] if t["id"] == "sub-board")["card"] = "pantry-24"
    document["things"].append({"seat": "board", "duty": "backed-up", "id": "barn", "card": "pantry-63", "fed_from": "sub-board"})
    next(t for t in document["things"] if t["id"] == "pv-inverter")["feeds"] = at
    document["runs"].append({"id": "feeder-barn", "length_m": 12.0, "ambient_c": 30.0, "circuits_together": 1})
    light = next(x for x in document["loads"] if x["side"] == "backed")
    light |= {"board": "barn", "running_w": 230.0, "surge_w": 230.0}
    return plan_of(document)


def test_pv_on_a_board_behind_loads_its_feed_and_the_board_ahead() -> None:
    behind, ahead = with_pv("barn"), with_pv("sub-board")
    amps = behind.seats.pv_inverters[0].card.output_current_a
    # The main of 63 A and the PV inverter meet on the bar of the board ahead, wherever it hangs.
    assert behind.figures["circuits.sub_board_sum"].value == ahead.figures["circuits.sub_board_sum"].value == 63 + amps
    assert behind.figures["circuits.sub_board_sum.barn"].value == shelf()["pantry-63"].main_device_a + amps  # type: ignore[union-attr,operator]
    # 1 A runs in the barn; what the PV inverter gives comes back along the same wire.
    assert ahead.circuits.sized["feeder-barn"].demand.design_a.value == pytest.approx(1.0)
    assert behind.circuits.sized["feeder-barn"].demand.design_a.value == amps > 10


def risen(plan: Plan, *circuits: str) -> float:
    return sum(plan.figures[f"circuits.{cid}.rise_pct"].value for cid in circuits)


def test_the_rise_of_pv_is_that_of_every_feed_on_its_way() -> None:
    """Past the gateway, not through the run of the inverter; of PV on the main board, its own run and the feeders to it."""
    behind, ahead = with_pv("barn"), with_pv("sub-board")
    amps, volts = behind.seats.pv_inverters[0].card.output_current_a, 230.0
    assert behind.figures["circuits.rise_pct"].value == pytest.approx(risen(behind, "pv-ac", "feeder-barn", "backup", "grid"))
    assert ahead.figures["circuits.rise_pct"].value == pytest.approx(risen(ahead, "pv-ac", "backup", "grid"))
    feeder = behind.circuits.sized["feeder-barn"]
    lost = 2 * feeder.length.value / 1000 * feeder.ohm_per_km.value * amps
    assert behind.figures["circuits.feeder-barn.rise_pct"].value == pytest.approx(100 * lost / volts)
    on_main = demo_house("d3-lockkeeper").model_dump(mode="json")
    next(t for t in on_main["things"] if t["seat"] == "pv-inverter")["feeds"] = "main-board"
    next(r for r in on_main["runs"] if r["id"] == "pv-ac")["length_m"] = 80.0
    plan = plan_of(on_main)
    assert plan.figures["circuits.rise_pct"].value == pytest.approx(risen(plan, "pv-ac"))
    # With a short run of its own the inverter's way is the longer one.
    next(r for r in on_main["runs"] if r["id"] == "pv-ac")["length_m"] = 0.5
    plan = plan_of(on_main)
    assert plan.figures["circuits.rise_pct"].value == pytest.approx(risen(plan, "through", "grid"))


def test_inverters_that_feed_one_island_by_several_ways_meet_at_no_panel() -> None:
    document = barn("lights")
    document["things"] = [t for t in document["things"] if t["id"] != "panel"]
    for inverter, board in (("inv-1", "sub-board"), ("inv-2", "barn")):
        next(t for t in document["things"] if t["id"] == inverter)["feeds"] = board
    plan = plan_of(document)
    assert len(plan.house.islands) == 1
    assert {"PAR-PANEL", "FED-TWICE"} <= codes(plan)


@pytest.mark.parametrize(
    ("thing", "ahead", "says"), [("barn", "main-board", "no backed-up board"), ("main-board", "sub-board", "no main board")]
)
def test_a_board_stands_behind_one_of_its_own_kind(thing: str, ahead: str, says: str) -> None:
    document = barn()
    next(t for t in document["things"] if t["id"] == thing)["fed_from"] = ahead
    with pytest.raises(ValueError, match=f"things.{thing}.fed_from names '{ahead}', which is {says} of this job"):
        Job.model_validate(document)


def test_the_grid_side_of_a_switch_counts_for_it_and_for_what_it_feeds() -> None:
    document = two_switches()
    next(r for r in document["runs"] if r["id"] == "through-switch-b")["device_a"] = 100
    plan = plan_of(document)
    found = next(f for f in plan.stops if f.code == "BUS-DEVICE" and f.where == "switch-b")
    assert found.found is not None
    assert (found.found.value, found.field) == (100, "things.switch-b.card")
    # In pass-through the grid's breaker feeds the board's conductor.
    assert plan.circuits.sized["backup-switch-b"].demand.fixed_device_a is not None
    assert plan.circuits.sized["backup-switch-b"].demand.fixed_device_a.value == 100
    assert plan.circuits.sized["backup"].demand.fixed_device_a.value == 70  # type: ignore[union-attr]


def test_switches_of_which_one_opens_the_neutral_leave_the_bonds_uncounted() -> None:
    document = two_switches()
    next(t for t in document["things"] if t["id"] == "switch-b")["card"] = "siding-other"
    other = shelf()["siding-60"].model_copy(update={"id": "siding-other", "neutral_switched": False})
    found = next(f for f in derive(Job.model_validate(document), {**shelf(), "siding-other": other}).stops if f.code == "BOND-ISLAND")
    assert "the bonds cannot be counted" in found.text


def test_a_device_bounds_the_pick_by_what_hangs_behind_it() -> None:
    plan = plan_of(two_switches())
    loads = plan.job.loads
    options = options_of(loads, plan.house.legs, legs_free=False)
    title = "L1 within the 70 A device of backup-switch-b"
    row = next(x for x in limits_of(plan, loads, options) if x.title == title)
    counted = {loads[i].id for (i, _), adds in zip(options, row.adds, strict=True) if adds}
    assert counted == {"steam-box", "well"}


def test_the_tags_say_of_how_many_boards_the_total_is() -> None:
    two = plan_of(two_switches())
    drawn = str(loads.tags_drawing(two))
    total = two.loads.running_total
    assert total is not None
    assert f"{figure_text(total)} running, 2 boards" in drawn
    assert drawn.count("running, 2 boards") == 1
    assert "boards" not in str(loads.tags_drawing(plan_of(demo_house("g01-cooperage").model_dump(mode="json"))))


def test_a_thing_is_called_by_its_title_or_its_own_name() -> None:
    titled = plan_of(barn("lights")).seats.boards
    assert {b.id: b.name for b in titled}["barn"] == "Barn board"
    assert {b.id: b.name for b in plan_of(barn("lights", title="")).seats.boards}["barn"] == "barn"
    assert [b.name for b in plan_of(barn()).seats.banks] == ["bank"]

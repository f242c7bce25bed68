"""More small laws, each against a hand-worked value: what only shows at quarter hours, at an edge, in words, or beyond the demo houses."""

from __future__ import annotations

from types import SimpleNamespace
from typing import Any, cast

import numpy as np
import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.job.model import Obstacle
from gumboot.core.plan.derive import derive
from gumboot.core.plan.live_checks import NEVER
from gumboot.core.plan.places import area_of, places, spots
from gumboot.core.rulebook.north_american import photovoltaic, raceway
from gumboot.core.sim.year import Rules, Store, run_year
from gumboot.core.study.layout_ranks import Layout, _order, find_layouts
from gumboot.core.study.layouts import Lay, strings_of
from gumboot.core.study.pick.limits import Limit, what_it_takes
from gumboot.core.study.year import store_of, study_year
from tests.helpers import edited, findings, plan_of, roof, with_card

MODULE = shelf()["slate-410"]


@pytest.mark.parametrize("hours", [1.0, 0.25])
def test_what_leaves_the_cells_is_what_is_given_and_what_is_lost(hours: float) -> None:
    store = Store(4_000, 0, 3_000, 3_000, 0.9, 0.8)
    year = run_year(np.zeros(1), np.array([800.0]), store, Rules(0, False, 0), hours, began_wh=2_000)
    # 800 W at the house are 1000 W at the cells.
    assert year.stored_wh[0] == pytest.approx(2_000 - 1_000 * hours)
    assert year.lost_w[0] == pytest.approx(200)
    # What is left of 100 Wh serves 80 Wh, whatever the step.
    ends = run_year(np.zeros(1), np.array([800.0]), store, Rules(0, False, 0), hours, began_wh=100)
    assert ends.unserved_w[0] == pytest.approx(max(0.0, 800 - 80 / hours))
    assert ends.stored_wh[0] == pytest.approx(100 - min(100.0, 1_000 * hours))
    fills = run_year(np.array([500.0]), np.zeros(1), store, Rules(0, False, 0), hours, began_wh=3_900)
    # 100 Wh of room take 111 Wh of PV; of the rest nobody takes any.
    taken = min(500.0, 100 / 0.9 / hours)
    assert fills.stored_wh[0] == pytest.approx(3_900 + taken * 0.9 * hours)
    assert fills.curtailed_w[0] == pytest.approx(500 - taken)
    assert fills.lost_w[0] == pytest.approx(0.1 * taken)


def test_the_store_gives_no_more_than_its_batteries_let_go() -> None:
    weak = plan_of({}, with_card("cobble-5", {"discharge_a": 10, "charge_a": 8}))
    low, nominal = shelf()["cobble-5"].v_low_operating, shelf()["cobble-5"].nominal_v  # type: ignore[union-attr]
    eta = weak.seats.inverter.battery.efficiency
    assert store_of(weak).discharge_w == pytest.approx(3 * 10 * low * eta)
    assert store_of(weak).charge_w == pytest.approx(3 * 8 * nominal / eta)
    assert store_of(weak, more_units=1).discharge_w == pytest.approx(4 * 10 * low * eta)
    assert store_of(weak, more_units=1).capacity_wh == pytest.approx(4 * 5120)


def layout(**more: Any) -> Layout:
    plain: dict[str, Any] = {"lays": (), "modules": 10, "margin_v": 80.0, "kwh": 1000.0, "spread": 0.0, "cores": 4}
    return Layout(**{**plain, **more})


def test_layouts_are_told_apart_by_the_next_thing_when_the_first_is_alike() -> None:
    finder = cast(Any, SimpleNamespace(limit_v={"PV1": 500.0, "PV2": 400.0}))
    key = _order(finder, 1000.0, "yield")
    # Yields within 2 % count alike; then margin up to a twentieth of 400 V, wiring, balance, yield.
    ranks = [
        layout(),
        layout(kwh=985.0),
        layout(kwh=985.0, margin_v=25.0),
        layout(kwh=985.0, spread=1.0),
        layout(kwh=1000.0, cores=6),
        layout(kwh=1000.0, margin_v=12.0),
        layout(kwh=975.0),
        layout(modules=9, kwh=1000.0),
    ]
    backwards = ranks[::-1]
    assert sorted(backwards, key=key) == ranks
    assert key(layout(kwh=None)) == key(layout(kwh=0.0))
    by_margin, by_wiring = _order(finder, 1000.0, "margin"), _order(finder, 1000.0, "wiring")
    assert by_margin(layout(margin_v=90.0, modules=9)) < by_margin(layout())
    assert by_margin(layout(modules=11)) < by_margin(layout())
    assert by_wiring(layout(cores=2, modules=9)) < by_wiring(layout())
    assert by_wiring(layout(modules=11)) < by_wiring(layout())
    assert by_wiring(layout(kwh=1000.0)) < by_wiring(layout(kwh=900.0))
    assert _order(finder, 0.0, "yield")(layout())[1] == 0


def test_a_string_fuse_is_156_percent_and_needed_where_the_others_feed_more_than_the_module_bears() -> None:
    # NEC 690.8(A)(1) and 690.9(B)(1).
    assert photovoltaic.string_fuse_minimum_a(10.0) == pytest.approx(15.625)
    assert photovoltaic.maximum_circuit_current_a(10.0, 2.0) == pytest.approx(25)
    assert photovoltaic.conductor_current_a(10.0) == pytest.approx(12.5)
    assert photovoltaic.back_feed_a(2, 16.0) == 20.0
    assert photovoltaic.back_feed_a(3, 16.0) == 40.0
    assert photovoltaic.back_feed_a(1, 100.0) == 0


def test_each_kind_of_raceway_has_its_own_sizes() -> None:
    # NEC Chapter 9 Table 4: EMT and PVC schedule 40 begin at 1/2, and grow.
    for kind in raceway.KINDS:
        sizes = raceway.trade_sizes(kind)
        assert len(set(sizes)) == len(sizes)
        areas = [raceway.raceway_area_mm2(kind, size) for size in sizes]
        assert areas == sorted(areas)
    assert sum(len(raceway.trade_sizes(kind)) for kind in raceway.KINDS) == len(raceway._RACEWAYS)
    # Table 4: EMT 1/2 has 0.304 in2, 1 has 0.864 in2.
    assert raceway.raceway_area_mm2("EMT", "1/2") == pytest.approx(0.304 * 645.16, rel=2e-3)
    assert raceway.raceway_area_mm2("EMT", "1") == pytest.approx(0.864 * 645.16, rel=2e-3)


@pytest.mark.parametrize(("x", "held"), [(-1, 2), (0, 2), (1, 1)])
def test_an_obstacle_that_touches_a_module_takes_no_place(x: int, held: int) -> None:
    card = MODULE.model_dump()
    wide, tall = card["width_mm"], card["height_mm"]
    chimney = Obstacle(id="c", title="C", x_mm=2 * wide - x, y_mm=0, width_mm=200, height_mm=tall, clear_mm=0)
    own = roof(
        width_mm=2 * wide + 200,
        height_mm=tall,
        gap_mm=0,
        obstacles=(chimney,),
    )
    assert places(own, MODULE) == held  # type: ignore[arg-type]
    high = own.model_copy(update={"obstacles": (chimney.model_copy(update={"x_mm": 0, "y_mm": tall - x, "width_mm": 2 * wide + 200}),)})
    assert places(high, MODULE) == (2 if x <= 0 else 0)  # type: ignore[arg-type]


def test_what_a_battery_more_would_hold_is_one_battery() -> None:
    plan = plan_of()
    each = plan.loads.energy.value / 3
    energy = Limit("4 h from 03:00 out of the bank", "Wh", 1000, ())
    assert what_it_takes(plan, energy, each) == "one more battery"
    assert what_it_takes(plan, energy, each + 1) == "more batteries, or a shorter outage wished"
    assert what_it_takes(plan, Limit("all running against the bank", "W", 1, ()), 1) == "one more battery in parallel"
    assert what_it_takes(plan, Limit("L1 through the inverter from the grid", "W", 1, ()), 1) == "an inverter with a larger pass-through"
    assert what_it_takes(plan, Limit("L1 running", "W", 1, ()), 1) == "another leg, or a load taken out"
    assert what_it_takes(plan, Limit("all when pump starts", "W", 1, ()), 1).startswith("a soft starter")
    words = what_it_takes(plan, Limit("all when pump starts, out of the bank", "W", 1, ()), 1)
    assert words == "one more battery in parallel, or a soft starter"
    assert what_it_takes(plan, Limit("all running against the inverter", "W", 1, ()), 1).startswith("a larger or second inverter")


def test_who_bonds_of_several_is_told_where_one_alone_does() -> None:
    why = {name: next(r.why for r in plan_of(name=name).settings.sheet if r.key == "bond") for name in ("g01-cooperage", "d1-saltmarsh")}
    assert why["g01-cooperage"] == "exactly one bond in every mode: on in the leader, off in every other"
    assert why["d1-saltmarsh"] == "exactly one bond in every mode"
    document = demo_house("g01-cooperage").model_dump(mode="json")
    several = {**shelf(), "plover-6p": with_card("plover-6p", {"parallel.bond": "each"})["plover-6p"]}
    each = derive(Job.model_validate(document), several)
    assert next(r.why for r in each.settings.sheet if r.key == "bond") == "exactly one bond in every mode"


@pytest.mark.parametrize(("moved", "side"), [(20.0, "left"), (-20.0, "right")])
def test_a_box_off_the_studs_is_moved_back_towards_them(moved: float, side: str) -> None:
    x = next(p.x_mm for p in demo_house("d1-saltmarsh").walls[0].placements if p.id == "inverter")
    assert x is not None
    found = [
        f for f in findings({"walls.wall.placements.inverter.x_mm": x + moved}) if f.code == "WALL-STUD-MISS" and f.where == "inverter"
    ]
    assert len(found) == 1
    assert f"20 mm {side}," in found[0].act
    assert "20 mm off" in found[0].text


def test_what_the_year_was_run_by_is_said() -> None:
    said = study_year(plan_of({"settings.work_mode": "timed", "site.export_limit_w": None})).notes
    assert "Timed mode is run as self-use with its charging windows." in said
    assert "The permitted export is not answered: nothing is counted as given to the grid." in said
    plain = study_year(plan_of()).notes
    assert not any("Timed mode" in note or "permitted export" in note for note in plain)
    assert not any("No generator" in note for note in plain)
    assert any("No generator" in note for note in study_year(plan_of(name="k03-tollhouse")).notes)
    wrong = study_year(derive(edited({"site.utc_offset_h": 5.0}), shelf())).notes
    # Sun's noon at 68.4 degrees west by a clock of UTC + 5: 12 + 68.4 / 15 + 5.
    assert any(f"the sun would stand highest at {12 + 68.4 / 15 + 5:.1f} h" in note for note in wrong)


def test_the_margin_of_a_layout_is_its_limit_less_its_coldest_volts() -> None:
    for x in find_layouts(plan_of(), shown=4).best:
        assert x.margin is not None
        assert x.yearly is not None
        limit, cold = x.margin.given
        assert x.margin.value == pytest.approx(x.margin_v)
        assert limit.value - cold.value == pytest.approx(x.margin_v)
        assert 0 < cold.value < limit.value
        assert x.yearly.value == pytest.approx(x.kwh)


def test_live_checks_come_after_the_step_that_makes_them_possible() -> None:
    after = {c.id: c.after for c in plan_of().live_checks}
    assert after == {
        "soc-agree": "inverter-on",
        "thermal": "export",
        "outage": "grid-breaker",
        "return": "grid-breaker",
        "export": "export",
        "alarms": "export",
        "meter-pv": "pv-switch",
        "owner": "",
    }
    assert {c.id: c.after for c in plan_of(name="g01-cooperage").live_checks}["sharing"] == "small-load"
    alone = {c.id: c.after for c in plan_of(name="d4-lookout").live_checks}
    assert not {"outage", "return", "export", "sharing"} & set(alone)
    assert alone["thermal"] == "generator-breaker"
    never = plan_of(name="g01-cooperage", cards=with_card("plover-6p", {"start_order": "pv first"})).live_checks
    assert {c.after for c in never if c.after} == {NEVER}
    assert {"soc-agree", "thermal", "sharing", "outage"} <= {c.id for c in never if c.after == NEVER}


@pytest.mark.parametrize(
    ("method", "soil", "factor"), [("D2", 1.5, 1.28), ("D1", 1.5, 1.1), ("D2", 2.5, 1.0), ("D1", None, 1.0), ("C", 1.5, None)]
)
def test_soil_counts_in_ground_alone(method: str, soil: float | None, factor: float | None) -> None:
    # IEC 60364-5-52 table B.52.16; the ground at its base of 20 °C has factor 1.
    plan = plan_of({"runs.grid.method": method, "runs.grid.soil_km_per_w": soil, "runs.grid.ambient_c": 20.0}, name="k02-weaver")
    found = plan.circuits.sized["grid"].ambient_factor
    if factor is None:
        assert found.name == "Ambient factor"
        return
    assert found.value == pytest.approx(factor)
    assert ("soil" in found.name) is (soil is not None)


def test_only_a_face_that_has_strings_is_offered_one_more() -> None:
    plan = plan_of()
    document = plan.job.model_dump(mode="json")
    document["faces"].append({**document["faces"][0], "id": "shed", "title": "Shed"})
    offered = [x.title for x in study_year(derive(Job.model_validate(document), shelf())).buys]
    assert offered == [x.title for x in study_year(plan).buys]
    assert offered[0] == "as planned"
    assert offered[-1] == "one more battery"
    assert not any("shed" in title for title in offered)


def test_the_year_names_where_each_of_its_sums_comes_from() -> None:
    figures = study_year(plan_of()).figures
    assert {key: figures[f"year.{key}"].source for key in ("pv", "load", "import", "lost")} == {
        "pv": "sun.chain",
        "load": "physics",
        "import": "physics",
        "lost": "physics",
    }


def test_a_layout_says_where_modules_would_still_fit() -> None:
    plan = plan_of()
    for x in find_layouts(plan, shown=8).best:
        for face in plan.job.faces:
            laid = sum(lay.total for lay in x.lays if lay.face == face.id)
            free = places(face, plan.seats.module_on(face.id)) - laid
            assert (f"{free} free on {face.title.lower()}" in x.why) is (free > 0)


def test_a_string_names_its_inverter_where_there_are_several() -> None:
    for house, named in (("d1-saltmarsh", False), ("g01-cooperage", True)):
        plan = plan_of(name=house)
        rows = strings_of(plan, find_layouts(plan, shown=1).best[0].lays)
        assert rows
        assert all((row["inverter"] is not None) is named for row in rows)
    unknown = strings_of(plan, (Lay("PV9", "south", 4, 1),))
    assert [(row["tracker"], row["inverter"]) for row in unknown] == [("PV9", None)]


def test_what_is_lost_in_all_is_cured_where_the_way_begins() -> None:
    found = next(f for f in findings({"runs.grid.length_m": 300.0, "runs.backup.length_m": 200.0}) if f.code == "DROP-TOTAL")
    assert (found.where, found.field) == ("backup", "runs.grid.length_m")
    assert found.found is not None
    plan = plan_of({"runs.grid.length_m": 300.0, "runs.backup.length_m": 200.0})
    parts = [plan.circuits.sized[cid].drop_pct.value for cid in ("grid", "backup")]
    assert found.found.value == pytest.approx(sum(parts))


def test_modules_stand_in_the_middle_of_what_is_free() -> None:
    card = MODULE.model_dump()
    wide, tall = card["width_mm"], card["height_mm"]
    own = roof(
        width_mm=2 * wide + 20 + 2 * 300 + 100,
        height_mm=tall,
        gap_mm=20,
        setback_side_mm=300,
    )
    assert [spot.x for spot in spots(own, MODULE)] == [pytest.approx(350), pytest.approx(350 + wide + 20)]  # type: ignore[arg-type]


def test_the_last_link_of_a_chain_is_one_port_or_all_of_them() -> None:
    titles = {name: [link.title for link in plan_of(name=name).banks[0].chain] for name in ("d1-saltmarsh", "g01-cooperage", "k02-weaver")}
    assert titles["d1-saltmarsh"][-1] == titles["k02-weaver"][-1] == "inverter port"
    assert titles["g01-cooperage"][-1] == "inverter ports"
    assert (titles["d1-saltmarsh"][0], titles["k02-weaver"][0]) == ("3 BMS", "battery")


@pytest.mark.parametrize(
    ("house", "order"),
    [
        (
            "d1-saltmarsh",
            "Inverter off; Grid breaker open; Backed-up main open; PV switch open; Battery switch open; bat-3 off; bat-2 off; bat-1 off",
        ),
        (
            "d4-lookout",
            "Inverter off; Generator off, its breaker open; Backed-up main open; PV switch open; Battery switch open; Battery bank off",
        ),
        (
            "g01-cooperage",
            (
                "Inverters off, the followers first; Grid breakers open; Backed-up main open; Panel breakers open; PV switches open; "
                "Battery switches open; bat-4 off; bat-3 off; bat-2 off; bat-1 off"
            ),
        ),
        ("k07-ridge", "Inverter off; Grid breaker open; Backed-up main open; PV switch open; Battery cabinet off"),
    ],
)
def test_what_is_switched_off_in_what_order(house: str, order: str) -> None:
    assert "; ".join(plan_of(name=house).power_up.off_order) == order


def test_a_box_is_clear_on_each_side_by_its_own_card() -> None:
    sides = {"clear_left_mm": 11.0, "clear_right_mm": 23.0, "clear_above_mm": 37.0, "clear_below_mm": 53.0}
    cards = with_card("plover-6s", {f"body.{side}": mm for side, mm in sides.items()})
    box = next(b for b in plan_of({}, cards).walls[0].boxes if b.id == "inverter")
    assert (box.rect.x - box.clear.x, box.rect.y - box.clear.y) == (11.0, 53.0)
    assert (box.clear.w - box.rect.w, box.clear.h - box.rect.h) == (11.0 + 23.0, 37.0 + 53.0)


def test_a_face_that_is_not_measured_is_as_large_as_its_rows() -> None:
    card = MODULE.model_dump()
    own = roof(columns=3, rows=2, gap_mm=20)
    area = area_of(own, MODULE)  # type: ignore[arg-type]
    assert (area.width, area.height) == (3 * card["width_mm"] + 2 * 20, 2 * card["height_mm"] + 20)
    assert area.ridge == area.width
    assert [(s.x, s.row) for s in spots(own, MODULE)][:4] == [  # type: ignore[arg-type]
        (0, 0),
        (card["width_mm"] + 20, 0),
        (2 * (card["width_mm"] + 20), 0),
        (0, 1),
    ]


def test_an_obstacle_keeps_its_clearance_on_every_side() -> None:
    chimney = Obstacle(id="o", x_mm=1000, y_mm=2000, width_mm=300, height_mm=500, clear_mm=70)
    own = roof(width_mm=9000, height_mm=6000, obstacles=[chimney])
    assert area_of(own, MODULE).blocked == ((930, 1930, 300 + 2 * 70, 500 + 2 * 70),)  # type: ignore[arg-type]


def test_a_hip_takes_from_the_upper_end_of_each_row() -> None:
    card = MODULE.model_dump()
    wide, tall = card["width_mm"], card["height_mm"]
    # Eaves of four modules, a ridge of two: after one row of two the hip has come in by half a module on each side.
    hip = roof(gap_mm=0, width_mm=4 * wide, ridge_mm=2 * wide, height_mm=2 * tall)
    assert [s.row for s in spots(hip, MODULE)] == [0, 0, 0, 1, 1]  # type: ignore[arg-type]
    for s in spots(hip, MODULE):  # type: ignore[arg-type]
        inset = wide * (s.y + tall) / (2 * tall)
        assert s.x >= inset - 1e-6
        assert s.x + wide <= 4 * wide - inset + 1e-6


def test_conductors_in_parallel_halve_the_rise_and_the_drop() -> None:
    one = plan_of({"runs.grid.length_m": 20.0, "runs.grid.installed_size": "1/0 AWG"})
    two = plan_of({"runs.grid.length_m": 20.0, "runs.grid.installed_size": "1/0 AWG", "runs.grid.sets": 2})
    for key in ("circuits.grid.rise_pct", "circuits.grid.drop_pct"):
        assert two.figures[key].value == pytest.approx(one.figures[key].value / 2)

"""Small laws of places, skies and meters: what few houses show, each against a value worked by hand."""

from __future__ import annotations

from typing import Literal

import numpy as np
import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.card import parse_card
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.plan.survey import questions_of
from gumboot.core.plan.wall.shapes import Rect
from gumboot.core.rulebook import books
from gumboot.core.rulebook.common.bank import chain_shares_a
from gumboot.core.rulebook.north_american.conductors import reactance_ohm_per_km
from gumboot.core.sim.ct_readings.parts import Channel, Core, MeterTest
from gumboot.core.sim.ct_readings.wirings import HIGH_SHARES, LOW_SHARES, rare_cores
from gumboot.core.sim.sun import DAYS, day_clearness
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import strings_of
from gumboot.core.study.schools import compare_schools
from gumboot.core.study.year import YearStudy
from gumboot.core.study.year.parts import field_figure
from gumboot.core.study.year.series import load_series_w
from gumboot.core.units import NM_PER_LBF_IN
from tests.helpers import bank_each, codes, findings, plan_of, with_card

HERE = Rect(0, 0, 100, 50)


@pytest.mark.parametrize(
    ("there", "gap"),
    [
        (Rect(130, 10, 40, 20), 30),  # to the right
        (Rect(-90, 10, 40, 20), 50),  # to the left
        (Rect(20, 65, 40, 20), 15),  # above
        (Rect(20, -45, 40, 20), 25),  # beneath
        (Rect(103, 54, 10, 10), 5),  # off the corner, 3 and 4
        (Rect(-13, -14, 10, 10), 5),
        (Rect(100, 0, 10, 10), 0),  # touching
        (Rect(50, 25, 10, 10), 0),  # within
    ],
)
def test_the_gap_between_two_boxes(there: Rect, gap: float) -> None:
    assert HERE.gap_to(there) == pytest.approx(gap)
    assert there.gap_to(HERE) == pytest.approx(gap)


def test_a_second_wall_asks_its_own_questions_and_none_twice() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    alone = questions_of(Job.model_validate(document))
    title = document["walls"][0]["title"]
    assert not [q for q in alone if q.text.endswith(f", {title}")]
    document["walls"].append({**document["walls"][0], "id": "shed", "title": "Shed", "placements": [], "board": None})
    both = questions_of(Job.model_validate(document))
    paths = [q.path for q in both]
    assert len(paths) == len(set(paths))
    own = [q for q in both if q.path.startswith("walls.shed.")]
    assert own
    assert all(q.text.endswith(", Shed") for q in own)
    of_first = [q for q in alone if q.path.startswith("walls.")]
    assert len(both) == len(alone) + len(own)
    assert [q.path for q in both if q.path.startswith("walls.wall.")] == [q.path for q in of_first]


@pytest.mark.parametrize(
    ("raceway", "material"),
    [("EMT", "steel"), ("FMC", "steel"), ("LFMC", "steel"), ("wireway", "steel"), ("PVC 40", "pvc"), ("PVC 80", "pvc"), (None, "pvc")],
)
def test_reactance_follows_the_raceway_and_a_metal_one_has_more(raceway: str | None, material: Literal["pvc", "steel"]) -> None:
    run = {"runs.grid.raceway": raceway, "runs.grid.raceway_size": None, "runs.grid.power_factor": 0.9}
    plan = plan_of(run)
    size = plan.circuits.sized["grid"].installed
    assert size is not None
    x = plan.figures["circuits.grid.reactance"]
    assert x.value == reactance_ohm_per_km(size.label, material)
    assert ("steel" in x.name) == (material == "steel")


@pytest.mark.parametrize("clearness", [0.3, 0.55, 0.7, 0.8, 0.95, 1.0])
def test_the_days_of_a_month_keep_its_clearness_and_none_is_brighter_than_a_clear_one(clearness: float) -> None:
    days = day_clearness([clearness] * 12)
    assert days.shape == (365,)
    assert days.max() <= 1.0
    begins = 0
    for count in DAYS:
        assert days[begins : begins + count].mean() == pytest.approx(clearness, abs=1e-9)
        begins += count


def test_the_bank_that_is_empty_first_is_the_one_of_most_power_for_its_energy() -> None:
    document, cards = bank_each(), dict(shelf())
    inverters = [t for t in document["things"] if t["seat"] == "inverter"]
    weaker = cards[inverters[1]["card"]].model_copy(update={"id": "weaker", "output_w": 1_000})
    cards["weaker"], inverters[1]["card"] = weaker, "weaker"
    document["banks"][0]["units"] = document["banks"][0]["units"][:2]
    document["banks"][0]["units"][-1]["terminator"] = True
    document["banks"][1]["units"] = [
        {**unit, "id": f"far-{n}", "dip_address": n, "terminator": n == 1} for n, unit in enumerate(document["banks"][1]["units"][:1], 1)
    ]
    document["runs"] = [r for r in document["runs"] if not r["id"].startswith("bat-") or r["id"] in ("bat-1", "bat-2")]
    runs = [r for r in document["runs"] if r["id"] == "bat-1"]
    document["runs"] += [{**run, "id": "far-1"} for run in runs]
    for wall in document["walls"]:
        wall["placements"] = [p for p in wall["placements"] if not p["id"].startswith("bat-") or p["id"] in ("bat-1", "bat-2")]
    plan = derive(Job.model_validate(document), cards)
    # Two batteries behind an inverter of full power last a shorter time than one behind an inverter of 1 kW.
    first, last = (bank.supply.delivered.value for bank in plan.banks)
    assert first > last
    assert next(f for f in plan.findings if f.code == "PAR-EMPTY").where == "bank"


def test_where_there_is_no_field_no_place_of_it_is_a_figure() -> None:
    assert field_figure(YearStudy(("site.latitude_deg",), {}), 3, 4) is None
    found = field_figure(YearStudy((), {}, field_low=np.full((24, 12), 7.5)), 3, 4)
    assert found is not None
    assert (found.key, found.value, "03:00 in May" in found.name) == ("outage.field.3.5", 7.5, True)


@pytest.mark.parametrize("minutes", [60, 30, 15])
def test_demand_through_a_year_has_each_step_and_the_same_energy(minutes: int) -> None:
    plan = plan_of()
    series = load_series_w(plan, backed_only=True, minutes=minutes)
    assert series.shape == (365 * 24 * 60 // minutes,)
    assert series.sum() * minutes / 60 == pytest.approx(load_series_w(plan, backed_only=True).sum())


@pytest.mark.parametrize(
    ("share", "rare"),
    [
        (end + hair, hair * sign >= 0)
        for bounds in (LOW_SHARES, HIGH_SHARES)
        for end, sign in zip(bounds, (1, -1), strict=True)
        for hair in (-0.01, 0.0, 0.01)
    ],
)
def test_a_core_that_is_not_closed_reads_a_part_within_its_bounds(share: float, rare: bool) -> None:
    channel, load = Channel("CT1", "L1"), 1_000.0
    test = MeterTest({"L1": load, "L2": 0.0}, {"CT1": 0.0}, {"CT1": share * load})
    found = [c for c in rare_cores(channel, ("L1",), [test], "split phase") if c == Core(("L1",), False, round(share, 2))]
    assert bool(found) == rare


def test_a_chain_of_three_by_hand() -> None:
    # Three cells of 10 mohm with links of 5 mohm, main at one end's both poles: I2 (10 + 10) = I1 10, and so on from the far end.
    far = 1.0
    last_v = far * 10
    mid = (last_v + 2 * 5 * far) / 10
    near = (10 * mid + 2 * 5 * (far + mid)) / 10
    whole = far + mid + near
    shares = chain_shares_a(100.0, (10e-3,) * 3, (5e-3,) * 2, diagonal=False)
    assert shares == pytest.approx([100 * near / whole, 100 * mid / whole, 100 * far / whole])


@pytest.mark.parametrize("least", [500, 501])
def test_an_export_limit_is_held_from_the_least_that_can_be_set(least: float) -> None:
    row = {"key": "export_w", "title": "Export", "unit": "W", "low": least, "high": 6000}
    found = codes({"site.export_limit_w": 500}, with_card("plover-6s", {"settings": [row]}))
    assert ("GRID-EXPORT" in found) == (least > 500)


@pytest.mark.parametrize("path", ["site.service_main_a", "site.busbar_a"])
def test_a_board_of_which_one_rating_is_missing_waits_and_says_for_what(path: str) -> None:
    plan = plan_of({path: None})
    assert "circuits.busbar_sum" not in plan.figures
    assert path in {gap.path for gap in plan.gaps}


def test_modules_of_a_stack_speak_by_its_head_alone() -> None:
    bank = demo_house("d2-schoolhouse").banks[0]
    judged = [u.id for u in bank.units if "LINK-PROTOCOL" in codes({f"banks.{bank.id}.units.{u.id}.protocol": 99}, None, "d2-schoolhouse")]
    assert judged == [bank.units[0].id]


def test_inputs_that_cannot_be_set_so_are_told_of_each_inverter() -> None:
    found = [f.where for f in findings({"pv_mode": "parallel"}, None, "g01-cooperage") if f.code == "PV-MODE"]
    assert found == ["inputs", "inputs of inv-2"]


@pytest.mark.parametrize(
    ("box", "within"),
    [
        (Rect(0, 0, 100, 50), True),
        (Rect(10, 10, 80, 30), True),
        (Rect(-1, 10, 20, 20), False),
        (Rect(10, -1, 20, 20), False),
        (Rect(81, 10, 20, 20), False),
        (Rect(10, 31, 20, 20), False),
        (Rect(80, 30, 20, 20), True),
    ],
)
def test_a_box_lies_within_a_wall_up_to_its_edges(box: Rect, within: bool) -> None:
    assert box.inside(HERE) == within


@pytest.mark.parametrize(("insulation", "taken"), [(None, True), ("PVC", False), ("XLPE", True)])
def test_a_roof_cable_says_that_it_is_cross_linked(insulation: str | None, taken: bool) -> None:
    book = plan_of(name="d2-schoolhouse").house.job.rule_book
    assert books.book(book).strings.takes_insulation(insulation) == taken


@pytest.mark.parametrize("more", [0, 1])
def test_an_inverter_passes_a_main_as_large_as_itself(more: float) -> None:
    passes = shelf()["plover-6s"].pass_through_a  # type: ignore[union-attr]
    whole = next(s for s in compare_schools(plan_of({"site.service_main_a": passes + more})) if s.name == "whole house")
    assert any("a gateway or a smaller main" in need for need in whole.needs) == (more > 0)


def test_strings_of_a_layout_are_numbered_from_one_on_each_face() -> None:
    plan = plan_of()
    names = [str(row["id"]) for row in strings_of(plan, find_layouts(plan).best[0].lays)]
    assert names
    for letter in {name.rstrip("0123456789") for name in names}:
        own = [name for name in names if name.rstrip("0123456789") == letter]
        assert own == [f"{letter}{n}" for n in range(1, len(own) + 1)]


def test_the_fuse_of_a_second_bank_is_called_by_its_name() -> None:
    document = bank_each()
    fuses = [t["id"] for t in document["things"] if t["seat"] == "switch-fuse"]
    card = next(t["card"] for t in document["things"] if t["seat"] == "switch-fuse")
    weak = {**shelf(), card: shelf()[card].model_copy(update={"interrupting_a": 10})}
    found = [f.where for f in derive(Job.model_validate(document), weak).findings if f.code == "FUSE-INTERRUPT"]
    assert found == ["battery fuse", f"battery fuse {fuses[1]}"]


def test_a_torque_by_the_table_is_that_of_its_own_conductor() -> None:
    """Two inverters of one card whose terminals give no torque, one on a larger conductor: each landing opens its own working."""
    document, cards = demo_house("g01-cooperage").model_dump(mode="json"), dict(shelf())
    card = next(t["card"] for t in document["things"] if t["seat"] == "inverter")
    bare = cards[card].model_dump(mode="json")
    for terminal in (t for port in bare["ports"] for t in port["terminals"] if t["torque_nm"] is not None):
        terminal["torque_nm"], terminal["screw"] = None, "hex_head"
    cards[card] = parse_card(bare)
    next(run for run in document["runs"] if run["id"] == "grid-inv-2")["installed_size"] = "1/0 AWG"
    plan = derive(Job.model_validate(document), cards)
    landed = {t.id: t for t in plan.terminations}
    # Annex I, Table I.1, hex head: 110 lbf in at 6 AWG, 180 at 1/0 AWG.
    for end, lbf_in in (("inv-1.grid.l1.grid", 110), ("inv-2.grid.l1.grid-inv-2", 180)):
        torque = landed[end].torque
        assert torque is not None
        assert torque.value == pytest.approx(lbf_in * NM_PER_LBF_IN)
        assert plan.figures[torque.key] is torque


@pytest.mark.parametrize(("house", "level"), [("g01-cooperage", "caution"), ("g02-dairy", "stop")])
def test_a_recessed_hexagon_without_a_torque_is_known_by_trade_sizes_alone(house: str, level: str) -> None:
    document, cards = demo_house(house).model_dump(mode="json"), dict(shelf())
    card = next(t["card"] for t in document["things"] if t["seat"] == "inverter")
    bare = cards[card].model_dump(mode="json")
    for terminal in (t for port in bare["ports"] for t in port["terminals"] if t["torque_nm"] is not None):
        terminal["torque_nm"], terminal["screw"] = None, "socket 1/4"
    cards[card] = parse_card(bare)
    plan = derive(Job.model_validate(document), cards)
    assert {f.level for f in plan.findings if f.code == "TERM-FALLBACK"} == {level}
    known = [t.torque.value for t in plan.terminations if t.place.startswith("inv-") and t.torque is not None]
    # Annex I, Table I.2: 200 lbf in across a quarter of an inch.
    assert {round(nm, 3) for nm in known} == ({round(200 * NM_PER_LBF_IN, 3)} if level == "caution" else set())

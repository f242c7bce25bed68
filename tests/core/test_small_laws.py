"""Small laws beside the large ones: what only one house in many shows, each against a value worked by hand."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.errors import OutOfRange
from gumboot.core.figure import constant
from gumboot.core.job import Job
from gumboot.core.job.model import Load
from gumboot.core.ledger import Ledger
from gumboot.core.plan.derive import derive
from gumboot.core.plan.loads.hours import autonomy
from gumboot.core.plan.places import module_size, spots
from gumboot.core.plan.upkeep import chooses_cts
from gumboot.core.rulebook.common.bank import busbar_shares_a
from gumboot.core.rulebook.iec_family import photovoltaic as iec_pv
from gumboot.core.rulebook.iec_family.overcurrent import operating_current_a
from gumboot.core.rulebook.north_american.overcurrent import STANDARD_A, next_standard_a
from gumboot.core.sim.autonomy import Day, hours_of
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import strings_of
from gumboot.core.study.materials.cuts import entries_of
from gumboot.core.study.pick import what_may_start_together
from gumboot.core.study.year import place_of, store_of, study_year
from gumboot.core.study.year.series import face_yield_w, pv_series_w
from gumboot.core.study.year.store import rules_of
from tests.helpers import beside, codes, plan_of, roof, with_card

MODULE = shelf()["slate-410"]


@pytest.mark.parametrize(
    ("begins", "ends", "hours"), [(8, 17, {*range(8, 17)}), (22, 6, {22, 23, *range(6)}), (0, 24, {*range(24)}), (5, 5, {*range(24)})]
)
def test_the_hours_of_a_load(begins: int, ends: int, hours: set[int]) -> None:
    load = Load(id="x", title="X", running_w=100, surge_w=100, leg="L1", side="backed", from_hour=begins, to_hour=ends)
    assert set(hours_of(load)) == hours
    assert len(hours_of(load)) == len(hours)


def test_an_outage_that_begins_late_runs_on_into_the_next_day() -> None:
    profile = [100.0] * 6 + [200.0] * 18
    # From 23:00: 200 Wh to midnight, 600 Wh to six, then 200 W.
    assert Day(profile).hours_carried(23, 1_000) == pytest.approx(1 + 6 + 1)
    assert Day(profile).hours_carried(23, 150) == pytest.approx(0.75)
    # A day takes 4200 Wh.
    assert Day(profile).hours_carried(3, 4_200 * 2 + 250) == pytest.approx(48 + 2.5)


def test_an_empty_bank_carries_nothing_and_shows_the_demand_of_the_hour() -> None:
    ledger = Ledger.of(demo_house("d1-saltmarsh"), shelf())
    profile, hours = autonomy(ledger, ledger.house.backed, constant("E", "Energy", 0.0, "Wh", "physics"))
    assert [f.value for f in hours] == [0.0] * 24
    assert [ledger.figures[f"loads.mean.{hour}"].value for hour in range(24)] == list(profile)


@pytest.mark.parametrize("rating", STANDARD_A)
def test_a_standard_rating_is_its_own_next_and_a_hair_more_asks_for_another(rating: float) -> None:
    assert next_standard_a(rating) == rating
    larger = [r for r in STANDARD_A if r > rating]
    if larger:
        assert next_standard_a(rating + 0.001) == larger[0]


def test_a_fuse_between_four_and_sixteen_amperes_operates_at_one_point_nine() -> None:
    # IEC 60269-1, gG: 2.1 In up to 4 A, 1.9 In below 16 A, 1.6 In from there.
    wanted = {2: 2.1, 4: 2.1, 5: 1.9, 10: 1.9, 16: 1.6, 100: 1.6}
    assert {a: operating_current_a(a, "gG fuse") / a for a in wanted} == pytest.approx(wanted)


def test_a_terminal_is_asked_again_until_it_takes_the_conductor() -> None:
    wrong = {"runs.grid.installed_size": "2/0 AWG"}
    assert "TERM-RANGE" not in codes()
    for _ in range(2):
        found = [f for f in plan_of(wrong).findings if f.code == "TERM-RANGE"]
        assert "runs.grid.installed_size" in {f.field for f in found}
    assert "TERM-RANGE" not in codes()
    # Another card of the same name speaks for itself.
    ports = shelf()["plover-6s"].model_dump(mode="json")["ports"]
    strict = [{**p, "terminals": [{**t, "wire_classes": ["solid"]} for t in p["terminals"]]} if p["id"] == "GRID" else p for p in ports]
    assert "TERM-CLASS" in codes({}, with_card("plover-6s", {"ports": strict}))


def test_a_supply_of_another_kind_is_told_of_each_island() -> None:
    both, _ = beside("d1-saltmarsh", "g01-cooperage")
    both["site"]["supply"] = "three phase"
    found = [f.where for f in derive(Job.model_validate(both), shelf()).stops if f.code == "GRID-SUPPLY"]
    assert found == ["inverter", "inv-1-x"]
    alone = [f.where for f in plan_of({"site.supply": "three phase"}).stops if f.code == "GRID-SUPPLY"]
    assert alone == ["inverter"]


def two_walls(*moved: str) -> dict[str, Any]:
    """Saltmarsh Cottage with a second wall in a habitable room, some of its boxes there."""
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    wall = document["walls"][0]
    there = [p for p in wall["placements"] if p["id"] in moved]
    second = {**wall, "id": "hall", "title": "Hall", "room": "habitable room", "placements": there}
    wall["placements"] = [p for p in wall["placements"] if p["id"] not in moved]
    document["walls"] = [wall, second]
    return document


def test_a_habitable_room_is_no_matter_until_a_battery_stands_there() -> None:
    def stops(*moved: str) -> list[str]:
        return [f.field for f in derive(Job.model_validate(two_walls(*moved)), shelf()).stops if f.code == "PLACE-ROOM"]

    assert stops("sub-board") == []
    assert stops("sub-board", "bat-2") == ["walls.hall.room"]


def test_rows_that_leave_a_little_room_stand_in_its_middle() -> None:
    w, h = module_size(roof(), MODULE)  # type: ignore[arg-type]
    for left_over in (10.0, 30.0):
        face = roof(
            width_mm=3 * w + 2 * 20 + left_over, height_mm=h + 1, gap_mm=20, setback_side_mm=0, setback_eaves_mm=0, setback_ridge_mm=0
        )
        found = spots(face, MODULE)  # type: ignore[arg-type]
        assert [s.x for s in found] == pytest.approx([left_over / 2 + n * (w + 20) for n in range(3)])


def test_a_raceway_without_a_size_is_not_filled_and_not_judged() -> None:
    run = {"runs.grid.raceway": "EMT", "runs.grid.raceway_size": None}
    plan = plan_of(run)
    assert "circuits.grid.fill_pct" not in plan.figures
    assert not [f for f in plan.findings if f.code == "RACEWAY-FULL"]
    none = plan_of({"runs.grid.raceway": None, "runs.grid.raceway_size": "3/4"})
    assert "circuits.grid.fill_pct" not in none.figures


def test_a_start_that_takes_all_that_is_left_may_be_made() -> None:
    loads = demo_house("d1-saltmarsh").model_dump(mode="json")["loads"]
    plain = [{**load, "surge_w": load["running_w"]} for load in loads]
    spare = plan_of({"loads": plain}).loads
    room = spare.surge_limit.value - spare.running_total.value
    first = next(load for load in plain if load["leg"] == "L1+L2" and load["side"] == "backed")

    def largest(more: float) -> tuple[str, ...]:
        rows = [{**load, "surge_w": load["running_w"] + more} if load is first else load for load in plain]
        return what_may_start_together(plan_of({"loads": rows})).largest

    legs = min(spare.leg_surge_limit.value - p.value for p in spare.running.values())
    most = min(room, 2 * legs)
    assert largest(most) == (first["starts_with"] or first["id"],)
    assert largest(most + 1) == ()


def test_modules_that_are_asked_about_are_added_once() -> None:
    plan = plan_of()
    place, _ = place_of(plan.job)
    assert place is not None
    face = plan.job.faces[0].id
    before, after = pv_series_w(plan, place), pv_series_w(plan, place, {face: 1})
    one = face_yield_w(plan, place, face)
    # Where the inverter is not full, a module gives what it gives.
    free = after < after.max() - 1e-6
    assert (after - before)[free] == pytest.approx(one[free])
    assert (after - before)[free].sum() > 0


def test_a_layout_takes_two_cores_for_each_string() -> None:
    plan = plan_of()
    for layout in find_layouts(plan).best:
        assert layout.cores == 2 * len(strings_of(plan, layout.lays))


def test_what_holds_a_box_is_named_by_its_wall() -> None:
    def names(house: str) -> set[str]:
        return {f.name for f in plan_of(name=house).figures.values() if f.key.endswith(".n_all")}

    assert names("d1-saltmarsh") == {"Screws in timber"}
    assert names("d2-schoolhouse") == {"Anchors"}


def test_a_permit_beyond_the_inverter_is_no_stop_and_all_it_takes_is_set() -> None:
    def sheet(permit: float) -> tuple[float, str, bool]:
        plan = plan_of({"site.export_limit_w": permit})
        row = next(r for r in plan.settings.sheet if r.key == "export_w")
        assert row.figure is not None
        return row.figure.value, row.figure.key, "SET-RANGE" in {f.code for f in plan.stops}

    # The inverter takes 0 to 6000 W.
    assert sheet(6_000) == (6_000, "in.site.export_limit_w", False)
    assert sheet(6_001) == (6_000, "settings.export_w", False)
    assert sheet(25_000) == (6_000, "settings.export_w", False)
    higher = with_card("plover-6s", {"settings": [{"key": "export_w", "title": "Export", "unit": "W", "low": 500, "high": 6000}]})
    assert "SET-RANGE" in codes({"site.export_limit_w": 499}, higher)
    assert "SET-RANGE" not in codes({"site.export_limit_w": 500}, higher)


def test_cable_and_isolator_of_an_array_carry_every_string_that_feeds_them() -> None:
    # IEC 62548-1 Table 6 and 7.3: 1.25 Isc of what can feed it.
    assert iec_pv.conductor_current_a(10, 2) == pytest.approx(25)
    plan = plan_of(name="d2-schoolhouse")
    assert plan.strings is not None
    assert plan.seats.module is not None
    assert plan.strings.trackers
    for tracker in plan.strings.trackers:
        # The roof isolator is judged by this very current.
        assert tracker.maximum_a.value == pytest.approx(1.25 * plan.seats.module.isc_a * len(tracker.strings))


def test_what_is_lost_on_the_way_is_kept_off_every_hour() -> None:
    def yearly(lost: float) -> float:
        plan = plan_of({"preferences.pv_loss_pct": lost})
        place, _ = place_of(plan.job)
        assert place is not None
        return float(face_yield_w(plan, place, plan.job.faces[0].id).sum())

    assert yearly(20) == pytest.approx(0.8 * yearly(0))
    # Of 410 W at the module some 2 to 10 percent go in heat and conversion, the sun apart: never more than its rating arrives.
    plan = plan_of({"preferences.pv_loss_pct": 0})
    place, _ = place_of(plan.job)
    assert place is not None
    assert face_yield_w(plan, place, plan.job.faces[0].id).max() < 410 * 1.1


def test_an_outage_as_long_as_any_that_is_counted_is_carried_where_nothing_runs() -> None:
    loads = [{**x, "side": "house"} for x in demo_house("d1-saltmarsh").model_dump(mode="json")["loads"][1:]]
    little = {
        **demo_house("d1-saltmarsh").model_dump(mode="json")["loads"][0],
        "running_w": 1,
        "surge_w": 1,
        "duty": 0.01,
        "side": "backed",
    }
    quiet = with_card("plover-6s", {"idle_w": 1})
    plan = plan_of({"loads": [little, *loads], "settings.outage_hours": 240}, quiet)
    assert study_year(plan).figures["outage.share"].value == pytest.approx(100)


def test_cells_without_a_breaker_stay_live_behind_the_switch() -> None:
    def said(**card: Any) -> str:
        checks = {c.id: c for c in plan_of({}, with_card("cobble-5", card)).checks}
        return f"{checks['dead-dc'].title}: {checks['dead-dc'].why}"

    assert "stays live" not in said()
    assert said().startswith("DC busbars")
    assert "stays live" in said(breaker_a=None)
    assert said(breaker_a=None).startswith("Inverter BATTERY terminals")


def test_the_ends_of_a_link_between_inverters_are_closed_and_its_middle_is_not() -> None:
    for house in ("g01-cooperage", "g02-dairy"):
        for group in plan_of(name=house).links.groups:
            wanted = [u.wants_terminator for u in group.units]
            if any(wanted):
                assert wanted == [True, *[False] * (len(wanted) - 2), True]
                assert [u.leads for u in group.units] == [True, *[False] * (len(wanted) - 1)]


def test_shares_on_busbars_are_the_same_in_ohms_and_a_path_of_nothing_is_refused() -> None:
    # 6 and 3 mohm: a third and two thirds.
    assert busbar_shares_a(90.0, [0.002, 0.001], [0.004, 0.002]) == pytest.approx((30, 60))
    with pytest.raises(OutOfRange):
        busbar_shares_a(90.0, [0.0, 0.001], [0.0, 0.002])


def test_which_fields_lay_out_the_cts() -> None:
    job = demo_house("d1-saltmarsh")
    assert chooses_cts(job, f"sensing.meters.{job.sensing.meters[0].id}.card")
    assert chooses_cts(job, "things.inverter.card")
    assert not chooses_cts(job, "things.sub-board.card")
    assert not chooses_cts(job, "banks.bank.card")


def test_a_run_in_a_raceway_without_a_size_is_listed_with_glands() -> None:
    def listed(size: str | None) -> set[str]:
        return {item.item for item in entries_of(plan_of({"runs.backup.raceway": "EMT", "runs.backup.raceway_size": size}))}

    assert "EMT, 1 1/4" in listed("1 1/4")
    assert not any(item.startswith("EMT, None") or item == "EMT, " for item in listed(None))
    assert any(item.startswith("Gland for ") for item in listed(None))


@pytest.mark.parametrize(("mode", "held"), [("backup", 1.0), ("self-use", 0.65)])
def test_what_is_held_back_for_an_outage(mode: str, held: float) -> None:
    plan = plan_of({"settings.work_mode": mode, "settings.reserve_pct": 65})
    store = store_of(plan)
    assert rules_of(plan, store).reserve_wh == pytest.approx(store.capacity_wh * held)


def test_relays_that_are_told_off_leave_a_bond_only_where_the_neutral_stays_through() -> None:
    def stopped(opens: bool) -> bool:
        cards = with_card("plover-6p", {"parallel.bond": "told off", "island_opens_neutral": opens})
        return "PAR-BOND" in codes({}, cards, "g01-cooperage")

    assert stopped(True)
    assert not stopped(False)


def test_a_leg_is_called_heavier_only_where_there_are_two() -> None:
    assert plan_of().figures["circuits.backup.leg_a"].name == "Heavier leg of the backed-up side"
    one = plan_of(name="d3-lockkeeper").figures["circuits.backup.leg_a"].name
    assert one.startswith("Current of the backed-up side")


def test_a_layout_says_how_it_is_balanced_against_the_first() -> None:
    found = [
        find_layouts(plan_of(name=h), first=first) for h in ("d1-saltmarsh", "d2-schoolhouse") for first in ("yield", "margin", "wiring")
    ]
    seen = set()
    for best in (f.best for f in found):
        for x in best[1:]:
            for words, wanted in (("better balanced", x.spread < best[0].spread), ("less balanced", x.spread > best[0].spread)):
                assert (words in x.why) == wanted, x.why
                seen.add((words, wanted))
    assert len(seen) >= 3


def test_the_depth_that_a_maker_allows_is_kept() -> None:
    """Ten per cent is the battery's own stop: a depth of 90 % changes nothing, one of 60 % leaves 40 %."""
    same, less = (plan_of({}, with_card("cobble-5", {"depth_pct": depth})).figures["bank.usable"].value for depth in (90, 60))
    assert less == pytest.approx(same * 60 / 90)

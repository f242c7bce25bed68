"""What is said in words, and what happens where something is missing, alike or taken away."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.plan.survey import questions_of
from gumboot.core.plan.upkeep import without_battery
from gumboot.core.rulebook.iec_family import raceway as iec_raceway
from gumboot.core.sim.outage import need_for
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.sim.year import Store
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import series_mismatch, strings_of
from gumboot.core.study.layouts.finding import _are_twins
from tests.core.test_several_boards import mains
from tests.helpers import bank_each, beside, edited, plan_of, with_card


def test_a_battery_that_goes_takes_its_own_run_and_place_along_and_no_other() -> None:
    job = demo_house("d1-saltmarsh")
    less = without_battery(job, "bat-2")
    assert [r.id for r in less.runs] == [r.id for r in job.runs if r.id != "bat-2"]
    assert "bat-2" in {r.id for r in job.runs}
    assert [p.id for p in less.walls[0].placements] == [p.id for p in job.walls[0].placements if p.id != "bat-2"]


def test_what_a_display_may_say_of_the_bond() -> None:
    relay = {r.key: r for r in plan_of().settings.sheet}["bond"]
    assert (relay.text, relay.also) == ("on in island", ("yes", "enabled"))
    none = {r.key: r for r in plan_of(name="d2-schoolhouse").settings.sheet}["bond"]
    if plan_of(name="d2-schoolhouse").seats.inverter.neutral_bond != "relay":
        assert none.also == ()
    bare = {r.key: r for r in plan_of({}, with_card("plover-6s", {"neutral_bond": "none"})).settings.sheet}["bond"]
    assert (bare.text, bare.also) == ("none", ())


def test_who_commands_the_battery_is_said() -> None:
    closed = {r.key: r for r in plan_of().settings.sheet}["comms"]
    assert closed.why == "the BMS commands; the fallback voltages stand by"
    opened = {r.key: r for r in plan_of({"settings.comms": "open loop"}).settings.sheet}["comms"]
    assert opened.why == "voltages command: no link to the BMS"


def test_a_question_says_what_waits_for_it_and_which_wall_it_is_of() -> None:
    one = {q.path: q for q in questions_of(demo_house("d1-saltmarsh"))}
    assert one["site.record_low_c"].unlocks[:1].islower()
    assert one["walls.wall.width_mm"].text == "Width of the wall"
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["walls"].append({**document["walls"][0], "id": "attic", "title": "Attic", "placements": []})
    several = {q.path: q for q in questions_of(Job.model_validate(document))}
    assert several["walls.attic.width_mm"].text == "Width of the wall, Attic"
    waits = {q.path: q.unlocks for q in questions_of(demo_house("d1-saltmarsh"))}
    told = plan_of({"site.record_low_c": None}).gaps
    held = next(g.holds_up for g in told if g.path == "site.record_low_c")
    assert waits["site.record_low_c"] == held[:1].lower() + held[1:]


def labels_of(document: dict[str, Any]) -> dict[str, str]:
    return {x.place: x.text for x in derive(Job.model_validate(document), shelf()).labels}


def test_each_thing_carries_the_label_of_its_own_values() -> None:
    """Two banks of unlike voltage and current: no disconnect says what the other bank is."""
    two = labels_of(bank_each("g01-cooperage"))
    banks = {place: text for place, text in two.items() if place.startswith("Battery disconnect, ")}
    assert len(banks) == 2
    plan = derive(Job.model_validate(bank_each("g01-cooperage")), shelf())
    for bank, text in zip(plan.banks, banks.values(), strict=True):
        assert f"fault current {bank.supply.fault_a.value:.0f} A" in text
    other = labels_of(beside("d1-saltmarsh", "k07-ridge")[0])
    voltages = {text.split("Nominal voltage ")[1].split(" V")[0] for place, text in other.items() if place.startswith("Battery disconnect")}
    assert len(voltages) == 2
    assert len([place for place in other if place.startswith("Backed-up board, ")]) == 2


def test_labels_stand_on_each_board_that_a_source_feeds() -> None:
    behind = {place for place in labels_of(mains(behind=True)) if "reaker" in place}
    assert behind == {"Main board, inverter's breaker"}
    on_main = demo_house("d3-lockkeeper").model_dump(mode="json")
    next(t for t in on_main["things"] if t["seat"] == "pv-inverter")["feeds"] = "main-board"
    on_main["things"].append({"seat": "board", "duty": "main", "id": "annex", "card": "house-board-63", "fed_from": "main-board"})
    told = labels_of(on_main)
    # It feeds the main board, not the island: nothing holds it back by frequency, and no label says so.
    assert told["Main board, PV breaker"] == "PV INVERTER FEEDS THIS BOARD."
    assert "Backed-up board, PV breaker" not in told
    # No source gives back by way of the annex.
    assert "Main board" in told
    assert "Main board, annex" not in told
    next(t for t in on_main["things"] if t["seat"] == "pv-inverter")["feeds"] = "annex"
    assert {"Main board, main-board", "Main board, annex"} <= labels_of(on_main).keys()


def test_a_combining_panel_says_that_several_feed_it() -> None:
    for house in ("g01-cooperage", "g02-dairy"):
        assert "Combining panel" in labels_of(demo_house(house).model_dump(mode="json"))
    assert "Combining panel" not in labels_of(demo_house("d1-saltmarsh").model_dump(mode="json"))


def test_labels_print_the_figures_they_name_and_no_other() -> None:
    for label in plan_of().labels:
        assert len({f.key for f in label.figures}) == len(label.figures)
        for figure in label.figures:
            assert f"{figure.value:.0f}" in label.text or f"{figure.value:g}" in label.text
    assert any(label.figures for label in plan_of().labels)


def test_what_must_be_stored_for_an_outage_grows_by_what_each_dark_hour_takes() -> None:
    store = Store(1_000, 100, 500, 500, 0.9, 0.8)
    dark = need_for(np.zeros(24), np.full(24, 80.0), store, 3)
    # 80 W at the house are 100 Wh an hour at the cells.
    assert dark.tolist() == [pytest.approx(300)] * 24
    long = need_for(np.zeros(24), np.full(24, 80.0), store, 12)
    # More than the 900 Wh that the bank spans: the need goes on growing.
    assert long.tolist() == [pytest.approx(1_200)] * 24
    sun = np.zeros(24)
    sun[5] = 280.0
    lit = need_for(sun, np.full(24, 80.0), store, 3)
    # From 5 h: 200 W spare bring 180 Wh, which the two dark hours after it need 200 of.
    assert lit[5] == pytest.approx(20)
    assert lit[4] == pytest.approx(100)
    assert lit[3] == pytest.approx(200)
    # Before the sun beyond the span nothing is made up by it.
    after = need_for(sun, np.full(24, 80.0), store, 12)
    assert after[5] == pytest.approx(1_100)


def test_twins_have_the_same_inputs_and_the_same_power() -> None:
    plain = shelf()["plover-6p"]
    other = with_card("plover-6p", {"pv_max_w": 9_999})["plover-6p"]
    fewer = plain.model_copy(update={"trackers": plain.trackers[:1]})  # type: ignore[union-attr]
    assert _are_twins(plain, plain, {})  # type: ignore[arg-type]
    assert not _are_twins(plain, other, {})  # type: ignore[arg-type]
    assert not _are_twins(plain, fewer, {})  # type: ignore[arg-type]
    assert not _are_twins(fewer, plain, {})  # type: ignore[arg-type]


def test_strings_are_called_by_their_face() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    plan = derive(Job.model_validate(document), shelf())
    rows = strings_of(plan, find_layouts(plan, shown=1).best[0].lays)
    assert {str(row["id"])[0] for row in rows} == {face.id[0].upper() for face in plan.job.faces}
    assert [row["label_top"] for row in rows] == [row["id"] for row in rows] == [row["label_bottom"] for row in rows]


def test_what_unlike_faces_in_one_string_would_lose_needs_two_faces_and_a_place() -> None:
    assert series_mismatch(plan_of()) is not None
    assert series_mismatch(derive(edited({"site.latitude_deg": None}), shelf())) is None
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["faces"] = document["faces"][:1]
    document["strings"] = [s for s in document["strings"] if s["face"] == document["faces"][0]["id"]]
    assert series_mismatch(derive(Job.model_validate(document), shelf())) is None


def test_mains_of_one_inverter_are_not_compared() -> None:
    keys = [key for key in plan_of().figures if key.startswith("group.mains_apart")]
    assert keys == []
    several = plan_of(name="g01-cooperage")
    assert [key for key in several.figures if key.startswith("group.mains_apart")] == ["group.mains_apart.bank"]


def test_a_layout_says_by_how_much_its_margin_differs() -> None:
    best = find_layouts(plan_of(), shown=8).best
    for x in best[1:]:
        more, less = x.margin_v > best[0].margin_v + 0.5, x.margin_v < best[0].margin_v - 0.5
        assert ("V more margin" in x.why) is more
        assert ("V less margin" in x.why) is less
        lost = x.kwh is not None and best[0].kwh is not None and round(best[0].kwh - x.kwh) > 0
        assert ("kWh less a year" in x.why) is lost


@pytest.mark.parametrize(
    ("house", "see"),
    [
        ("d1-saltmarsh", "120 / 120 / 240 V at the LOAD terminals."),
        ("k02-weaver", "230 V at the LOAD terminals."),
        ("d2-schoolhouse", "230 V to neutral and 400 V between lines."),
    ],
)
def test_what_a_meter_shows_at_the_island(house: str, see: str) -> None:
    step = next(s for s in plan_of(name=house).power_up.steps if s.id == "island-volts")
    assert step.see == see


def test_a_battery_without_a_switch_of_its_own_is_not_opened_under_load() -> None:
    line = plan_of(name="k02-weaver").power_up.line
    battery = next(s.id for s in line.switches if s.part == "battery")
    on = [battery, "inverter"]
    refused = rehearse(line, [*on, battery]).outcomes[-1]
    assert (refused.allowed, "under load" in refused.text) == (False, True)
    assert rehearse(line, [*on, "inverter", battery]).outcomes[-1].allowed
    # What is no battery opens while the inverter is on.
    assert rehearse(line, [*on, "sub-main", "sub-main"]).outcomes[-1].allowed


def test_a_threshold_says_whose_choice_it_is() -> None:
    rows = {r.key: r for r in plan_of({"settings.absorb_v": 56.0}).settings.sheet}
    assert (rows["absorb_v"].amount.value, rows["absorb_v"].amount.source) == (56.0, "input:settings.absorb_v")
    assert rows["absorb_v"].why == "chosen by this job; used when the battery stops talking"
    assert rows["float_v"].why == "the battery card's open-loop value; used when the battery stops talking"
    assert rows["float_v"].amount.value == shelf()["cobble-5"].open_loop.float_v  # type: ignore[union-attr]


def test_what_several_batteries_give_together_is_called_so() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    document["banks"][0]["units"] = document["banks"][0]["units"][:1]
    one, several = derive(Job.model_validate(document), shelf()).banks[0].supply, plan_of().banks[0].supply
    assert (one.bms_a.name, one.bms_a.limits) == ("Discharge limit of the bank", "")
    assert several.bms_a.name == "BMS limits together"
    assert "equal leads" in several.bms_a.limits
    assert (one.fault_a.name, several.fault_a.name) == ("Fault current at the bank's terminals", "Fault current at the busbars")
    assert several.bms_a.value == 3 * one.bms_a.value


def test_conduits_bend_and_fill() -> None:
    assert iec_raceway.bend_radius_mm(25.0) == 62.5
    assert iec_raceway.space_factor(trunking=True) == 0.45
    assert iec_raceway.space_factor(trunking=False) == 0.40

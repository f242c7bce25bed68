"""A house whose inverters feed apart has a set of CTs for each part: planned, judged, tested and drawn each by itself."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest

from gumboot.catalogue import shelf
from gumboot.core.card import InverterCard, Shelf
from gumboot.core.job import Job, write_path
from gumboot.core.job.fitting import another, fit
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.settings import supply_of
from gumboot.core.plan.upkeep import completed
from gumboot.core.record import AnyRecord
from gumboot.core.standing import stand
from gumboot.drawing.sensing import ct_drawing
from gumboot.drawing.single_line import single_line
from tests import helpers
from tests.core.test_standing import NOW, everything, record
from tests.helpers import beside


def plan_of(document: dict[str, Any]) -> Plan:
    return derive(Job.model_validate(document), shelf())


def two() -> dict[str, Any]:
    """Two split-phase systems of one service, each with its set."""
    document = beside("d1-saltmarsh", "g01-cooperage", cts=True)[0]
    document["site"] |= {"busbar_a": 200.0}
    return document


def by_phase(second: str = "L2") -> dict[str, Any]:
    """Two single-phase systems on two phases of one supply, each with a single CT."""
    document = beside("k03-tollhouse", "k11-millhouse", cts=True)[0]
    document["site"]["supply"] = "three phase"
    for thing in document["things"]:
        if thing["seat"] == "inverter":
            thing["phase"] = second if thing["id"] == "inverter-x" else "L1"
    for load in document["loads"]:
        if load["board"].endswith("-x"):
            load["leg"] = second
    document["sensing"]["meters"][1]["cts"][0]["leg"] = second
    return document


def codes(plan: Plan, *of: str) -> list[tuple[str, str]]:
    return [(f.code, f.where) for f in plan.findings if f.code in of]


def test_each_part_has_its_own_set() -> None:
    plan = plan_of(two())
    assert [(s.meter, s.inverter, s.mark, s.test) for s in plan.sensing.sets] == [
        ("meter", "inverter", "", "ct-test"),
        ("meter-x", "inv-1-x", "-inv-1-x", "ct-test-inv-1-x"),
    ]
    assert [ct.expected.key for ct in plan.sensing.cts] == [
        "sensing.CT1.expected",
        "sensing.CT2.expected",
        "sensing.CT1.expected.of_inv-1-x",
        "sensing.CT2.expected.of_inv-1-x",
    ]
    assert [[ct.place.channel for ct in island.sensing.cts] for island in plan.islands] == [["CT1", "CT2"]] * 2
    assert [island.sensing.sets[0].inverter for island in plan.islands] == ["inverter", "inv-1-x"]
    # One set reads for each part; neither part is blind, and the permit is held by both.
    assert codes(plan, "PAR-METER", "CT-NONE", "GRID-EXPORT", "CT-LEG") == []


def test_two_that_see_the_same_conductors_are_told() -> None:
    found = next(f for f in plan_of(two()).findings if f.code == "CT-SHARED")
    assert (found.level, found.where, found.field) == ("caution", "Inverter 1", "sensing.meters")
    assert "inverter and Inverter 1 both read L1 and L2" in found.text
    assert codes(plan_of(by_phase()), "CT-SHARED") == []
    assert codes(plan_of(by_phase("L1")), "CT-SHARED") == [("CT-SHARED", "inverter-x")]


@pytest.mark.parametrize(
    ("path", "value", "code"),
    [
        ("sensing.meters.meter-x.cts.CT1.leg", "L2", "CT-LEG"),
        ("sensing.meters.meter-x.cts.CT2.arrow", "toward grid", "CT-ARROW"),
        ("sensing.meters.meter-x.cts.CT2.side", "inverter side", "CT-SIDE"),
    ],
)
def test_a_core_of_the_second_set_is_judged_and_named(path: str, value: str, code: str) -> None:
    plan = plan_of(write_path(two(), path, value))
    found = next(f for f in plan.stops if f.code == code)
    assert found.field == path
    assert found.where == f"{path.split('.')[4]} of Inverter 1"


def test_what_the_second_set_leaves_open_is_asked() -> None:
    document = two()
    document["sensing"]["meters"][1]["card"] = None
    plan = plan_of(document)
    gap = next(g for g in plan.gaps if g.path == "sensing.meters.meter-x.card")
    assert gap.question == "Which current transformers are fitted, Inverter 1?"
    assert [s.inverter for s in plan.sensing.sets] == ["inverter"]
    document = two()
    del document["sensing"]["meters"][1]["cts"][1]
    assert [(g.path, g.question) for g in plan_of(document).gaps if g.station == "sensing"] == [
        ("sensing.meters.meter-x.cts", "Where does CT2 sit, Inverter 1?")
    ]


def test_a_part_without_a_set_is_blind() -> None:
    document = two()
    del document["sensing"]["meters"][1]
    plan = plan_of(document)
    assert codes(plan, "CT-NONE", "GRID-EXPORT") == [("GRID-EXPORT", "grid"), ("CT-NONE", "Inverter 1")]
    # The first part's set may be the one that is missing.
    document = two()
    del document["sensing"]["meters"][0]
    plan = plan_of(document)
    assert codes(plan, "CT-NONE", "PAR-METER") == [("CT-NONE", "inverter")]
    assert [s.inverter for s in plan.sensing.sets] == ["inv-1-x"]
    assert "inverter has no CTs to hold a limit by" in next(f.text for f in plan.stops if f.code == "GRID-EXPORT")


@pytest.mark.parametrize(("reader", "where", "leader"), [("inv-2-x", "inv-2-x", "inv-1-x"), ("nobody", "nobody", "inverter")])
def test_a_set_belongs_to_the_leader_of_its_part(reader: str, where: str, leader: str) -> None:
    document = two()
    document["sensing"]["meters"][1]["inverter"] = reader
    found = next(f for f in plan_of(document).stops if f.code == "PAR-METER")
    assert found.where == where
    assert f"{leader} leads the group" in found.text


def test_two_sets_in_one_part_are_a_stop() -> None:
    document = two()
    document["sensing"]["meters"].append({**document["sensing"]["meters"][1], "id": "meter-y", "inverter": "inv-2-x"})
    found = next(f for f in plan_of(document).stops if f.code == "PAR-METER")
    assert "CTs are wired to inv-1-x, inv-2-x; inv-1-x leads" in found.text


def test_a_single_core_follows_the_phase_of_its_unit() -> None:
    plan = plan_of(by_phase())
    assert [(ct.wanted_leg, ct.expected.value) for ct in plan.sensing.cts] == [("L1", 1500), ("L2", 600)]
    assert [s.flow for s in plan.sensing.sets] == ["three phase", "three phase"]
    wrong = by_phase()
    wrong["sensing"]["meters"][1]["cts"][0]["leg"] = "L1"
    assert codes(plan_of(wrong), "CT-LEG") == [("CT-LEG", "CT1 of inverter-x")]


def test_each_holds_its_share_where_its_cores_see_its_own_lines_alone() -> None:
    plan = plan_of(by_phase())
    rows = {r.key: r for r in plan.settings.sheet if r.key.startswith("export_w")}
    watts = [i.card.output_w for i in plan.seats.inverters]
    # What the network permits, shared by output: together it is no more.
    assert [r.figure and r.figure.value for r in rows.values()] == [pytest.approx(5000 * w / sum(watts)) for w in watts]
    assert all("its share" in r.why for r in rows.values())
    assert "At the network's meter" in next(c.why for c in plan.live_checks if c.id == "export")
    both = plan_of(by_phase("L1"))
    assert [r.figure and r.figure.value for r in both.settings.sheet if r.key.startswith("export_w")] == [5000, 5000]


def test_a_share_that_an_inverter_cannot_be_set_to_is_a_stop() -> None:
    document = by_phase()
    least = min(f.figure.value for f in plan_of(document).settings.sheet if f.key.startswith("export_w") and f.figure)
    for low, stopped in ((least, False), (least + 0.1, True)):
        cards = {**shelf()}
        for name in {t["card"] for t in document["things"] if t["seat"] == "inverter"}:
            card = cards[name]
            assert isinstance(card, InverterCard)
            told = [row.model_copy(update={"low": low}) if row.key == "export_w" else row for row in card.settings]
            cards[name] = card.model_copy(update={"settings": told})
        assert ("GRID-EXPORT" in {f.code for f in derive(Job.model_validate(document), cards).stops}) is stopped


def without(records: list[AnyRecord], *subjects: str) -> list[AnyRecord]:
    return [r for r in records if r.name not in subjects]


def test_the_test_of_every_set_comes_before_pv_and_export() -> None:
    plan = plan_of(two())
    done = everything(plan)
    held = stand(plan, done, NOW).step_holds
    assert [words for step in held.values() for words in step if "meter test" in words] == []
    held = stand(plan, without(done, "ct-test-inv-1-x"), NOW).step_holds
    told = {step for step, words in held.items() if "the meter test of Inverter 1 with PV off is not recorded" in words}
    assert told == {s.id for s in plan.power_up.steps if s.id == "export" or s.id.startswith("pv-switch")}
    assert "export" in told
    first = stand(plan, without(done, "ct-test"), NOW)
    assert "the meter test of inverter with PV off is not recorded" in first.step_holds["export"]
    assert "2 of 4 CTs proved open" in first.missing


def test_a_set_is_judged_by_its_own_test_alone() -> None:
    plan = plan_of(two())
    crossed = {"before": {"CT1": 0.0, "CT2": 0.0}, "readings": {"CT1": -600.0, "CT2": -1500.0}, "test_l1_w": 1500, "test_l2_w": 600}
    standing = stand(plan, [*everything(plan), record("ct", "ct-test-inv-1-x", crossed)], NOW)
    assert {test: verdict.right for test, verdict in standing.meters.items()} == {"ct-test": True, "ct-test-inv-1-x": False}
    assert any(words.startswith("meter test of Inverter 1: CT1 sits on L2") for words in standing.step_holds["export"])


@pytest.mark.parametrize(
    ("loads", "shown", "verdict"),
    [
        ({"test_l1_w": 0, "test_l2_w": 600, "test_l3_w": 0}, 600.0, "right"),
        ({"test_l1_w": 0, "test_l2_w": 600, "test_l3_w": 0}, -600.0, "reversed"),
        # On another phase nothing of the load is seen: which one cannot be told.
        ({"test_l1_w": 0, "test_l2_w": 600, "test_l3_w": 0}, 0.0, "cannot tell"),
        # Loads on a line that the test does not ask about do not count.
        ({"test_l1_w": 1500, "test_l2_w": 600, "test_l3_w": 1000}, 600.0, "right"),
    ],
)
def test_a_core_on_the_second_phase_is_told_apart(loads: dict[str, float], shown: float, verdict: str) -> None:
    plan = plan_of(by_phase())
    said = stand(plan, [record("ct", "ct-test-inverter-x", {"before": {"CT1": 0.0}, "readings": {"CT1": shown}, **loads})], NOW)
    assert [v.verdict for v in said.meters["ct-test-inverter-x"].channels] == [verdict]


def test_a_line_with_a_core_is_tested_even_where_no_inverter_makes_it() -> None:
    plan = helpers.plan_of({"things.inv-l3.phase": "L2"}, None, "g02-dairy")
    assert plan.house.legs == ("L1", "L2")
    assert plan.sensing.sets[0].legs == ("L1", "L2", "L3")
    assert stand(plan, everything(plan), NOW).meters["ct-test"].right


def test_a_test_waits_for_its_own_grid_breaker() -> None:
    plan = plan_of(two())
    done = everything(plan)
    # The plan has a stop, for which both wait whatever was done.
    waiting = stand(plan, done, NOW).waiting
    assert {waiting[test] for test in ("ct-test", "ct-test-inv-1-x")} == {"The plan has no stop"}
    waiting = stand(plan, without(done, "grid-breaker-inv-1-x"), NOW).waiting
    assert waiting["ct-test"] == "The plan has no stop"
    assert waiting["ct-test-inv-1-x"] == "Close the grid breaker of Inverter 1"


def test_a_part_that_the_network_does_not_reach_wants_no_set() -> None:
    plan = plan_of(beside("d1-saltmarsh", "d4-lookout")[0])
    assert [s.inverter for s in plan.sensing.sets] == ["inverter"]
    assert codes(plan, "CT-NONE") == []


def test_each_sheet_and_each_picture_shows_its_own_cores() -> None:
    plan = plan_of(two())
    assert "Current transformers of Inverter 1 on" in str(ct_drawing(plan, "-inv-1-x"))
    assert 'data-figure="sensing.CT1.expected.of_inv-1-x"' in str(ct_drawing(plan, "-inv-1-x"))
    assert 'data-figure="sensing.CT1.expected"' in str(ct_drawing(plan))
    assert str(ct_drawing(plan, "-nobody")) == ""
    whole = str(single_line(plan))
    for key in ("sensing.CT1.expected", "sensing.CT2.expected.of_inv-1-x"):
        assert f'data-figure="{key}"' in whole


def test_an_inverter_with_a_board_of_its_own_brings_a_set_and_takes_it_along() -> None:
    document = plan_of(beside("d1-saltmarsh", "d4-lookout")[0]).job.model_dump(mode="json")
    new = another(document, "inverter", own="board")
    plan = derive(completed(Job.model_validate(document), shelf()), shelf())
    assert [(s.meter, s.inverter) for s in plan.sensing.sets] == [("meter", "inverter"), ("meter-2", new)]
    fit(document, new, None)
    assert [m["inverter"] for m in document["sensing"]["meters"]] == ["inverter"]
    # In one group there is one set.
    another(document, "inverter")
    assert len(document["sensing"]["meters"]) == 1


def rewired() -> Iterator[tuple[str, Any]]:
    yield "sensing.meters.meter.inverter", "inv-1-x"
    yield "sensing.meters.meter-x.inverter", "inverter"
    yield "sensing.meters.meter-x.inverter", "inv-1-x"
    yield "sensing.meters.meter.inverter", "inverter"
    yield "sensing.meters.meter-x.card", None
    yield "sensing.meters.meter-x.cts", []
    yield "site.supply", "none"


def test_each_edit_of_a_set_is_planned_as_from_nothing() -> None:
    document = two()
    plan = derive(Job.model_validate(document), shelf(), noted=True)
    for path, value in rewired():
        document = write_path(document, path, value)
        job = Job.model_validate(document)
        plan, fresh = derive(job, shelf(), plan), derive(job, shelf())
        assert plan.sensing == fresh.sensing, path
        assert (plan.findings, plan.gaps, plan.power_up, plan.settings) == (fresh.findings, fresh.gaps, fresh.power_up, fresh.settings), (
            path
        )


def test_parts_on_two_phases_make_no_split_phase_between_them() -> None:
    plan = plan_of(by_phase())
    assert (plan.house.output, plan.house.legs) == ("single phase", ("L1", "L2"))
    assert [island.house.output for island in plan.islands] == ["single phase", "single phase"]
    assert supply_of(plan.house) == "single phase 230 V"
    mixed = plan_of(beside("d2-schoolhouse", "k02-weaver")[0])
    assert supply_of(mixed.house) == "three phase 230/400 V and single phase 230 V"


def unbalanced(edits: dict[str, Any], cards: Shelf) -> float | None:
    """What two single-phase parts leave between three phases, A; None where it is within the 20 A of the book."""
    document = by_phase(edits.pop("second", "L2"))
    next(t for t in document["things"] if t["id"] == "inverter").update(edits)
    found = next((f for f in derive(Job.model_validate(document), cards).findings if f.code == "GRID-IMBALANCE"), None)
    return found.found.value if found and found.found else None


def test_phases_are_compared_over_all_parts() -> None:
    # A third phase has nothing: the fullest stands alone against it.
    assert unbalanced({"second": "L2"}, shelf()) == 21.7
    assert unbalanced({"second": "L1"}, shelf()) == pytest.approx(43.4)


@pytest.mark.parametrize(("amps", "apart"), [(20.0, None), (20.1, 20.1)])
def test_a_part_on_one_phase_beside_one_on_three_unbalances_by_itself(amps: float, apart: float | None) -> None:
    cards = {**shelf()}
    own = cards["wader-5"]
    assert isinstance(own, InverterCard)
    cards["wader-5"] = own.model_copy(update={"output_current_a": amps})
    document = beside("d2-schoolhouse", "k02-weaver")[0] | {"rule_book": "iec-60364"}
    plan = derive(Job.model_validate(document), cards)
    found = next((f for f in plan.findings if f.code == "GRID-IMBALANCE"), None)
    assert (found.found.value if found and found.found else None) == (apart and pytest.approx(apart))
    whole = plan.seats.inverters[0].card.output_current_a
    assert plan.figures["grid.phases_apart"].value == pytest.approx(whole + amps - whole)

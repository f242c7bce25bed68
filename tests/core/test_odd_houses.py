"""Houses that nobody would build, and any that somebody might: each is planned or refused by name, drawn and listed, and says what it is not."""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

import pytest
from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job
from gumboot.core.job.fitting import another
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.upkeep import completed
from gumboot.drawing import bank, links, sensing, settings, single_line, wall
from tests.kept import HOUSES, told

Document = dict[str, Any]


def inverters(d: Document) -> list[Document]:
    return [t for t in d["things"] if t["seat"] == "inverter"]


def two(d: Document) -> None:
    another(d, inverters(d)[0]["id"])


def three_by_phase(d: Document) -> None:
    two(d)
    two(d)
    for n, unit in enumerate(inverters(d)[:3], 1):
        unit["phase"] = f"L{n}"


def a_bank_each(d: Document) -> None:
    two(d)
    own = copy.deepcopy(d["banks"][0])
    d["banks"].append({**own, "id": "second", "units": [{**u, "id": f"{u['id']}-x"} for u in own["units"]]})
    inverters(d)[-1]["bank"] = "second"


def other_names(d: Document) -> None:
    """Names of the job's own, some of them those of circuits and stations."""
    old = d["banks"][0]["id"]
    d["walls"][0]["id"], d["banks"][0]["id"], d["sensing"]["meters"][0]["id"] = "grid", "backup", "m-1"
    for thing in d["things"]:
        if thing.get("bank") == old:
            thing["bank"] = "backup"


def all_on_another_wall(d: Document) -> None:
    first = d["walls"][0]
    d["walls"].append({**copy.deepcopy(first), "id": "attic", "title": "Wall of O'Brien's \"attic\" <2>"})
    first["placements"] = []


def everything_stays(d: Document) -> None:
    for thing in d["things"]:
        thing["stays"] = True


def two_backed_up_boards(d: Document) -> None:
    board = next(t for t in d["things"] if t["seat"] == "board" and t["duty"] == "backed-up")
    d["things"].append({**board, "id": "other-board"})


CHANGES = (two, three_by_phase, a_bank_each, other_names, all_on_another_wall, everything_stays, two_backed_up_boards)


def plan_of(name: str, change: Callable[[Document], None]) -> Plan | None:
    """The plan of a changed house; None where it is refused by name."""
    document = demo_house(name).model_dump(mode="json")
    change(document)
    try:
        return derive(completed(Job.model_validate(document), shelf()), shelf())
    except (ValidationError, GumbootError):
        return None


@pytest.mark.parametrize("name", HOUSES)
@pytest.mark.parametrize("change", CHANGES, ids=lambda c: c.__name__)
def test_an_odd_house_is_drawn_and_listed_or_refused(name: str, change: Callable[[Document], None]) -> None:
    plan = plan_of(name, change)
    if plan is None:
        return
    assert list(told(plan))
    for drawing in (wall.elevation(plan, "US"), bank.bank_drawing(plan), links.bus_drawing(plan), sensing.ct_drawing(plan)):
        assert "<2>" not in str(drawing)
    assert settings.charge_ruler(plan) is not None
    words = " ".join(shape.words for shape in single_line.canvas(plan).shapes)
    if len(plan.seats.inverters) > 1:
        seats = plan.seats
        assert ("Gateway" in words or "Transfer switch" in words) is bool(seats.transfers)
        assert ("G" in words.split()) is bool([g for g in seats.generators if any(c.owner == g.id for c in plan.circuits.all)])


@pytest.mark.parametrize("name", ["d1-saltmarsh", "k07-ridge", "d4-lookout", "d3-lockkeeper"])
def test_what_cannot_be_vouched_for_is_a_stop(name: str) -> None:
    assert {"PAR-COUNT", "PAR-PANEL"} <= {f.code for f in (plan_of(name, two) or pytest.fail("refused")).stops}
    assert "BOARD-UNFED" in {f.code for f in (plan_of(name, two_backed_up_boards) or pytest.fail("refused")).stops}


def test_names_of_the_jobs_own_change_no_finding() -> None:
    plain, named = plan_of("d1-saltmarsh", lambda _: None), plan_of("d1-saltmarsh", other_names)
    assert plain is not None
    assert named is not None
    assert [(f.code, f.where) for f in named.findings] == [(f.code, f.where) for f in plain.findings]
    assert named.gaps == ()


def thing(d: Document, seat: str) -> Document:
    return next(t for t in d["things"] if t["seat"] == seat)


def test_two_pv_inverters_are_counted_together_and_each_is_judged() -> None:
    def second(d: Document) -> None:
        d["things"].append({**thing(d, "pv-inverter"), "id": "garage-pv"})

    one, two_of_them = plan_of("d3-lockkeeper", lambda _: None), plan_of("d3-lockkeeper", second)
    assert one is not None
    assert two_of_them is not None
    power = one.seats.pv_inverters[0].card.output_w
    ratio = next(f for f in two_of_them.findings if f.code == "PV-RATIO")
    assert ratio.found is not None
    assert ratio.found.value == 2 * power
    assert "PV-RATIO" not in {f.code for f in one.findings}
    bar, one_bar = two_of_them.figures["circuits.sub_board_sum"].value, one.figures["circuits.sub_board_sum"].value
    assert bar - one_bar == pytest.approx(one.seats.pv_inverters[0].card.output_current_a)
    assert {"pv-ac", "pv-ac-garage-pv"} <= {c.id for c in two_of_them.circuits.all}
    assert {"coupling.silent_hz", "coupling.silent_hz.garage-pv"} <= two_of_them.figures.keys()
    words = " ".join(shape.words for shape in single_line.canvas(two_of_them).shapes)
    assert "to backed-up board A" in words


def test_pv_that_stands_on_the_main_board_is_no_part_of_the_island() -> None:
    def on_main(d: Document) -> None:
        board = next(t for t in d["things"] if t["seat"] == "board" and t["duty"] == "main")
        thing(d, "pv-inverter").update(feeds=board["id"], stays=True)

    plan = plan_of("d3-lockkeeper", on_main)
    assert plan is not None
    assert plan.stops == ()
    assert not any(key.startswith("coupling.") for key in plan.figures)
    ends = {end.place for core in plan.house.by_id["pv-ac"].cores for end in core.ends}
    assert ends == {"pv-inverter", "main-board"}
    # The network still sees both: its notice counts every source.
    assert plan.figures["circuits.sources_a"].value == pytest.approx(
        plan.seats.inverter.output_current_a + plan.seats.pv_inverters[0].card.output_current_a
    )
    words = " ".join(shape.words for shape in single_line.canvas(plan).shapes)
    assert "to main board A" in words


@pytest.mark.parametrize("name", ["d1-saltmarsh", "k05-homestead", "k13-printworks", "k11-millhouse"])
def test_a_bank_may_be_called_as_an_inverter_and_a_battery_as_a_check(name: str) -> None:
    def called(d: Document) -> None:
        own = d["banks"][0]
        lead, old = inverters(d)[0], own["units"][0]["id"]
        d["banks"] = [{**own, "id": lead["id"]}]
        own["units"][0]["id"] = "spread"
        for place in (p for hung in d["walls"] for p in hung["placements"]):
            place["id"] = "spread" if place["id"] == old else place["id"]
        for run in d["runs"]:
            run["id"] = "spread" if run["id"] == old else run["id"]
        for thing_ in d["things"]:
            if "bank" in thing_:
                thing_["bank"] = lead["id"]

    plain, plan = plan_of(name, lambda _: None), plan_of(name, called)
    assert plain is not None
    assert plan is not None
    assert sorted(f.code for f in plan.findings) == sorted(f.code for f in plain.findings)
    assert plan.gaps == ()
    checks = [check.id for check in plan.all_checks()]
    assert len(checks) == len(set(checks)) == len(plain.all_checks())


def test_a_generator_without_an_input_for_it_is_a_stop_and_the_plan_stands() -> None:
    def beside(d: Document) -> None:
        d["things"].append({"seat": "generator", "id": "hired", "card": "donkey-6", "feeds": inverters(d)[-1]["id"]})

    plan = plan_of("d1-saltmarsh", beside)
    assert plan is not None
    found = next(f for f in plan.stops if f.code == "GEN-PORT")
    assert found.field == "things.hired.card"
    assert not any(c.kind == "generator" for c in plan.circuits.all)


def test_the_diagram_of_several_inverters_draws_generator_and_pv_inverter() -> None:
    def more(d: Document) -> None:
        lead = thing(d, "inverter")
        d["things"] += [
            {**lead, "id": "inv-2", "address": 2},
            {**thing(d, "switch-fuse"), "id": "sf-2", "inverter": "inv-2"},
            {"seat": "board", "id": "panel", "duty": "combining", "card": "weir-63c", "feeds": "sub-board"},
            {"seat": "generator", "id": "gen", "card": "donkey-6", "feeds": "inv-2"},
            {"seat": "pv-inverter", "id": "barn", "card": "rush-3k6", "feeds": "sub-board", "title": "Barn inverter"},
        ]
        for inverter in inverters(d):
            inverter["feeds"] = "panel"

    plan = plan_of("k12-orchard-flat", more)
    assert plan is not None
    drawn = single_line.canvas(plan)
    words = [shape.words for shape in drawn.shapes]
    assert {"G", "Barn inverter"} <= set(words)
    assert not any("Not drawn" in said for said in words)
    numbers = {said for said in words if said.isdigit()}
    assert {str(n) for n in range(1, len(plan.circuits.all) + 1)} <= numbers

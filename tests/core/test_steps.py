"""The derivation step by step: what the table says is what the steps do, and an edit gives what a derivation from nothing gives."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator
from functools import cache
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.errors import BadFigure, GumbootError
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.job.patch import leaves, write_path
from gumboot.core.ledger import Ledger, Made
from gumboot.core.plan import engine
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.engine import figures_of
from gumboot.core.plan.parts import Parts
from gumboot.core.plan.steps import STEPS, Step
from gumboot.core.seating import seats_of
from gumboot.core.seats import Seat
from gumboot.core.tracking import followed, noting, touches, tracked
from gumboot.core.values import Values
from tests.helpers import GOOD, bank_each, beside, edited

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
# Beside the demo houses: a bank for each of two inverters, and a face with modules of its own.
MADE = {
    "two-banks": bank_each(),
    "two-modules": edited({"faces.west.module": "mica-330"}).model_dump(mode="json"),
    "two-islands": beside("d1-saltmarsh", "k07-ridge")[0],
}
COMPARED = ["figures", *(f.name for f in dataclasses.fields(Plan) if f.name not in ("house", "run", "shelf"))]


@cache
def planned(name: str) -> Plan:
    job = Job.model_validate(MADE[name]) if name in MADE else demo_house(name)
    return derive(job, shelf(), noted=True)


def others(value: Any) -> list[Any]:
    """Values that might stand in a field instead."""
    if isinstance(value, bool):
        return [not value]
    if isinstance(value, int | float):
        return [value + 1, value * 1.5, value - 1, 0]
    return [1, 4.5, "L2", "fixed", "x", True, None]


def same(one: Plan, other: Plan) -> list[str]:
    return [name for name in COMPARED if getattr(one, name) != getattr(other, name)]


@pytest.mark.long
@pytest.mark.parametrize("name", [*HOUSES, *MADE])
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(data=st.data())
def test_after_random_edits_the_plan_is_what_a_derivation_from_nothing_gives(name: str, data: st.DataObject) -> None:
    plan = planned(name)
    for _ in range(3):
        document = plan.job.model_dump(mode="json")
        path, value = data.draw(st.sampled_from(list(leaves(document))))
        try:
            job = Job.model_validate(write_path(document, path, data.draw(st.sampled_from(others(value)))))
            wanted = derive(job, shelf())
        except (ValidationError, GumbootError):
            return
        plan = derive(job, shelf(), plan)
        assert same(plan, wanted) == [], path


@pytest.mark.long
@pytest.mark.parametrize("name", ["k02-weaver", "g01-cooperage"])
def test_after_any_thing_is_called_otherwise_nothing_is_called_by_its_old_name(name: str) -> None:
    plan, asked = planned(name), 0
    document = plan.job.model_dump(mode="json")
    for path in (path for path, _ in leaves(document) if path.endswith((".id", ".title"))):
        try:
            job = Job.model_validate(write_path(document, path, "L2"))
            wanted = derive(job, shelf())
        except (ValidationError, GumbootError):
            continue
        asked += 1
        assert same(derive(job, shelf(), plan), wanted) == [], path
    assert asked > 15


def changed(name: str, path: str, value: Any) -> Plan:
    plan = planned(name)
    return derive(Job.model_validate(write_path(plan.job.model_dump(mode="json"), path, value)), shelf(), plan)


@pytest.mark.parametrize(
    ("path", "value", "again"),
    [
        ("title", "Another name", ()),
        ("things.main-board.title", "Board in the hall", ("faults", "links", "leads", "prove", "power_up")),
        ("walls.wall.placements.inverter.x_mm", 1100, ("walls", "leads", "fitting")),
        ("loads.freezer.title", "Chest freezer", ("loads", "sizes", "circuits")),
        ("banks.bank.units.bat-2.dip_address", 3, ("links", "leads", "prove", "settings")),
        ("settings.tariff.night.price", 0.01, ("settings",)),
    ],
)
def test_only_the_steps_that_read_the_edited_field_run_again(path: str, value: Any, again: tuple[str, ...]) -> None:
    assert changed(GOOD, path, value).run.again == again


def test_the_same_job_runs_no_step_and_another_rule_book_or_card_runs_all() -> None:
    plan, every = planned(GOOD), tuple(step.name for step in STEPS)
    assert derive(Job.model_validate(plan.job.model_dump()), shelf(), plan).run.again == ()
    assert changed("d3-lockkeeper", "rule_book", "as-nzs-3000").run.again == every
    other = {**shelf(), "cobble-5": shelf()["cobble-5"].model_copy(update={"revision": 9})}
    assert derive(plan.job, other, plan).run.again == every


def test_a_circuit_that_nothing_touched_keeps_its_very_sizing() -> None:
    before, after = planned(GOOD), changed(GOOD, "runs.grid.length_m", 31.0)
    assert "sizes" in after.run.again
    assert after.circuits.sized["bat-main"] is before.circuits.sized["bat-main"]
    assert after.circuits.sized["grid"] is not before.circuits.sized["grid"]
    assert after.circuits.sized["grid"].length.value == 31


@pytest.mark.parametrize(
    ("name", "path", "value"),
    [
        (GOOD, "runs.grid.device_a", 60.0),
        (GOOD, "runs.grid.device_a", None),
        ("k05-homestead", "runs.through.device_a", 60.0),
        ("two-islands", "runs.grid.device_a", 60.0),
    ],
)
def test_a_device_ahead_is_felt_by_what_it_feeds(name: str, path: str, value: float | None) -> None:
    after = changed(name, path, value)
    assert same(after, derive(after.job, shelf())) == []


def test_only_a_plan_that_took_note_is_built_on() -> None:
    plain = derive(demo_house(GOOD), shelf())
    assert derive(plain.job, shelf(), plain).run.again == tuple(step.name for step in STEPS)
    noted = derive(plain.job, shelf(), plain, noted=True)
    assert len(noted.run.again) == len(STEPS)
    assert derive(plain.job, shelf(), derive(plain.job, shelf(), noted)).run.again == ()


class Spied:
    """Parts that note who reads what."""

    def __init__(self, parts: Parts, one_level: set[str]) -> None:
        self.parts, self.reads, self.one_level = parts, set[str](), one_level

    def __getattr__(self, name: str) -> Any:
        value = getattr(self.parts, name)
        if name not in self.one_level:
            self.reads.add(name)
            return value
        return SpiedPart(self, name, value)


class SpiedPart:
    def __init__(self, spied: Spied, name: str, value: Any) -> None:
        self.spied, self.name, self.value = spied, name, value

    def __getattr__(self, field: str) -> Any:
        self.spied.reads.add(f"{self.name}.{field}")
        return getattr(self.value, field)


@pytest.mark.parametrize("step", STEPS, ids=lambda s: s.name)
def test_a_step_needs_what_the_table_says(step: Step) -> None:
    plan = planned(GOOD)
    spied = Spied(plan.run.parts, {n.partition(".")[0] for n in step.needs if "." in n})
    step.run(Ledger(plan.house), spied)  # type: ignore[arg-type]
    assert spied.reads == set(step.needs)


def held(value: Any, seen: set[int]) -> Iterator[Any]:
    """Parts of the job, ledgers and houses anywhere within what a step left."""
    if id(value) in seen or isinstance(value, str | int | float | None):
        return
    seen.add(id(value))
    if isinstance(value, BaseModel | Ledger | House | Made):
        yield value
    elif dataclasses.is_dataclass(value):
        for f in dataclasses.fields(value):
            yield from held(getattr(value, f.name), seen)
    elif isinstance(value, Values):
        yield from held(list(vars(value).values()), seen)
    elif isinstance(value, dict):
        yield from held(list(value.values()), seen)
    elif isinstance(value, list | tuple | set | frozenset):
        for item in value:
            yield from held(item, seen)
    elif isinstance(value, Figure):
        yield from held((value.args, value.work, value.figures), seen)


@pytest.mark.parametrize("name", HOUSES)
def test_a_step_holds_only_parts_of_the_job_that_the_table_names(name: str) -> None:
    plan = planned(name)
    for step in STEPS:
        made = plan.run.made[step.name]
        for thing in held((made.value, made.figures, made.findings), set()):
            assert isinstance(thing, BaseModel), step.name
            path = getattr(thing, "tracked_path", None)
            assert path is None or path.startswith(step.holds or ("nothing",)), (step.name, path)


def test_reads_are_noted_wherever_the_part_is_held_and_only_while_a_log_is_open() -> None:
    job = tracked(demo_house(GOOD))
    kept = job.loads[0]
    assert kept == demo_house(GOOD).loads[0]
    with noting() as outer:
        assert kept.title
        with noting() as inner:
            assert job.site.record_low_c is not None
    assert kept.leg
    assert inner == {("", "site"), ("site", "record_low_c")}
    assert outer == inner | {(f"loads.{kept.id}", "title")}


def test_what_did_not_change_is_the_same_object_after_an_edit() -> None:
    before = demo_house(GOOD)
    noted, changes = tracked(before), set[tuple[str, str]]()
    document = before.model_dump(mode="json")
    document["loads"][1]["running_w"] += 5
    document["runs"].pop()
    after = followed(before, noted, Job.model_validate(document), changes)
    assert changes == {(f"loads.{before.loads[1].id}", "running_w"), ("", "runs")}
    assert after.loads[0] is noted.loads[0]
    assert after.loads[1] is not noted.loads[1]
    assert after.site is noted.site
    assert after.faces is noted.faces
    assert after.runs[0] is noted.runs[0]
    assert followed(before, noted, Job.model_validate(before.model_dump(mode="json")), changes) is noted
    assert after == Job.model_validate(document)


def test_items_without_a_name_of_their_own_go_by_number() -> None:
    before = demo_house(GOOD)
    document = before.model_dump(mode="json")
    document["sensing"]["meters"][0]["cts"][1]["arrow"] = "toward grid"
    changes = set[tuple[str, str]]()
    followed(before, tracked(before), Job.model_validate(document), changes)
    assert changes == {("sensing.meters.meter.cts.1", "arrow")}


def test_what_a_result_holds_counts_as_read() -> None:
    reads = frozenset({("", "runs")})
    assert touches({("", "runs")}, reads, ())
    assert not touches({("runs.grid", "length_m")}, reads, ())
    assert touches({("runs.grid", "length_m")}, reads, ("runs",))
    assert not touches({("site", "record_low_c")}, reads, ("runs",))


def test_one_key_for_two_figures_of_two_steps_is_refused() -> None:
    one, other = Figure("k", "k", "One", 1.0, "A", source="arith"), Figure("k", "k", "One", 2.0, "A", source="arith")
    made = [Made(None, {"k": f}, (), (), frozenset()) for f in (one, other)]
    with pytest.raises(BadFigure, match="worked out twice"):
        figures_of(made)


def test_a_conflict_of_two_steps_is_refused_where_a_noted_plan_is_derived(monkeypatch: pytest.MonkeyPatch) -> None:
    def other(ledger: Ledger, _: Parts) -> None:
        ledger.work("bank.units", "n", "Batteries of the bank", 99.0, "", source="arith")

    steps = tuple(dataclasses.replace(step, run=other) if step.name == "coupling" else step for step in STEPS)
    monkeypatch.setattr(engine, "STEPS", steps)
    with pytest.raises(BadFigure, match=r"bank\.units is worked out twice"):
        derive(demo_house(GOOD), shelf(), noted=True)


@pytest.mark.parametrize("name", HOUSES)
def test_what_a_working_names_is_the_figure_of_its_key(name: str) -> None:
    figures = planned(name).figures
    for figure in figures.values():
        for part in figure.given:
            known = figures[part.key]
            assert (known.value, known.name, known.unit) == (part.value, part.name, part.unit), (figure.key, part.key)


def test_a_house_that_the_network_no_longer_reaches_has_another_shape() -> None:
    """Without a main board nothing else of its graph tells of it."""
    document = demo_house(GOOD).model_dump(mode="json")
    document["things"] = [
        {**thing, "board": None} if "board" in thing else thing for thing in document["things"] if thing.get("duty") != "main"
    ]
    with_grid, without = (Job.model_validate(write_path(document, "site.supply", supply)) for supply in ("split phase", "none"))
    house = House(with_grid, seats_of(with_grid, shelf()))
    assert house.is_joined_as(House(with_grid, seats_of(with_grid, shelf())))
    assert not house.is_joined_as(House(without, seats_of(without, shelf())))


@pytest.mark.parametrize("name", ["d1-saltmarsh", "g01-cooperage", "two-islands"])
def test_a_graph_that_is_taken_over_holds_no_thing_of_the_job_it_was_drawn_up_for(name: str) -> None:
    plan = planned(name)
    house = House(plan.house.job, plan.seats)
    assert house.with_graph_of(plan.house)
    for field, value in house.__dict__.items():
        if field not in ("job", "seats"):
            things = [part for part in seated(value) if isinstance(part, Seat) or hasattr(part, "tracked_path")]
            assert things == [], field


def seated(value: Any) -> Iterator[Any]:
    """Everything within dictionaries, lists and tuples."""
    yield value
    if isinstance(value, dict):
        value = list(value.values())
    if isinstance(value, list | tuple):
        for item in value:
            yield from seated(item)


def test_an_inverter_that_moves_to_another_bank_is_planned_anew() -> None:
    document = bank_each()
    first = derive(Job.model_validate(document), shelf(), noted=True)
    moved = Job.model_validate(write_path(document, f"things.{first.seats.inverters[1].id}.bank", "bank"))
    assert same(derive(moved, shelf(), first), derive(moved, shelf())) == []


def test_a_graph_is_taken_over_while_another_thread_draws_up_more_of_it() -> None:
    """Studies of a plan and an edit built on it run at the same time: what is added to the house meanwhile disturbs nobody."""
    plan = planned(GOOD)
    house = plan.house

    class Late(str):
        __slots__ = ()

        def __eq__(self, other: object) -> bool:
            house.__dict__.setdefault("drawn_up_meanwhile", True)
            return str.__eq__(self, other)

        __hash__ = str.__hash__

    house.__dict__[Late("known_late")] = 1
    try:
        assert House(plan.job, plan.seats).with_graph_of(house)
    finally:
        for name in ("known_late", "drawn_up_meanwhile"):
            house.__dict__.pop(name, None)

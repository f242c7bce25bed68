"""Whatever is offered may be taken: cards for a place, picks of circuits, layouts, other sizes. Nothing of it brings a new stop."""

from __future__ import annotations

from functools import cache

import pytest

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.job import Job
from gumboot.core.job.model import String
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.upkeep import completed
from gumboot.core.study.alternatives import alternatives, with_run
from gumboot.core.study.layout_ranks import find_layouts
from gumboot.core.study.layouts import strings_of
from gumboot.core.study.offers import offers, with_card
from gumboot.core.study.pick import NoAnswer, balance_legs, best_pick
from gumboot.web.equipment import places
from tests.helpers import BAD

HOUSES = [name for path in demo_houses() if (name := path.name.removesuffix(".gumboot.json")) != BAD]

pytestmark = pytest.mark.long


@cache
def planned(house: str) -> Plan:
    return derive(completed(demo_house(house), shelf()), shelf(), noted=True)


def newly_stopped(plan: Plan, job: Job) -> list[str]:
    known = {f.key for f in plan.stops}
    # On the plan before it, as a page does; that this is what a derivation from nothing gives is shown in test_steps.
    return [f.text for f in derive(job, shelf(), plan).stops if f.key not in known]


@pytest.mark.parametrize("house", HOUSES)
def test_a_card_that_is_offered_stops_nothing_and_one_that_would_says_what(house: str) -> None:
    plan = planned(house)
    for place in places(plan.job):
        rows = list(offers(plan, shelf(), place.path, place.role))
        assert rows, place
        # Every other one is planned again here, in each house another half of them.
        for offer in rows[HOUSES.index(house) % 2 :: 2]:
            if not offer.against:
                stopped = newly_stopped(plan, with_card(plan.job, shelf(), place.path, offer.fit.card.id))
                assert stopped == [f.text for f in offer.then], (place.path, offer.fit.card.id)
        assert [o.stands for o in rows] == sorted((o.stands for o in rows), reverse=True)
        thing = next((t for t in plan.job.things if f"things.{t.id}.card" == place.path), None)
        if thing is not None:
            mine = next(o for o in rows if o.fit.card.id == thing.card)
            assert mine.stands, (place.path, mine.against, mine.then)


@pytest.mark.parametrize("house", HOUSES)
@pytest.mark.parametrize("legs_free", [False, True])
def test_the_best_pick_stops_nothing_when_it_is_taken(house: str, legs_free: bool) -> None:
    plan = planned(house)
    try:
        moves = best_pick(plan, legs_free).changes
    except NoAnswer:
        return
    loads = [x.model_copy(update={"side": moves[x.id][0], "leg": moves[x.id][1]}) if x.id in moves else x for x in plan.job.loads]
    assert newly_stopped(plan, plan.job.model_copy(update={"loads": loads})) == []


@pytest.mark.parametrize("house", HOUSES)
def test_balanced_legs_stop_nothing(house: str) -> None:
    plan = planned(house)
    try:
        moves = balance_legs(plan).moves
    except NoAnswer:
        return
    loads = [x.model_copy(update={"leg": moves[x.id]}) if x.id in moves else x for x in plan.job.loads]
    assert newly_stopped(plan, plan.job.model_copy(update={"loads": loads})) == []


@pytest.mark.parametrize("house", HOUSES)
@pytest.mark.parametrize("first", ["yield", "margin", "wiring"])
def test_every_layout_that_is_found_stops_nothing_when_it_is_taken(house: str, first: str) -> None:
    plan = planned(house)
    if plan.seats.module is None or not plan.job.faces:
        return
    for layout in find_layouts(plan, first=first).best:
        strings = [String.model_validate(row) for row in strings_of(plan, layout.lays)]
        assert newly_stopped(plan, plan.job.model_copy(update={"strings": strings})) == [], layout.lays


@pytest.mark.parametrize("house", HOUSES)
def test_another_size_breaks_what_it_is_said_to_break_and_the_pulled_one_is_as_planned(house: str) -> None:
    plan = planned(house)
    for circuit, sized in plan.circuits.sized.items():
        rows = alternatives(plan, circuit, below=1, above=2)
        mine = next(r for r in rows if r.pulled)
        assert mine.size == sized.size, circuit
        assert mine.sized is not None, circuit
        assert mine.sized.drop_pct.value == pytest.approx(sized.drop_pct.value), circuit
        for other in rows:
            taken = with_run(plan, circuit, installed_size=other.size, installed_earth=None)
            known = {f.key for f in plan.findings}
            assert {f.key for f in taken.stops} - known == {f.key for f in other.breaks if f.level == "stop"}

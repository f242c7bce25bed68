"""Whatever a crew does in whatever order, nothing that a gate guards is done while it is closed."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.acts import PLAN, Acts, Kind, State
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord
from gumboot.core.recording import may_record
from gumboot.core.standing import Standing, stand
from tests.crew import person_of, record_of
from tests.helpers import plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
START = datetime(2026, 11, 27, 8, tzinfo=UTC)
FINE = (State.GOOD, State.CLEARED, State.USED)
MOVES = 48


def closed(standing: Standing, act: str) -> list[str]:
    """By brute force: everything before an act that is not as it should be, through what was done and what was not."""
    of: Acts = standing.acts
    if of[act].makes_safe:
        return []
    needs, queue = set[str](), [act]
    heeds = set[str](of[act].heeds)
    while queue:
        for name in of[queue.pop()].needs:
            if name not in needs:
                needs.add(name)
                queue.append(name)
                heeds |= set(of[name].heeds)
    bad = [n for n in needs if standing.stands[n].state not in FINE]
    return bad + [h for h in heeds if standing.stands[h].state is State.FAILED]


class Site:
    """A house, the records of its crew, and the time."""

    def __init__(self, house: str, rng: random.Random) -> None:
        self.rng, self.now = rng, START
        self.good, self.stopped = plan_of(name=house), plan_of({"backup.bypass": "breaker without interlock"}, name=house)
        self.plan: Plan = self.good
        self.records: list[AnyRecord] = []

    def standing(self) -> Standing:
        return stand(self.plan, self.records, self.now, 1)

    def choose(self, standing: Standing) -> str:
        """An act at random; more often than not one that may be done, so that a crew gets somewhere."""
        acts = [a.id for a in standing.acts.values() if not a.is_derived and a.kind is not Kind.SIGN_OFF]
        free = [
            i for i in acts if standing.stands[i].state is State.OPEN and not closed(standing, i) and not i.startswith(("off", "clear"))
        ]
        return self.rng.choice(free if free and self.rng.random() < 0.6 else acts)

    def move(self) -> None:
        standing, roll = self.standing(), self.rng.random()
        if roll < 0.05:
            self.plan = self.stopped if self.plan is self.good else self.good
            return
        if roll < 0.15:
            self.now += timedelta(hours=self.rng.choice([1, 13, 25]))
            standing = self.standing()
        act, late = standing.acts[self.choose(standing)], self.rng.random() < 0.1
        done_at = self.now - timedelta(minutes=30 if late else 0)
        record = record_of(self.plan, standing, act, done_at, bad=self.rng.random() < 0.08)
        verdict = may_record(self.plan, standing, record, person_of(record), self.now, sure=True)
        # What was done half an hour ago is judged by what was done before it.
        standing = stand(self.plan, [r for r in self.records if r.done_at <= done_at], done_at, 1) if late else standing
        shut = closed(standing, act.id)
        fresh = [n for n in act.needs if standing.stands[n].state is State.USED and standing.stands[act.id].state not in FINE]
        if act.kind in (Kind.STEP, Kind.RITUAL):
            shut += fresh
        if shut and not late:
            assert not verdict.is_kept, f"{act.id} while {shut[:3]}"
        if verdict.record is not None:
            assert bool(verdict.record.defects) == bool(shut), f"{act.id}: {verdict.record.defects} with {shut[:3]}"
            self.records.append(verdict.record)
            if verdict.record.defects:
                after = self.standing().stands[act.id]
                assert not after.holds, f"{act.id} was out of order and holds all the same"
        elif not shut and verdict.outcome == "refused":
            assert act.kind in (Kind.CLEARANCE, Kind.RECHECK), f"{act.id}: {verdict.text}"
        self.now += timedelta(seconds=self.rng.randrange(1, 200))


@pytest.mark.parametrize("house", HOUSES)
def test_no_order_of_acts_opens_what_a_closed_gate_guards(house: str) -> None:
    site = Site(house, random.Random(house))
    for _ in range(MOVES):
        site.move()
    assert len(site.records) > MOVES / 4


@pytest.mark.parametrize("house", [h for h in HOUSES if "mistakes" not in h])
def test_a_crew_that_does_what_is_open_comes_to_the_signature(house: str) -> None:
    plan, records, now = plan_of(name=house), list[AnyRecord](), START
    while True:
        standing = stand(plan, records, now, 1)
        todo = [a for a in standing.acts.values() if not a.is_derived and not a.is_optional and not standing.stands[a.id].holds]
        free = [a for a in todo if not standing.gates.held_by(a.id) and standing.stands[a.id].state is State.OPEN]
        if not free:
            break
        made = []
        # All of one kind and station at a time, and what a switch moves by itself.
        first = free[0].kind
        for act in free[:1] if first is Kind.STEP else [a for a in free if a.kind is first and a.station == free[0].station]:
            if act.kind is Kind.RECHECK:
                now = max(now, START + timedelta(hours=30))
            record = record_of(plan, standing, act, now)
            verdict = may_record(plan, standing, record, person_of(record), now, sure=True)
            assert verdict.is_kept, f"{act.id}: {verdict.text}"
            assert verdict.record is not None
            made.append(verdict.record)
        records += made
        now += timedelta(seconds=5)
    standing = stand(plan, records, now, 1)
    left = [a.id for a in standing.acts.values() if not a.is_optional and a.id not in standing.last and not a.is_derived]
    assert left == []
    assert standing.missing == ()
    assert standing.stands[PLAN].holds
    assert standing.stations["hand-over"].word == "signed"

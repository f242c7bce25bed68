"""A phone without signal tells by what it took along what may be done: case tables, played by the server's rule and by the phone's script."""

from __future__ import annotations

import json
import random
import subprocess
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest

from gumboot.catalogue import demo_houses
from gumboot.cli.testing import node
from gumboot.core.acts import Act, Kind, State
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord
from gumboot.core.recording import Doing, Draft, Person, Verdict, may_record, receive, said
from gumboot.core.standing import Standing, stand
from gumboot.web.act_data import carried
from tests.crew import IVO, LENA, person_of, record_of, typed_of
from tests.helpers import plan_of

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses()]
START = datetime(2026, 11, 27, 8, tzinfo=UTC)
PLAYER = Path(__file__).parents[1] / "js/case_tables.mjs"
GAMES, ALONG = 2, 10
ROUNDS = (0, 4, 8, 16)


def _gate(verdict: Verdict) -> str:
    """What the server says of the gate; nothing where it speaks of what was typed."""
    named = {"forbidden": "not yours", "unknown": "unknown", "kept": "open"}
    fields = {"gate": "held", "done_at": "too early"}
    return named.get(verdict.outcome, "") or fields.get(verdict.field, "")


class Crew:
    """A house with a crew that works, for a while with signal and then by a phone alone."""

    def __init__(self, house: str, rng: random.Random) -> None:
        self.plan: Plan = plan_of(name=house)
        self.rng, self.now, self.records = rng, START, list[AnyRecord]()

    def standing(self) -> Standing:
        return stand(self.plan, self.records, self.now, 1)

    def choose(self, standing: Standing) -> Act:
        free = [a for a in standing.acts.values() if standing.stands[a.id].state is State.OPEN and not standing.gates.held_by(a.id)]
        free = [a for a in free if a.kind not in (Kind.OFF, Kind.CLEARANCE, Kind.SIGN_OFF) and not a.is_derived]
        every = list(standing.acts.values())
        return self.rng.choice(free if free and self.rng.random() < 0.6 else every)

    def work(self, rounds: int) -> None:
        """So many rounds of good work: in each, everything of one kind that may be done; of steps one at a time."""
        for _ in range(rounds):
            standing = self.standing()
            todo = [a for a in standing.acts.values() if not a.is_derived and not a.is_optional and not standing.stands[a.id].holds]
            free = [a for a in todo if a.kind is not Kind.SIGN_OFF and not a.hours_after and not standing.gates.held_by(a.id)]
            alike = [a for a in free if a.kind is free[0].kind]
            for act in alike[:1] if alike and alike[0].kind is Kind.STEP else alike:
                record = record_of(self.plan, standing, act, self.now)
                verdict = may_record(self.plan, standing, record, person_of(record), self.now, sure=True)
                if verdict.record is not None:
                    self.records.append(verdict.record)
            self.now += timedelta(seconds=30)

    def typed(self, standing: Standing, act: Act, who: Person) -> dict[str, str]:
        """What somebody types: as it should be, wrong, a slip taken back, or that it could not be done."""
        slipped = [r for r in self.records[-3:] if r.act == act.id and r.doer == who.name]
        if slipped and self.rng.random() < 0.3:
            return {"take_back": slipped[0].id}
        if self.rng.random() < 0.04 and not act.makes_safe:
            return {"could_not": "could not be done", "reason": "no room for the driver"}
        return typed_of(self.plan, standing, act, bad=self.rng.random() < 0.15)

    def move(self, who: Person) -> dict[str, Any]:
        """One act on the phone, as the server would have it at that moment."""
        standing = self.standing()
        act = self.choose(standing)
        typed = self.typed(standing, act, who)
        by = Doing(who.name, who.display, who.role, 1)
        every = said(f"k{len(self.records)}-{self.rng.randrange(10**9)}", act.id, self.now, by)
        draft = Draft(self.plan, standing, act, typed, "SI", every)
        verdict = receive(draft, who, self.now, sure=True)
        # A slip is taken back whatever holds its act.
        gate = "" if "take_back" in typed else "unknown" if act.is_derived else _gate(verdict)
        if gate == "held" and self.rng.random() < 0.4:
            # Who says that it is done already has it kept; it comes in late, and opens nothing.
            verdict = receive(draft, who, self.now + timedelta(minutes=10), sure=True)
        if verdict.record is not None:
            self.records.append(verdict.record)
        after = self.standing()
        told = {
            "id": every["id"],
            "act": act.id,
            "fields": typed,
            "at": self.now.timestamp() * 1000,
            "gate": gate,
            "kept": verdict.is_kept,
            "states": {name: stands.state for name, stands in after.stands.items()},
        }
        self.now += timedelta(seconds=self.rng.randrange(1, 200), hours=self.rng.choice([0] * 9 + [13]))
        return told


def table(name: str, crew: Crew, who: Person) -> dict[str, Any]:
    """What a phone takes along at this moment."""
    given = {"person": {"name": who.name, "role": who.role}, **carried(crew.plan, crew.standing())}
    return {"name": name, "carried": json.loads(json.dumps(given)), "moves": []}


def played(tables: list[dict[str, Any]], folder: Path) -> dict[str, Any]:
    """The tables as the phone's script plays them."""
    file = folder / "tables.json"
    file.write_text(json.dumps(tables))
    done = subprocess.run([str(node()), str(PLAYER), str(file)], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    found: dict[str, Any] = json.loads(done.stdout)
    return found


@pytest.mark.parametrize("house", HOUSES)
def test_a_phone_says_what_the_server_will_say(house: str, tmp_path: Path) -> None:
    rng, tables = random.Random(house), []
    for game in range(GAMES):
        crew = Crew(house, rng)
        crew.work(rng.choice(ROUNDS))
        who = LENA if game % 2 else IVO
        tables.append(table(f"{house} {game}", crew, who))
        tables[-1]["moves"] = [crew.move(who) for _ in range(ALONG)]
    found = played(tables, tmp_path)
    assert found["differ"] == []
    assert found["compared"] > GAMES * ALONG / 2
    # What it leaves to the server is the exception.
    assert found["unsure"] < found["compared"] / 4
    assert found["unsure_states"] < found["states"] / 20

"""What a crew writes of a card at an act, and what a planner makes of it: taken, it stands at the act in every house with that card."""

from __future__ import annotations

import uuid
from collections.abc import Callable

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.store import card_notes
from tests.web.conftest import Crew

ACT = "torque/inverter.battery.pos.bat-main"
WORDS = "The left cover screw is longer than the others"


def write(crew: Crew, act: str = ACT, **typed: str) -> int:
    sent = {"record_id": uuid.uuid4().hex, "csrf": crew.csrf, "text": WORDS, **typed}
    return int(crew.client.post(f"/jobs/{crew.job}/notes/{act}", data=sent, headers={"Accept": "application/json"}).status_code)


def decide(crew: Crew, note: str, **typed: str) -> tuple[int, str]:
    answer = crew.client.post(f"/cards/notes/{note}", data={"csrf": crew.csrf, **typed})
    return answer.status_code, answer.text


def history(crew: Crew, act: str = ACT) -> str:
    return str(crew.client.get(f"/jobs/{crew.job}/acts/{act}").text)


def waiting_for(engine: Engine, crew: Crew) -> list[card_notes.Waiting]:
    with Session(engine) as db:
        return [note for note in card_notes.waiting(db) if note.job_id == crew.job]


def test_a_note_waits_for_a_planner_and_then_stands_at_the_act(engine: Engine, ivo: Crew, petra: Crew) -> None:
    assert write(ivo) == 200
    assert f"for the next crew: {WORDS}" in history(ivo)
    # It says nothing of how the act stands, and is no house note before somebody took it.
    assert "0/105" in ivo.get("wire")
    (note,) = waiting_for(engine, ivo)
    assert (note.card, note.topic, note.by) == ("plover-6s", "landing", "Ivo Installer")
    listed = petra.client.get("/cards").text
    assert WORDS in listed
    assert decide(petra, note.record_id, verdict="take", text=f"{WORDS}: keep them apart")[0] == 200
    assert WORDS not in petra.client.get("/cards").text
    page = history(ivo)
    assert f"<li>{WORDS}: keep them apart</li>" in page
    assert f"{WORDS}: keep them apart" in petra.client.get("/cards/plover-6s").text
    # Where it bites, and not at the wall.
    assert f"<li>{WORDS}: keep them apart</li>" not in history(ivo, "lift/inverter")
    assert decide(petra, note.record_id, verdict="leave", reason="somebody took it already")[0] == 409


def test_a_note_is_left_out_with_the_reason_and_stays_in_the_history(engine: Engine, ivo: Crew, petra: Crew) -> None:
    assert write(ivo, text="This is only so in this very house here") == 200
    (note,) = waiting_for(engine, ivo)
    assert decide(petra, note.record_id, verdict="leave", reason="no")[0] == 422
    assert decide(petra, note.record_id, verdict="leave", reason="it is about this house alone")[0] == 200
    assert waiting_for(engine, ivo) == []
    assert "only so in this very house" in history(ivo)


@pytest.mark.parametrize(
    ("typed", "status"),
    [
        ({"text": "too short"}, 422),
        ({"text": "x" * 301}, 422),
        ({"card": "heron-10t"}, 422),
        ({"card": "Not A Card!"}, 422),
        ({"record_id": ""}, 422),
    ],
)
def test_what_is_no_note_is_refused_and_keeps_nothing(engine: Engine, ivo: Crew, typed: dict[str, str], status: int) -> None:
    assert write(ivo, **typed) == status
    assert waiting_for(engine, ivo) == []


def test_a_note_at_an_act_that_the_plan_has_no_more_needs_its_card(engine: Engine, ivo: Crew) -> None:
    assert write(ivo, "torque/gone.pos.bat-9") == 422
    assert write(ivo, "torque/gone.pos.bat-9", card="plover-6s") == 200
    assert waiting_for(engine, ivo)[0].topic == ""


def test_the_same_note_sent_twice_is_one(engine: Engine, ivo: Crew) -> None:
    same = uuid.uuid4().hex
    assert [write(ivo, record_id=same), write(ivo, record_id=same)] == [200, 200]
    assert len(waiting_for(engine, ivo)) == 1
    assert write(ivo, record_id=same, text="Other words under the same name") == 409


def test_an_apprentice_writes_and_decides_nothing(engine: Engine, crew: Callable[[str], Crew]) -> None:
    abel = crew("abel")
    assert write(abel) == 200
    (note,) = waiting_for(engine, abel)
    assert decide(abel, note.record_id, verdict="take")[0] == 403
    assert "Take it" not in abel.client.get("/cards").text


@pytest.mark.parametrize("typed", [{}, {"verdict": "perhaps"}, {"verdict": "take", "text": "short"}])
def test_a_decision_that_is_none_changes_nothing(engine: Engine, ivo: Crew, petra: Crew, typed: dict[str, str]) -> None:
    write(ivo)
    (note,) = waiting_for(engine, ivo)
    assert decide(petra, note.record_id, **typed)[0] == 422
    assert decide(petra, "no-such-note", verdict="take")[0] == 409
    assert len(waiting_for(engine, ivo)) == 1


@pytest.mark.parametrize("text", ["\x00 nothing at all in here", "<b>bold words</b> and a ' quote", "Ünïcode 🦪 in a note of a crew"])
def test_odd_letters_are_kept_as_words_or_refused_in_words(engine: Engine, ivo: Crew, petra: Crew, text: str) -> None:
    assert write(ivo, text=text) in (200, 422)
    for note in waiting_for(engine, ivo):
        assert decide(petra, note.record_id, verdict="take")[0] == 200
        assert "<b>bold" not in history(ivo)


def test_a_note_that_was_taken_back_waits_for_nobody(engine: Engine, ivo: Crew) -> None:
    assert write(ivo) == 200
    (note,) = waiting_for(engine, ivo)
    assert ivo.post(f"records/{ACT}", take_back=note.record_id).status_code == 200
    assert waiting_for(engine, ivo) == []

"""Notes of crews in the database: decided once, never changed, and no hindrance to a demo that is begun anew."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from threading import Thread

import pytest
from sqlalchemy import Engine, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from gumboot.core.record import CardNote
from gumboot.store import card_notes, records
from gumboot.store.demo import drop_demo, load_demo
from gumboot.store.models import CardNoteRow, JobRow

WORDS = "The left cover screw is longer than the others"


def written(engine: Engine, job: str = "d1-saltmarsh") -> str:
    """A note on record; its id."""
    made = CardNote(
        id=uuid.uuid4().hex, act="lift:inverter", done_at=datetime.now(UTC), by="Ivo", doer="ivo", role="installer", card="plover-6s", topic="wall", text=WORDS
    )  # fmt: skip
    with Session(engine) as db:
        records.add_record(db, job, records.Sent(made.id, card_notes.KIND, made.act, {"text": WORDS}, "Ivo"), made)
        db.commit()
    return made.id


def test_two_who_decide_at_once_decide_once(engine: Engine) -> None:
    note, won = written(engine), list[bool]()

    def take(by: str) -> None:
        with Session(engine) as db:
            won.append(card_notes.decide(db, note, is_taken=True, by=by))
            db.commit()

    threads = [Thread(target=take, args=(by,)) for by in ("Petra", "Lena", "Paul")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(won) == [False, False, True]
    with Session(engine) as db:
        assert [each.text for each in card_notes.taken(db)["plover-6s"]].count(WORDS) >= 1
        assert note not in [each.record_id for each in card_notes.waiting(db)]


@pytest.mark.parametrize("statement", ["update card_notes set text = 'x'", "delete from card_notes", "truncate card_notes"])
def test_nobody_changes_what_was_decided(engine: Engine, owner: Engine, statement: str) -> None:
    note = written(engine)
    with Session(engine) as db:
        card_notes.decide(db, note, is_taken=False, by="Petra", reason="of this house alone")
        db.commit()
    with engine.connect() as connection, pytest.raises(DBAPIError, match="permission denied"):
        connection.execute(text(statement))
    with owner.connect() as connection, pytest.raises(DBAPIError, match="append-only"):
        connection.execute(text(statement))


def test_the_demo_is_begun_anew_with_notes_that_were_decided(engine: Engine, owner: Engine) -> None:
    note = written(engine)
    with Session(engine) as db:
        card_notes.decide(db, note, is_taken=True, by="Petra")
        db.commit()
    drop_demo(owner)
    try:
        with Session(engine) as db:
            assert db.get(JobRow, "d1-saltmarsh") is None
            assert db.scalars(select(CardNoteRow).where(CardNoteRow.record_id == note)).first() is None
    finally:
        with Session(owner) as db:
            load_demo(db)
    with Session(engine) as db:
        assert db.get(JobRow, "d1-saltmarsh") is not None

"""What crews wrote of cards: each note is a record of its house; a planner takes it for every house, or leaves it out with the reason."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.core.record import CardNote, parse_record
from gumboot.store.models import CardNoteRow, RecordRow

KIND = "card-note"
# More than a planner reads at one sitting.
MOST = 200


class Taken(NamedTuple):
    """A note that stands on a card for every house."""

    topic: str
    text: str
    by: str


class Waiting(NamedTuple):
    """A note that nobody decided yet: of which card, by whom, from which house."""

    record_id: str
    card: str
    topic: str
    text: str
    by: str
    job_id: str
    at: datetime


def taken(db: Session) -> Mapping[str, tuple[Taken, ...]]:
    """All notes that were taken, by the card, the earliest first."""
    found: dict[str, tuple[Taken, ...]] = {}
    rows = select(CardNoteRow, RecordRow.by).join(RecordRow, RecordRow.id == CardNoteRow.record_id).where(CardNoteRow.taken)
    for row, by in db.execute(rows.order_by(CardNoteRow.at)):
        found[row.card_id] = (*found.get(row.card_id, ()), Taken(row.topic, row.text, by))
    return found


def waiting(db: Session) -> list[Waiting]:
    """Notes that wait for a decision, the earliest first."""
    decided = select(CardNoteRow.record_id)
    # A slip of the finger that its writer took back is nobody's to decide.
    back = select(RecordRow.value["of"].astext).where(RecordRow.value["kind"].astext == "taken-back")
    open_ = (RecordRow.kind == KIND, RecordRow.id.not_in(decided), RecordRow.id.not_in(back))
    rows = db.scalars(select(RecordRow).where(*open_).order_by(RecordRow.received_at).limit(MOST))
    found = []
    for row in rows:
        note = parse_record(row.value)
        if isinstance(note, CardNote):
            found.append(Waiting(row.id, note.card, note.topic, note.text, note.by, row.job_id, note.done_at))
    return found


def decide(db: Session, record_id: str, *, is_taken: bool, by: str, text: str = "", reason: str = "") -> bool:
    """Take a note, its words put right where ``text`` says so, or leave it out. False where it does not wait any more, or never did."""
    note = next((each for each in waiting(db) if each.record_id == record_id), None)
    if note is None:
        return False
    row = {"record_id": record_id, "card_id": note.card, "topic": note.topic, "text": text or note.text, "taken": is_taken}
    done = db.execute(
        insert(CardNoteRow).values(**row, reason=reason, decided_by=by).on_conflict_do_nothing().returning(CardNoteRow.record_id)
    )
    return done.first() is not None

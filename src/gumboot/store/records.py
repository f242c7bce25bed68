"""Append-only records."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.core.standing import Record
from gumboot.store.models import RecordRow

KINDS = ("torque", "recheck", "measurement", "done", "setting", "ct", "link", "hold-cleared", "sign-off")


class OtherRecord(Exception):
    """The id is that of a record which says something else."""


def _record(row: RecordRow) -> Record:
    return Record(row.id, row.kind, row.subject, row.value, row.by, row.role, row.at, row.corrects)


def read_records(db: Session, job_id: str) -> list[Record]:
    """All records of a job, oldest first."""
    return [_record(r) for r in db.scalars(select(RecordRow).where(RecordRow.job_id == job_id).order_by(RecordRow.at, RecordRow.id))]


@dataclass(frozen=True, slots=True)
class Sent:
    """A record as it was sent: an id from where it was made, what was typed, and how long ago it was done."""

    record_id: str
    kind: str
    subject: str
    typed: dict[str, str]
    by: str
    age: timedelta = timedelta(0)

    @property
    def digest(self) -> str:
        """Of everything that makes it the record it is; how long it lay on a phone is not part of that."""
        whole = json.dumps([self.kind, self.subject, self.by, sorted(self.typed.items())], ensure_ascii=False)
        return hashlib.sha256(whole.encode()).hexdigest()


def already(db: Session, job_id: str, sent: Sent) -> Record | None:
    """The record of this id, when it was sent before. Raises OtherRecord when that one says something else."""
    row = db.get(RecordRow, sent.record_id, populate_existing=True)
    if row is None:
        return None
    # A row from before digests were kept is told by what it is about.
    same = row.digest == sent.digest if row.digest else (row.kind, row.subject, row.by) == (sent.kind, sent.subject, sent.by)
    if row.job_id != job_id or not same:
        raise OtherRecord
    return _record(row)


def add_record(db: Session, job_id: str, sent: Sent, value: dict[str, Any], role: str) -> Record:
    """Add one record, or give back the one that an earlier or a racing send of the same has added.

    It corrects the newest record of its subject that was done before it: one that arrives late corrects none that is newer.
    Raises OtherRecord when the id is taken by a record of other content.
    """
    # clock_timestamp, not now(): several records of one transaction keep their order.
    done_at = db.scalar(select(func.clock_timestamp() - sent.age))
    before = db.scalar(
        select(RecordRow.id)
        .where(RecordRow.job_id == job_id, RecordRow.kind == sent.kind, RecordRow.subject == sent.subject, RecordRow.at <= done_at)
        .where(RecordRow.id != sent.record_id)
        .order_by(RecordRow.at.desc())
        .limit(1)
    )
    row = {"id": sent.record_id, "job_id": job_id, "kind": sent.kind, "subject": sent.subject, "value": value, "by": sent.by}
    db.execute(
        insert(RecordRow)
        .values(**row, role=role, at=done_at, received_at=func.clock_timestamp(), corrects=before, digest=sent.digest)
        .on_conflict_do_nothing(index_elements=["id"])
    )
    found = already(db, job_id, sent)
    assert found is not None  # noqa: S101 - it was added above, or by who held the id meanwhile
    return found

"""Append-only records."""

from __future__ import annotations

import uuid
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gumboot.core.standing import Record
from gumboot.store.models import RecordRow

KINDS = ("torque", "recheck", "measurement", "done", "setting", "ct", "link", "hold-cleared", "sign-off")


class BadCorrection(Exception):
    """The corrected record is not of this job and subject."""


def _record(row: RecordRow) -> Record:
    return Record(row.id, row.kind, row.subject, row.value, row.by, row.role, row.at, row.corrects)


def read_records(db: Session, job_id: str) -> list[Record]:
    """All records of a job, oldest first."""
    return [_record(r) for r in db.scalars(select(RecordRow).where(RecordRow.job_id == job_id).order_by(RecordRow.at, RecordRow.id))]


def add_record(
    db: Session,
    job_id: str,
    kind: str,
    subject: str,
    value: dict[str, Any],
    by: str,
    role: str,
    *,
    record_id: str | None = None,
    corrects: str | None = None,
) -> Record:
    """Add one record. ``record_id`` makes a repeated send harmless: the first one stands.

    Raises BadCorrection when ``corrects`` names a record of another job or subject.
    """
    identity = record_id or str(uuid.uuid4())
    existing = db.get(RecordRow, identity)
    if existing is not None:
        if existing.job_id != job_id:
            raise BadCorrection
        return _record(existing)
    if corrects is not None:
        old = db.get(RecordRow, corrects)
        if old is None or (old.job_id, old.subject) != (job_id, subject):
            raise BadCorrection
    # clock_timestamp, not now(): several records of one transaction keep their order.
    row = RecordRow(
        id=identity, job_id=job_id, kind=kind, subject=subject, value=value, by=by, role=role, at=func.clock_timestamp(), corrects=corrects
    )
    db.add(row)
    db.flush()
    db.refresh(row)
    return _record(row)

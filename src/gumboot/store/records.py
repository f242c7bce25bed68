"""Append-only records, each chained to the one before."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.core.record import BESIDE, AnyRecord, OldRow, chain, typed
from gumboot.store.models import JobRow, RecordLink, RecordRow

# Whoever listens here hears of every record as it is committed.
CHANNEL = "gumboot_records"


class OtherRecord(Exception):
    """The id is that of a record which says something else."""


def _record(row: RecordRow) -> AnyRecord:
    return typed(OldRow(row.id, row.kind, row.subject, row.value, row.by, row.role, row.at, row.corrects, row.received_at))


def read_records(db: Session, job_id: str) -> list[AnyRecord]:
    """All records of a job, in the order in which they came in."""
    rows = select(RecordRow).outerjoin(RecordLink, RecordLink.record_id == RecordRow.id).where(RecordRow.job_id == job_id)
    return [_record(r) for r in db.scalars(rows.order_by(RecordLink.place.nulls_last(), RecordRow.at, RecordRow.id))]


def elsewhere(db: Session, job_id: str, ids: Collection[str]) -> dict[str, str]:
    """Of some ids of records those that stand at another house, with its title."""
    found = select(RecordRow.id, JobRow.title).join(JobRow, JobRow.id == RecordRow.job_id).where(RecordRow.job_id != job_id)
    return {row.id: row.title for row in db.execute(found.where(RecordRow.id.in_(ids)))}


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


def hold(db: Session, job_id: str) -> datetime:
    """Let one writer at a time at the records of a job, until the transaction ends. Gives the database's time then."""
    db.execute(select(func.pg_advisory_xact_lock(func.hashtext(f"records {job_id}"))))
    now = db.scalar(select(func.clock_timestamp()))
    assert isinstance(now, datetime)  # noqa: S101 - that is what the function gives
    return now


def already(db: Session, job_id: str, sent: Sent) -> AnyRecord | None:
    """The record of this id, when it was sent before. Raises OtherRecord when that one says something else."""
    row = db.get(RecordRow, sent.record_id, populate_existing=True)
    if row is None:
        return None
    # A row from before digests were kept is told by what it is about.
    same = row.digest == sent.digest if row.digest else (row.kind, row.subject, row.by) == (sent.kind, sent.subject, sent.by)
    if row.job_id != job_id or not same:
        raise OtherRecord
    return _record(row)


def _moment(at: datetime | None) -> str | None:
    return at.astimezone(UTC).isoformat(timespec="microseconds") if at else None


def _content(row: RecordRow) -> Mapping[str, Any]:
    """What of a row is chained: everything that it says."""
    said = {"id": row.id, "job_id": row.job_id, "kind": row.kind, "subject": row.subject, "value": row.value, "by": row.by}
    more = {"role": row.role, "at": _moment(row.at), "corrects": row.corrects, "digest": row.digest}
    return {**said, **more, "received_at": _moment(row.received_at)}


def add_record(db: Session, job_id: str, sent: Sent, record: AnyRecord) -> AnyRecord:
    """Add one record, or give back the one that an earlier or a racing send of the same has added. The job's records are held.

    It takes the place of the newest of its act and kind that was done before it: one that arrives late takes that of none that is newer.
    Raises OtherRecord when the id is taken by a record of other content.
    """
    before = db.scalar(
        select(RecordRow.id)
        .where(RecordRow.job_id == job_id, RecordRow.kind == record.kind, RecordRow.subject == record.act, RecordRow.at <= record.done_at)
        .where(RecordRow.id != record.id)
        .order_by(RecordRow.at.desc())
        .limit(1)
    )
    if record.kind in BESIDE:
        before = None
    said = record.model_copy(update={"corrects": record.corrects or before, "received_at": None}).model_dump(mode="json")
    row = {"id": record.id, "job_id": job_id, "kind": record.kind, "subject": record.act, "value": said, "by": record.by}
    db.execute(
        insert(RecordRow)
        .values(**row, role=record.role, at=record.done_at, received_at=func.clock_timestamp(), corrects=before, digest=sent.digest)
        .on_conflict_do_nothing(index_elements=["id"])
    )
    found = already(db, job_id, sent)
    assert found is not None  # noqa: S101 - it was added above, or by who held the id meanwhile
    _link(db, job_id, record.id)
    return found


def _link(db: Session, job_id: str, record_id: str) -> None:
    """Chain a record that is not chained yet behind the last one."""
    if db.scalar(select(RecordLink.place).where(RecordLink.record_id == record_id)) is not None:
        return
    row = db.get_one(RecordRow, record_id)
    place, last = _last(db, job_id)
    db.add(RecordLink(job_id=job_id, place=place + 1, record_id=record_id, hash=chain.linked(last, _content(row))))
    db.flush()
    told = json.dumps({"job": job_id, "act": row.subject, "by": row.by, "who": row.value.get("doer", ""), "id": record_id})
    db.execute(select(func.pg_notify(CHANNEL, told)))


def _last(db: Session, job_id: str) -> tuple[int, str]:
    newest = select(RecordLink.place, RecordLink.hash).where(RecordLink.job_id == job_id).order_by(RecordLink.place.desc()).limit(1)
    found = db.execute(newest).first()
    return (found.place, found.hash) if found else (0, chain.START)


def head(db: Session, job_id: str) -> str:
    """The last hash of a job's chain; that of no record where there is none."""
    return _last(db, job_id)[1]


def chain_faults(db: Session, job_id: str) -> list[str]:
    """What is wrong with the chain of a job's records, in words."""
    links = db.scalars(select(RecordLink).where(RecordLink.job_id == job_id))
    rows = db.scalars(select(RecordRow).where(RecordRow.job_id == job_id))
    found = [chain.Link(link.place, link.record_id, link.hash) for link in links]
    return chain.faults(found, {row.id: _content(row) for row in rows})

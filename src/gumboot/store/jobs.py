"""Jobs and their revisions: edits, conflicts, undo and redo."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import ValidationError
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gumboot.core.errors import GumbootError
from gumboot.core.job import BadPath, Job, read_path, set_path
from gumboot.core.job.fitting import leader_stays
from gumboot.core.job.upgrade import upgraded
from gumboot.store.models import JobRow, RevisionRow
from gumboot.store.recent import Recent


@dataclass(frozen=True, slots=True)
class Revision:
    """A revision as the pages need it."""

    job_id: str
    number: int
    job: Job
    author: str
    at: datetime
    note: str
    can_undo: bool
    can_redo: bool


class NoSuchJob(Exception):
    """No job of that id."""


class Unreadable(Exception):
    """A job whose document this version cannot read; the document itself stays as it is."""

    def __init__(self, job_id: str, title: str, reason: str) -> None:
        super().__init__(reason)
        self.job_id, self.title, self.reason = job_id, title, reason


class NotRead(GumbootError):
    """An edit that names a revision which the job does not have."""


class NothingToUndo(Exception):
    """The history has no step in that direction."""


class Conflict(Exception):
    """Someone changed the same field since the page was drawn. Nothing was written."""

    def __init__(self, path: str, yours: Any, theirs: Any, by: str, head: int) -> None:
        super().__init__(f"{by} changed {path} to {theirs!r} meanwhile; yours is {yours!r}.")
        self.path, self.yours, self.theirs, self.by, self.head = path, yours, theirs, by, head


def ids(db: Session) -> list[str]:
    """Ids of all jobs."""
    return list(db.scalars(select(JobRow.id).order_by(JobRow.id)))


def list_jobs(db: Session) -> list[JobRow]:
    """All jobs by title."""
    return list(db.scalars(select(JobRow).order_by(JobRow.title)))


def hold_names(db: Session) -> None:
    """Whoever else begins a job waits until this one is written: two jobs of one title get two ids."""
    db.execute(select(func.pg_advisory_xact_lock(func.hashtext("job names"))))


def create_job(db: Session, job: Job, author: str, demo: bool = False) -> None:
    """A new job with its first revision. Raises IntegrityError when the id is taken."""
    db.add(JobRow(id=job.id, title=job.title, head=1, demo=demo))
    db.flush()
    db.add(
        RevisionRow(job_id=job.id, number=1, document=job.model_dump(mode="json"), author=author, note="begun", content_of=1, previous=None)
    )
    db.flush()


def _row(db: Session, job_id: str, number: int | None = None) -> RevisionRow:
    head = db.get(JobRow, job_id)
    row = db.get(RevisionRow, (job_id, number or head.head)) if head else None
    if row is None:
        raise NoSuchJob(job_id)
    return row


def _redo_target(db: Session, job_id: str, content: int) -> int | None:
    """The newest content that followed this one: what redo brings back."""
    return db.scalar(
        select(RevisionRow.number)
        .where(RevisionRow.job_id == job_id, RevisionRow.previous == content, RevisionRow.number == RevisionRow.content_of)
        .order_by(RevisionRow.number.desc())
        .limit(1)
    )


# Parsed documents of the revisions seen last. A revision never changes; the time tells it from one of a database made anew.
_PARSED: Recent[tuple[str, int, datetime], Job] = Recent(256)


def _job(row: RevisionRow) -> Job:
    key = (row.job_id, row.number, row.at)
    known = _PARSED.get(key)
    if known is None:
        try:
            known = Job.model_validate(row.document)
        except ValidationError as refused:
            first = refused.errors()[0]
            where = ".".join(str(p) for p in first["loc"])
            title = str(row.document.get("title") or row.job_id)
            raise Unreadable(row.job_id, title, f"{where + ': ' if where else ''}{first['msg'].removeprefix('Value error, ')}") from None
        _PARSED.keep(key, known)
    return known


def load(db: Session, job_id: str, number: int | None = None) -> Revision:
    """A revision of a job, the newest by default. Raises NoSuchJob."""
    row = _row(db, job_id, number)
    redo = _redo_target(db, job_id, row.content_of)
    return Revision(job_id, row.number, _job(row), row.author, row.at, row.note, row.previous is not None, redo is not None)


def raw_document(db: Session, job_id: str) -> dict[str, Any]:
    """The newest document as it stands, whether or not this version can read it. Raises NoSuchJob."""
    return _row(db, job_id).document


def history(db: Session, job_id: str, limit: int = 50) -> list[RevisionRow]:
    """Newest revisions first."""
    return list(db.scalars(select(RevisionRow).where(RevisionRow.job_id == job_id).order_by(RevisionRow.number.desc()).limit(limit)))


def _append(db: Session, job_id: str, build: Callable[[RevisionRow], RevisionRow | None], made: list[Job] | None = None) -> Revision:
    """Write the next revision; whoever else edits this job waits on its row, and then builds on what was written.

    ``made`` holds the job that ``build`` wrote down last, where it has it: it need not be read back from its own document.
    """
    job_row = db.scalar(select(JobRow).where(JobRow.id == job_id).with_for_update().execution_options(populate_existing=True))
    if job_row is None:
        raise NoSuchJob(job_id)
    row = build(_row(db, job_id))
    if row is None:
        return load(db, job_id)
    db.add(row)
    job_row.head, job_row.title = row.number, row.document["title"]
    db.flush()
    if made:
        _PARSED.keep((job_id, row.number, row.at), made[-1])
    return load(db, job_id)


def _inverters(job: Job) -> list[str]:
    return [t.id for t in job.things if t.seat == "inverter"]


Upkeep = Callable[[Job], Job]


def _as_is(job: Job) -> Job:
    return job


def edit(db: Session, job_id: str, base: int, path: str, value: Any, author: str, upkeep: Upkeep = _as_is) -> Revision:
    """Set one field. A change elsewhere since ``base`` is kept; a change of the same field raises Conflict.

    ``upkeep`` adds what a job needs beside what was typed, in the same revision.
    Raises NotRead for a ``base`` that is not there, BadPath for an unknown field, pydantic's ValidationError when the job would be invalid,
    StillNeeded where another inverter of the house would lead it.
    """

    made: list[Job] = []

    def build(head: RevisionRow) -> RevisionRow | None:
        if not 1 <= base <= head.number:
            raise NotRead(f"Revision {base} of this job is not there; the newest is {head.number}. Reload the page and set it again.")
        if head.number != base:
            seen, now = (_value(upgraded(row.document), path) for row in (_row(db, job_id, base), head))
            if now not in (seen, value):
                raise Conflict(path, value, now, _last_author(db, job_id, path, base) or head.author, head.number)
        # A document written before a field existed gets the field with its default first, so that a path to it is known.
        known = _job(head)
        whole, changed = known.model_dump(mode="json"), known.model_dump(mode="json")
        set_path(changed, path, value)
        made.append(upkeep(Job.model_validate(changed)))
        document = made[-1].model_dump(mode="json")
        if document == whole:
            return None  # a field left as it stands, or one Enter sent twice, is no step in the history
        leader_stays(_inverters(known), _inverters(made[-1]))
        return RevisionRow(
            job_id=job_id,
            number=head.number + 1,
            document=document,
            author=author,
            note=f"{path} = {value}"[:200],
            content_of=head.number + 1,
            previous=head.content_of,
        )

    return _append(db, job_id, build, made)


def rewrite(db: Session, job_id: str, change: Callable[[Job], Job], note: str, author: str) -> Revision:
    """One act that sets several fields, as one revision. ``change`` is given the newest content.

    Raises pydantic's ValidationError when the job would be invalid, StillNeeded where another inverter of the house would lead it.
    """

    def build(head: RevisionRow) -> RevisionRow:
        known = _job(head)
        changed = Job.model_validate(change(known).model_dump(mode="json"))
        document = changed.model_dump(mode="json")
        leader_stays(_inverters(known), _inverters(changed))
        return RevisionRow(
            job_id=job_id,
            number=head.number + 1,
            document=document,
            author=author,
            note=note[:200],
            content_of=head.number + 1,
            previous=head.content_of,
        )

    return _append(db, job_id, build)


def _value(document: dict[str, Any], path: str) -> Any:
    try:
        return read_path(document, path)
    except BadPath:
        return None


def _last_author(db: Session, job_id: str, path: str, base: int) -> str | None:
    rows = db.scalars(
        select(RevisionRow).where(RevisionRow.job_id == job_id, RevisionRow.number > base).order_by(RevisionRow.number.desc())
    )
    return next((r.author for r in rows if r.note.startswith(f"{path} =")), None)


def undo(db: Session, job_id: str, author: str) -> Revision:
    """A new revision with the content before the present one. Raises NothingToUndo."""

    def build(head: RevisionRow) -> RevisionRow:
        if head.previous is None:
            raise NothingToUndo
        source = _row(db, job_id, head.previous)
        return RevisionRow(
            job_id=job_id,
            number=head.number + 1,
            document=source.document,
            author=author,
            note=f"undo: {_row(db, job_id, head.content_of).note}"[:200],
            content_of=source.content_of,
            previous=source.previous,
        )

    return _append(db, job_id, build)


def redo(db: Session, job_id: str, author: str) -> Revision:
    """A new revision with the content that was undone last. Raises NothingToUndo."""

    def build(head: RevisionRow) -> RevisionRow:
        target = _redo_target(db, job_id, head.content_of)
        if target is None:
            raise NothingToUndo
        source = _row(db, job_id, target)
        return RevisionRow(
            job_id=job_id,
            number=head.number + 1,
            document=source.document,
            author=author,
            note=f"redo: {source.note}"[:200],
            content_of=target,
            previous=source.previous,
        )

    return _append(db, job_id, build)

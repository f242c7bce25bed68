"""Pictures of the work, kept by the hash of their content."""

from __future__ import annotations

import hashlib

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.store.models import PhotoRow

MOST_BYTES = 8_000_000
# What a picture begins with, and what it is then.
KINDS = ((b"\xff\xd8\xff", "image/jpeg"), (b"\x89PNG\r\n\x1a\n", "image/png"))


class BadPhoto(Exception):
    """It is no picture that is kept; the text says why and what to do."""


def kind_of(content: bytes) -> str:
    """The kind of a picture by its first bytes. Raises BadPhoto."""
    if len(content) > MOST_BYTES:
        raise BadPhoto(f"The picture is larger than {MOST_BYTES // 1_000_000} MB: take it in a smaller size.")
    for begins, kind in KINDS:
        if content.startswith(begins):
            return kind
    raise BadPhoto("That is no JPEG or PNG picture." if content else "Choose a picture.")


def keep(db: Session, job_id: str, content: bytes) -> str:
    """Keep a picture of a house, once however often it is sent. Gives its hash. Raises BadPhoto."""
    kind, name = kind_of(content), hashlib.sha256(content).hexdigest()
    row = {"job_id": job_id, "hash": name, "kind": kind, "content": content}
    db.execute(insert(PhotoRow).values(**row).on_conflict_do_nothing(index_elements=["job_id", "hash"]))
    return name


def photo(db: Session, job_id: str, name: str) -> tuple[str, bytes] | None:
    """Kind and content of a picture of a house; None where there is none of that hash."""
    row = db.execute(select(PhotoRow.kind, PhotoRow.content).where(PhotoRow.job_id == job_id, PhotoRow.hash == name)).first()
    return (row.kind, row.content) if row else None

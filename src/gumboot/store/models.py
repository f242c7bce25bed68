"""Tables. Records have no update path here, and the database refuses one as well."""

from __future__ import annotations

import secrets
from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, ForeignKeyConstraint, String, Text, func
from sqlalchemy.dialects.postgresql import JSONB, TIMESTAMP
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

ROLES = ("planner", "installer", "licence holder", "apprentice")


class Base(DeclarativeBase):
    """Declarative base."""

    type_annotation_map = {dict[str, Any]: JSONB, datetime: TIMESTAMP(timezone=True)}


class User(Base):
    """A local account."""

    __tablename__ = "users"
    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    display: Mapped[str] = mapped_column(String(80))
    role: Mapped[str] = mapped_column(String(20))
    password_hash: Mapped[str] = mapped_column(Text)
    disabled: Mapped[bool] = mapped_column(default=False)
    # Under which this person's phones keep what they carry.
    phone_key: Mapped[bytes] = mapped_column(default=lambda: secrets.token_bytes(32))


class SignIn(Base):
    """A server-side session; the cookie's token is kept only as a hash."""

    __tablename__ = "sign_ins"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"))
    csrf: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime]


class SignInFailure(Base):
    """A failed sign-in, counted for throttling."""

    __tablename__ = "sign_in_failures"
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    user_name: Mapped[str] = mapped_column(String(60), index=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class JobRow(Base):
    """A job and the number of its newest revision."""

    __tablename__ = "jobs"
    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    title: Mapped[str] = mapped_column(String(80))
    head: Mapped[int]
    demo: Mapped[bool] = mapped_column(default=False)


class RevisionRow(Base):
    """One revision. ``content_of`` is the revision whose content it shows; ``previous`` the content before that one.

    An undo is a new revision that shows older content, so the history itself is never rewritten.
    """

    __tablename__ = "revisions"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    note: Mapped[str] = mapped_column(String(200))
    content_of: Mapped[int]
    previous: Mapped[int | None]


class RecordRow(Base):
    """What someone did or measured: ``at`` is when it was done, ``received_at`` when it arrived; ``digest`` is of what was sent."""

    __tablename__ = "records"
    __table_args__ = (ForeignKeyConstraint(["job_id"], ["jobs.id"]),)
    id: Mapped[str] = mapped_column(String(36), primary_key=True)
    job_id: Mapped[str] = mapped_column(String(80), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    subject: Mapped[str] = mapped_column(String(200))
    value: Mapped[dict[str, Any]]
    by: Mapped[str] = mapped_column(String(80))
    role: Mapped[str] = mapped_column(String(20))
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    corrects: Mapped[str | None] = mapped_column(String(36))
    received_at: Mapped[datetime | None] = mapped_column(server_default=func.clock_timestamp())
    digest: Mapped[str | None] = mapped_column(String(64))


class RecordLink(Base):
    """A link of the chain of a job's records, by the place in which each was received."""

    __tablename__ = "record_links"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True)
    record_id: Mapped[str] = mapped_column(ForeignKey("records.id"), unique=True)
    hash: Mapped[str] = mapped_column(String(64))


class Feed(Base):
    """A calendar that is fetched by a token; the token is kept only as a hash."""

    __tablename__ = "feeds"
    token_hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"), unique=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class PhotoRow(Base):
    """A picture of the work, by the hash of its content."""

    __tablename__ = "photos"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    content: Mapped[bytes]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class HoldingRow(Base):
    """A box in somebody's hand."""

    __tablename__ = "holdings"
    job_id: Mapped[str] = mapped_column(ForeignKey("jobs.id", ondelete="CASCADE"), primary_key=True)
    thing: Mapped[str] = mapped_column(String(80), primary_key=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class CardNoteRow(Base):
    """What was made of a note that a crew wrote of a card. Rows are added and never changed."""

    __tablename__ = "card_notes"
    record_id: Mapped[str] = mapped_column(ForeignKey("records.id"), primary_key=True)
    card_id: Mapped[str] = mapped_column(String(80), index=True)
    topic: Mapped[str] = mapped_column(String(20))
    text: Mapped[str] = mapped_column(String(300))
    taken: Mapped[bool]
    reason: Mapped[str] = mapped_column(String(300), default="")
    decided_by: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class CardRow(Base):
    """One revision of a card, the catalogue's or the company's own. Rows are added and never changed: a job keeps the revision it names."""

    __tablename__ = "cards"
    id: Mapped[str] = mapped_column(String(80), primary_key=True)
    revision: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]
    origin: Mapped[str] = mapped_column(String(20))
    author: Mapped[str] = mapped_column(String(80))
    at: Mapped[datetime] = mapped_column(server_default=func.now())

"""Calendars fetched by a token that a person makes and withdraws."""

from __future__ import annotations

import hashlib
import secrets

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from gumboot.store.models import Feed, User


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def has(db: Session, name: str) -> bool:
    """Whether a person's calendar can be fetched."""
    return db.scalar(select(Feed.user_name).where(Feed.user_name == name)) is not None


def renew(db: Session, name: str) -> str:
    """A new token for a person's calendar; an earlier one is worth nothing from now on. Shown once: only its hash is kept."""
    withdraw(db, name)
    token = secrets.token_urlsafe(24)
    db.add(Feed(token_hash=_hash(token), user_name=name))
    db.flush()
    return token


def withdraw(db: Session, name: str) -> None:
    """Let nobody fetch a person's calendar any more."""
    db.execute(delete(Feed).where(Feed.user_name == name))


def owner(db: Session, token: str) -> User | None:
    """Whose calendar a token fetches; None for a token that was withdrawn, and for an account that is off."""
    user = db.scalar(select(User).join(Feed, Feed.user_name == User.name).where(Feed.token_hash == _hash(token)))
    return user if user is not None and not user.disabled else None

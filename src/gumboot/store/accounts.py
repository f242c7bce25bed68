"""Sign-in: argon2 hashes, server-side sessions, throttled failures."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import VerifyMismatchError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from gumboot.store.models import SignIn, SignInFailure, User

HASHER = PasswordHasher()
# Verified when the name is unknown, so that the answer takes as long as for a known one.
_NOBODY = HASHER.hash(secrets.token_hex(16))
SESSION_LENGTH = timedelta(hours=14)
MOST_FAILURES, FAILURE_WINDOW = 5, timedelta(minutes=5)


@dataclass(frozen=True, slots=True)
class Who:
    """The signed-in person."""

    name: str
    display: str
    role: str
    csrf: str


class Throttled(Exception):
    """Too many failures for one name; try again later."""


def add_user(db: Session, name: str, display: str, role: str, password: str) -> None:
    """Add an account or leave an existing one as it is."""
    if db.get(User, name) is None:
        db.add(User(name=name, display=display, role=role, password_hash=HASHER.hash(password)))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def sign_in(db: Session, name: str, password: str) -> str | None:
    """A new session token, or None for a wrong name or password. Raises Throttled after five failures in five minutes."""
    name = name.strip().lower()[:60]
    since = datetime.now(UTC) - FAILURE_WINDOW
    failures = db.scalar(select(func.count()).select_from(SignInFailure).where(SignInFailure.user_name == name, SignInFailure.at > since))
    if (failures or 0) >= MOST_FAILURES:
        raise Throttled
    user = db.get(User, name)
    try:
        HASHER.verify(user.password_hash if user else _NOBODY, password)
    except VerifyMismatchError:
        db.add(SignInFailure(user_name=name))
        return None
    if user is None:
        return None
    token = secrets.token_urlsafe(32)
    db.execute(delete(SignInFailure).where(SignInFailure.user_name == name))
    db.execute(delete(SignIn).where(SignIn.expires_at < datetime.now(UTC)))
    db.add(
        SignIn(token_hash=_hash(token), user_name=user.name, csrf=secrets.token_urlsafe(24), expires_at=datetime.now(UTC) + SESSION_LENGTH)
    )
    return token


def who(db: Session, token: str | None) -> Who | None:
    """The person behind a session token, while it lasts."""
    if not token:
        return None
    row = db.execute(
        select(SignIn, User)
        .join(User, User.name == SignIn.user_name)
        .where(SignIn.token_hash == _hash(token), SignIn.expires_at > datetime.now(UTC))
    ).first()
    return Who(row[1].name, row[1].display, row[1].role, row[0].csrf) if row else None


def sign_out(db: Session, token: str) -> None:
    """End a session."""
    db.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))

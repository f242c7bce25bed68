"""Accounts and sign-in: argon2 hashes, server-side sessions, throttled failures."""

from __future__ import annotations

import hashlib
import re
import secrets
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from threading import BoundedSemaphore

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from gumboot.store.models import ROLES, SignIn, SignInFailure, User

HASHER = PasswordHasher()
# Verified when the name is unknown, so that the answer takes as long as for a known one.
_NOBODY = HASHER.hash(secrets.token_hex(16))
# A check takes 64 MiB: so many at once, and no more, whoever asks.
CHECKS_AT_ONCE, CHECK_PATIENCE_S = 2, 4.0
_CHECKS = BoundedSemaphore(CHECKS_AT_ONCE)
SESSION_LENGTH = timedelta(hours=14)
MOST_FAILURES, FAILURE_WINDOW = 5, timedelta(minutes=5)
LEAST_PASSWORD, MOST_PASSWORD = 10, 200
NAME = re.compile(r"[a-z0-9][a-z0-9._-]{0,58}")


@dataclass(frozen=True, slots=True)
class Who:
    """The signed-in person."""

    name: str
    display: str
    role: str
    csrf: str


class Throttled(Exception):
    """Too many failures for one name; try again later."""


class Busy(Exception):
    """More passwords are being checked than memory is set aside for; try again in a moment."""


class Published(Exception):
    """The password is right, but everybody knows it: the account needs a new one first."""


class BadAccount(Exception):
    """An account that cannot be made or changed so; the text says why and what to do."""


def _password(password: str, never: str = "") -> str:
    if not LEAST_PASSWORD <= len(password) <= MOST_PASSWORD:
        raise BadAccount(f"A password has {LEAST_PASSWORD} to {MOST_PASSWORD} letters; this one has {len(password)}.")
    if never and password == never:
        raise BadAccount("That is the demo's published password. Choose another.")
    return HASHER.hash(password)


def _account(db: Session, name: str) -> User:
    user = db.get(User, name.strip().lower())
    if user is None:
        raise BadAccount(f"There is no account '{name}'. ./gumboot user list shows them.")
    return user


def add_user(db: Session, name: str, display: str, role: str, password: str) -> bool:
    """Add an account or leave an existing one as it is; whether it was added. Raises BadAccount."""
    if not NAME.fullmatch(name):
        raise BadAccount(f"'{name}' is no name for an account. Use small letters, digits, dot, dash; at most 59 of them.")
    if role not in ROLES:
        raise BadAccount(f"'{role}' is no role. Choose one of {', '.join(ROLES)}.")
    if not display.strip() or len(display) > 80:
        raise BadAccount("Give the person's name as records show it, in at most 80 letters.")
    if db.get(User, name) is not None:
        return False
    db.add(User(name=name, display=display.strip(), role=role, password_hash=_password(password)))
    db.flush()
    return True


def set_password(db: Session, name: str, password: str, never: str = "") -> None:
    """Give an account a new password, switch it on again, and end its sessions. Raises BadAccount."""
    user = _account(db, name)
    user.password_hash, user.disabled = _password(password, never), False
    end_sessions(db, user.name)
    db.execute(delete(SignInFailure).where(SignInFailure.user_name == user.name))


def set_role(db: Session, name: str, role: str) -> None:
    """Give an account another role, at once. Raises BadAccount."""
    if role not in ROLES:
        raise BadAccount(f"'{role}' is no role. Choose one of {', '.join(ROLES)}.")
    _account(db, name).role = role


def disable(db: Session, name: str) -> None:
    """Switch an account off and end its sessions; its records stay under its name. Raises BadAccount."""
    user = _account(db, name)
    user.disabled = True
    end_sessions(db, user.name)


def users(db: Session) -> list[User]:
    """All accounts by name."""
    return list(db.scalars(select(User).order_by(User.name)))


def known_name(db: Session, name: str) -> str:
    """The account's name as it is kept, or nothing."""
    user = db.get(User, name.strip().lower()[:60])
    return user.name if user else ""


def end_sessions(db: Session, name: str) -> None:
    """End every session of an account."""
    db.execute(delete(SignIn).where(SignIn.user_name == name))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def verified(password_hash: str, password: str) -> bool:
    """Whether a password belongs to a hash; so many checks at once as memory is set aside for. Raises Busy."""
    if not _CHECKS.acquire(timeout=CHECK_PATIENCE_S):
        raise Busy
    try:
        return HASHER.verify(password_hash, password)
    except (VerificationError, InvalidHashError):
        return False
    finally:
        _CHECKS.release()


def sign_in(db: Session, name: str, password: str, never: str = "") -> str | None:
    """A new session token, or None for a wrong name or password.

    Each try is counted before it is judged, under a lock of its name, so that tries sent at once cannot pass the limit together; a
    good one takes the counts away again. Commits the count. ``never`` is a password that opens nothing here.
    Raises Throttled after five tries in five minutes, Busy, Published.
    """
    name, now = name.strip().lower()[:60], datetime.now(UTC)
    db.execute(select(func.pg_advisory_xact_lock(func.hashtext(f"sign-in {name}"))))
    db.execute(delete(SignInFailure).where(SignInFailure.at < now - FAILURE_WINDOW))
    tries = db.scalar(select(func.count()).select_from(SignInFailure).where(SignInFailure.user_name == name)) or 0
    if tries >= MOST_FAILURES:
        db.commit()
        raise Throttled
    db.add(SignInFailure(user_name=name))
    db.commit()
    user = db.get(User, name)
    try:
        good = verified(user.password_hash if user else _NOBODY, password[:MOST_PASSWORD])
    except Busy:
        db.execute(delete(SignInFailure).where(SignInFailure.user_name == name))
        db.commit()
        raise
    if user is None or user.disabled or not good:
        return None
    if never and password == never:
        raise Published
    token = secrets.token_urlsafe(32)
    db.execute(delete(SignInFailure).where(SignInFailure.user_name == name))
    db.execute(delete(SignIn).where(SignIn.expires_at < now))
    db.add(SignIn(token_hash=_hash(token), user_name=user.name, csrf=secrets.token_urlsafe(24), expires_at=now + SESSION_LENGTH))
    return token


def who(db: Session, token: str | None) -> Who | None:
    """The person behind a session token, while it lasts and the account is on."""
    if not token:
        return None
    row = db.execute(
        select(SignIn, User)
        .join(User, User.name == SignIn.user_name)
        .where(SignIn.token_hash == _hash(token), SignIn.expires_at > datetime.now(UTC), ~User.disabled)
    ).first()
    return Who(row[1].name, row[1].display, row[1].role, row[0].csrf) if row else None


def phone_key(db: Session, name: str) -> bytes:
    """The key under which this person's phones keep what they carry; 32 bytes, the same for as long as the account lasts."""
    return db.get_one(User, name).phone_key


def sign_out(db: Session, token: str) -> None:
    """End a session."""
    db.execute(delete(SignIn).where(SignIn.token_hash == _hash(token)))

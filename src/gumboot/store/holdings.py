"""Who has which box in hand: a sign to the others of the crew, gone an hour after its last sign of life."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.store.models import HoldingRow, User

LAPSES = timedelta(hours=1)


class Held(Exception):
    """Somebody else has it in hand: their name."""


@dataclass(frozen=True, slots=True)
class Holding:
    """A box in somebody's hand, since when there was a sign last."""

    thing: str
    name: str
    display: str
    at: datetime


def holdings(db: Session, job_id: str) -> dict[str, Holding]:
    """What is in hand at a house, by the thing."""
    fresh = HoldingRow.at > func.now() - LAPSES
    rows = db.execute(
        select(HoldingRow, User.display).join(User, User.name == HoldingRow.user_name).where(HoldingRow.job_id == job_id, fresh)
    )
    return {row.thing: Holding(row.thing, row.user_name, display, row.at) for row, display in rows}


def take(db: Session, job_id: str, thing: str, name: str) -> None:
    """Take a box in hand. Raises Held where another has it."""
    known = holdings(db, job_id).get(thing)
    if known is not None and known.name != name:
        raise Held(known.display)
    row = {"job_id": job_id, "thing": thing, "user_name": name}
    said = insert(HoldingRow).values(**row, at=func.clock_timestamp())
    db.execute(said.on_conflict_do_update(index_elements=["job_id", "thing"], set_={"user_name": name, "at": func.clock_timestamp()}))


def leave(db: Session, job_id: str, thing: str, name: str) -> None:
    """Leave a box that one has in hand."""
    db.execute(delete(HoldingRow).where(HoldingRow.job_id == job_id, HoldingRow.thing == thing, HoldingRow.user_name == name))


def sign(db: Session, job_id: str, thing: str, name: str) -> None:
    """A sign of life: who works at a box that is in their hand has it for another hour."""
    mine = (HoldingRow.job_id == job_id, HoldingRow.thing == thing, HoldingRow.user_name == name)
    db.execute(update(HoldingRow).where(*mine).values(at=func.clock_timestamp()))

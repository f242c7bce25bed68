"""Cards with their revisions: the catalogue's as it was shipped, the company's own, and those that came with a job's file."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from gumboot.catalogue import shelf
from gumboot.catalogue.shipped import digest, listed
from gumboot.core.card import Shelf, parse_card
from gumboot.core.card.model import AnyCard
from gumboot.core.errors import WrongCard
from gumboot.core.job import Job
from gumboot.core.plan.job_file import JobFile, renamed
from gumboot.core.plan.upkeep import chosen
from gumboot.store.models import CardRow

# A revision never changes, so a parsed one is kept.
_PARSED: dict[tuple[str, int], AnyCard] = {}


class CardTaken(Exception):
    """The catalogue has a card of this id; the company's own needs another."""


def sync_catalogue(db: Session) -> None:
    """Keep every shipped revision, so that a job planned with it can still be planned after an upgrade."""
    rows = [
        {"id": c.id, "revision": c.revision, "document": c.model_dump(mode="json"), "origin": "catalogue", "author": "catalogue"}
        for c in shelf().values()
    ]
    db.execute(insert(CardRow).values(rows).on_conflict_do_nothing())


def _parsed(row: CardRow) -> AnyCard:
    key = (row.id, row.revision)
    found = _PARSED.get(key)
    if found is None:
        found = _PARSED[key] = parse_card(row.document)
    return found


def newest_company(db: Session) -> dict[str, CardRow]:
    """The newest revision of each of the company's own cards."""
    newest = (
        select(CardRow.id, func.max(CardRow.revision).label("revision")).where(CardRow.origin == "company").group_by(CardRow.id).subquery()
    )
    rows = db.scalars(select(CardRow).join(newest, (CardRow.id == newest.c.id) & (CardRow.revision == newest.c.revision)))
    return {row.id: row for row in rows}


def whole_shelf(db: Session) -> dict[str, AnyCard]:
    """Every card at its newest revision, the catalogue's and the company's own."""
    found = {**shelf()}
    for card_id, row in newest_company(db).items():
        # One that this version cannot read is not offered, and takes nothing else down with it.
        with suppress(ValueError):
            found[card_id] = _parsed(row)
    return found


def shelf_for(db: Session, job: Job, newest: Mapping[str, AnyCard] | None = None) -> Shelf:
    """The shelf a job is planned with: every card at its newest revision, and the job's own at the revisions it names.

    Raises WrongCard for a revision that is not kept: another one is never taken in its place.
    """
    cards = dict(newest if newest is not None else whole_shelf(db))
    for card_id, revision in job.cards.items():
        if card_id in cards and cards[card_id].revision == revision:
            continue
        row = db.get(CardRow, (card_id, revision))
        if row is None:
            raise WrongCard(
                f"This job is planned with revision {revision} of the card '{card_id}', which is not kept here. Read that card in first, or plan with another revision."
            )
        try:
            cards[card_id] = _parsed(row)
        except ValueError as refused:
            raise WrongCard(f"Revision {revision} of the card '{card_id}' cannot be read by this version: {str(refused)[:200]}") from None
    return cards


def revision_of(db: Session, card_id: str, revision: int) -> AnyCard | None:
    """One revision of a card, None when there is none."""
    row = db.get(CardRow, (card_id, revision))
    return _parsed(row) if row is not None else None


def revisions(db: Session, card_id: str) -> list[CardRow]:
    """All kept revisions of a card, newest first."""
    return list(db.scalars(select(CardRow).where(CardRow.id == card_id).order_by(CardRow.revision.desc())))


def save_company_card(db: Session, document: dict[str, Any], author: str) -> AnyCard:
    """A new card of the company's own, or the next revision of one it has; the revision is counted here.

    A document equal to the newest revision adds nothing. Raises CardTaken for an id of the catalogue, ValidationError for a bad one.
    """
    card_id = str(document.get("id", ""))
    if card_id in shelf():
        raise CardTaken(card_id)
    # Two who save one card at once: the second sees the first's revision.
    db.execute(select(func.pg_advisory_xact_lock(func.hashtext(f"card {card_id}"))))
    newest = newest_company(db).get(card_id)
    # One that a job's file brought along has its number for good, whoever's card it is.
    last = db.scalar(select(func.max(CardRow.revision)).where(CardRow.id == card_id)) or 0
    card = parse_card({**document, "revision": last + 1})
    if newest is not None and parse_card({**newest.document, "revision": card.revision}) == card:
        return _parsed(newest)
    db.add(CardRow(id=card.id, revision=card.revision, document=card.model_dump(mode="json"), origin="company", author=author))
    db.flush()
    return card


def behind(db: Session, job: Job, newest: Mapping[str, AnyCard]) -> dict[str, tuple[AnyCard, AnyCard]]:
    """Cards of a job of which a newer revision is kept: the one it is planned with, and the newest."""
    found = {}
    for card_id in chosen(job):
        pinned = job.cards.get(card_id)
        if card_id in newest and pinned is not None and pinned < newest[card_id].revision:
            old = revision_of(db, card_id, pinned)
            if old is not None:
                found[card_id] = (old, newest[card_id])
    return found


def _is_free(db: Session, card: AnyCard) -> bool:
    """Whether a card from elsewhere may be kept under its own id: no card here has it, or it is an old one of the catalogue's, word for
    word as that was shipped."""
    if card.id in shelf():
        return listed().get((card.id, card.revision)) == digest(card) and revision_of(db, card.id, card.revision) is None
    return not revisions(db, card.id)


def take_in(db: Session, file: JobFile, author: str) -> Job:
    """Keep the cards that a job's file carries, as they are, and give back the job.

    One that is here already is not kept again. One whose id means another card here gets an id that is free, in the job as well.
    """
    db.execute(select(func.pg_advisory_xact_lock(func.hashtext("cards carried"))))
    for card in list(file.cards.values()):
        here = shelf().get(card.id)
        known = here if here is not None and here.revision == card.revision else revision_of(db, card.id, card.revision)
        if known == card:
            continue
        kept = card
        if not _is_free(db, card):
            name = next(f"{card.id}-{n}" for n in range(2, 1000) if f"{card.id}-{n}" not in shelf() and not revisions(db, f"{card.id}-{n}"))
            file = renamed(file, card.id, name)
            kept = file.cards[name]
        row = CardRow(id=kept.id, revision=kept.revision, document=kept.model_dump(mode="json"), origin="carried", author=author)
        db.add(row)
        db.flush()
    return file.job

"""The file of a job: its document, and behind it the cards that it is planned with, so that it derives the same anywhere."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import ValidationError

from gumboot.core.card import Shelf, parse_card
from gumboot.core.card.model import AnyCard
from gumboot.core.errors import WrongCard
from gumboot.core.job import Job
from gumboot.core.plan.upkeep import chosen

CARRIES = "carries"


@dataclass(frozen=True)
class JobFile:
    """What a file holds: a job, and cards by id; none in a file of earlier times."""

    job: Job
    cards: Mapping[str, AnyCard]

    def shelf(self, ours: Shelf) -> Shelf:
        """The shelf to plan with: the file's own cards before those of the catalogue."""
        return {**ours, **self.cards}


def job_file(job: Job, shelf: Shelf) -> str:
    """The file of a job with every card's revision, byte-stable: writing what was read gives the same bytes."""
    carried = [shelf[card] for card in sorted(chosen(job)) if card in shelf]
    revisions = {**{card.id: card.revision for card in carried}, **job.cards}
    document = {**job.model_dump(mode="json"), "cards": dict(sorted(revisions.items()))}
    return json.dumps({**document, CARRIES: [card.model_dump(mode="json") for card in carried]}, indent=1, ensure_ascii=False) + "\n"


def _card(document: object, at: int) -> AnyCard:
    try:
        return parse_card(document)
    except ValidationError as refused:
        first = refused.errors()[0]
        name = document.get("id", at + 1) if isinstance(document, dict) else at + 1
        raise WrongCard(f"{CARRIES}, card {name}, {'.'.join(str(p) for p in first['loc'])}: {first['msg']}.") from None
    except ValueError as refused:
        raise WrongCard(f"{CARRIES}, card {at + 1}: {refused}.") from None


def read_job_file(document: object) -> JobFile:
    """A file as it was parsed. Raises ValidationError for a bad job, WrongCard for a bad card or one that the job is not planned with."""
    if not isinstance(document, dict) or CARRIES not in document:
        return JobFile(Job.model_validate(document), {})
    job = Job.model_validate({key: value for key, value in document.items() if key != CARRIES})
    rows = document[CARRIES]
    if not isinstance(rows, list) or len(rows) > len(chosen(job)):
        raise WrongCard(f"{CARRIES} is a list of the cards that the job names. Take it out to plan with the cards that are here.")
    cards = {card.id: card for card in (_card(row, at) for at, row in enumerate(rows))}
    for card in cards.values():
        pinned = job.cards.get(card.id, card.revision)
        if card.id not in chosen(job) or pinned != card.revision:
            raise WrongCard(f"{CARRIES} has revision {card.revision} of {card.id}; the job is not planned with it.")
    return JobFile(job.model_copy(update={"cards": {**job.cards, **{card.id: card.revision for card in cards.values()}}}), cards)


def renamed(file: JobFile, old: str, new: str) -> JobFile:
    """The same with one card under another id."""

    def put(value: str) -> str:
        return new if value == old else value

    job = file.job
    document = job.model_dump(mode="json")
    for owner in (*document["things"], *document["banks"], *document["sensing"]["meters"], *document["modbus"]["devices"]):
        owner["card"] = put(owner["card"])
    for face in document["faces"]:
        face["module"] = put(face["module"])
    document["equipment"] = {place: put(card) for place, card in document["equipment"].items()}
    document["cards"] = {put(card): revision for card, revision in document["cards"].items()}
    cards = {put(card.id): card.model_copy(update={"id": put(card.id)}) for card in file.cards.values()}
    return JobFile(Job.model_validate(document), cards)

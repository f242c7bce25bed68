"""What each card that fits a place would bring when it is chosen: every candidate is planned whole, so that every rule speaks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from pydantic import ValidationError

from gumboot.core.card import Shelf
from gumboot.core.errors import GumbootError
from gumboot.core.finding import Finding
from gumboot.core.job import Job, write_path
from gumboot.core.job.fitting import fit
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.upkeep import chooses_cts, completed
from gumboot.core.study.fit import Fit, fits


@dataclass(frozen=True)
class Offer:
    """A card for a place. ``against`` says why it cannot stand there; ``then`` are the stops that choosing it would bring."""

    fit: Fit
    against: tuple[str, ...]
    then: tuple[Finding, ...] = ()

    @property
    def stands(self) -> bool:
        """Whether it may be chosen and nothing new stops."""
        return not self.against and not self.then


def with_card(job: Job, shelf: Shelf, path: str, card: str) -> Job:
    """The job with a card at a place, and what a choice adds to it: runs of new circuits, CTs. Raises GumbootError, ValidationError."""
    document = job.model_dump(mode="json")
    if path.startswith("things."):
        fit(document, path.split(".")[1], card)
    else:
        document = write_path(document, path, card)
    document["cards"] = {held: revision for held, revision in document["cards"].items() if held != card}
    made = Job.model_validate(document)
    return completed(made, shelf, fit_cts=chooses_cts(made, path))


def _said(refused: Exception) -> str:
    if isinstance(refused, ValidationError):
        return str(refused.errors()[0]["msg"]).removeprefix("Value error, ")
    return str(refused)


def offers(plan: Plan, shelf: Shelf, path: str, role: str) -> Iterator[Offer]:
    """Every card of a place's kind, those that may be chosen without a new stop first, then those that bring one, then the others."""
    known, found = {f.key for f in plan.stops}, []
    for row in fits(plan.job, shelf, role, path):
        if row.against:
            found.append(Offer(row, row.against))
            continue
        try:
            other = derive(with_card(plan.job, shelf, path, row.card.id), shelf, plan)
        except (GumbootError, ValidationError) as refused:
            found.append(Offer(row, (_said(refused),)))
        else:
            found.append(Offer(row, (), tuple(f for f in other.stops if f.key not in known)))
    return iter(sorted(found, key=lambda o: (bool(o.against), len(o.then))))

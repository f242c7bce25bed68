"""The ledger of one derivation: figures, findings and gaps as they are worked out."""

from __future__ import annotations

from typing import Any

from gumboot.core.card import Shelf
from gumboot.core.errors import UnknownCard, WrongCard
from gumboot.core.figure import Figure, job_input
from gumboot.core.finding import Gap
from gumboot.core.job import Job, read_path
from gumboot.core.quantity import locate, quantity
from gumboot.core.rulebook.books import book
from gumboot.core.seats import KIND_OF_ROLE, seats_of
from gumboot.core.workbook import Workbook


class Ledger(Workbook):
    """Collects what the plan modules derive. One per derivation; never shared."""

    def __init__(self, job: Job, shelf: Shelf) -> None:
        super().__init__(book(job.rule_book))
        self.job = job
        self.seats = seats_of(job, shelf)
        self.shelf = shelf
        self.gaps: list[Gap] = []
        self._document: dict[str, Any] = job.model_dump()
        self.places: dict[str, str] = {}
        self._cards: dict[str, Any] = {}

    def card(self, role: str) -> Any:
        """The chosen card for an equipment role. Raises UnknownCard with the field's path."""
        found = self._cards.get(role)
        if found is not None:
            return found
        card_id = getattr(self.job.equipment, role)
        if card_id is None:
            raise WrongCard(
                f"This job names no {role.replace('_', ' ')}, and what is decided needs one. Choose a card at equipment.{role}."
            )
        try:
            card = self.shelf[card_id]
        except KeyError:
            raise UnknownCard(f"equipment.{role}", card_id) from None
        if card.kind != KIND_OF_ROLE[role]:
            raise WrongCard(f"{card.title} is a {card.kind}; equipment.{role} needs a {KIND_OF_ROLE[role]}. Choose another card.")
        self._cards[role] = card
        return card

    def has(self, role: str) -> bool:
        """Whether the job names a card for an equipment role."""
        return getattr(self.job.equipment, role) is not None

    def decided(self, path: str, symbol: str = "", name: str = "", unit: str = "") -> Figure:
        """A job input that always has a value; its name stands beside its field."""
        found = self._inputs.get((path, symbol, name))
        if found is None:
            if not symbol:
                found = self.told(locate(self.job, path)[0], path)
            else:
                found = self.keep(job_input(path, symbol, name, float(read_path(self._document, path)), unit))
            self._inputs[path, symbol, name] = found
        return found

    def answer(self, path: str) -> Any:
        """The job's raw answer at a path, None when there is none."""
        return read_path(self._document, path)

    def asked(
        self, path: str, symbol: str = "", name: str = "", unit: str = "", station: str = "", question: str = "", holds_up: str = ""
    ) -> Figure | None:
        """A job input that may be unanswered; an empty one is kept as a gap, asked for as its field says."""
        if (path, symbol, name) in self._inputs:
            return self._inputs[path, symbol, name]
        owner, field, value = locate(self.job, path)
        if value is None:
            told = quantity(type(owner), field)
            thing = getattr(owner, "id", "")
            self.gap(path, station or told.station, question or told.asked.format(id=thing), holds_up or told.holds_up.format(id=thing))
            return None
        return self.decided(path, symbol, name, unit)

    def gap(self, path: str, station: str, question: str, holds_up: str) -> None:
        """Note a missing answer once for each field; the first asker says what it holds up."""
        if all(gap.path != path for gap in self.gaps):
            self.gaps.append(Gap(path, station, question, holds_up))

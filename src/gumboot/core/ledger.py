"""The ledger of one derivation: figures, findings and gaps as they are worked out."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.finding import Gap
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.quantity import locate, quantity
from gumboot.core.rulebook.books import book
from gumboot.core.seats import seats_of
from gumboot.core.workbook import Workbook


class Ledger(Workbook):
    """Collects what the plan modules derive. One per derivation; never shared."""

    def __init__(self, job: Job, shelf: Shelf) -> None:
        super().__init__(book(job.rule_book))
        self.job = job
        self.seats = seats_of(job, shelf)
        self.gaps: list[Gap] = []
        self.house = House(job, self.seats)

    def decided(self, path: str) -> Figure:
        """A job input that has a value; symbol, name and unit stand beside its field."""
        return self.figures.get(f"in.{path}") or self.told(locate(self.job, path)[0], path)

    def answer(self, path: str) -> Any:
        """The job's raw answer at a path, None when there is none."""
        return locate(self.job, path)[2]

    def asked(self, path: str) -> Figure | None:
        """A job input that may be unanswered; an empty one is kept as a gap, asked for as its field says."""
        return self.figures.get(f"in.{path}") or self.asked_of(locate(self.job, path)[0], path)

    def asked_of(self, owner: BaseModel, path: str) -> Figure | None:
        """As ``asked``, of a part of the job that is at hand."""
        field = path.rpartition(".")[2]
        if getattr(owner, field) is not None:
            return self.told(owner, path)
        told, thing = quantity(type(owner), field), getattr(owner, "id", "")
        self.gap(path, told.station, told.asked.format(id=thing), told.holds_up.format(id=thing))
        return None

    def gap(self, path: str, station: str, question: str, holds_up: str) -> None:
        """Note a missing answer once for each field; the first asker says what it holds up."""
        if all(gap.path != path for gap in self.gaps):
            self.gaps.append(Gap(path, station, question, holds_up))

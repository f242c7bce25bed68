"""The ledger of one step: figures, findings and gaps as they are worked out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from copy import copy
from dataclasses import dataclass, field
from typing import Any, TypeVar, cast

from pydantic import BaseModel

from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding, Gap
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.quantity import locate, quantity
from gumboot.core.rulebook.books import book
from gumboot.core.seating import seats_of
from gumboot.core.tracking import Read, note, noting, touches
from gumboot.core.workbook import Workbook

Value = TypeVar("Value")
F = TypeVar("F")


@dataclass(frozen=True, slots=True)
class Made:
    """What a step, or a piece of one, left: its value, its own workbook, what it read of the job, and what else it rests on.

    ``reads`` are owner paths and fields; ``pieces`` are the parts of it that may be kept by themselves.
    """

    value: object
    figures: Mapping[str, Figure]
    findings: tuple[Finding, ...]
    gaps: tuple[Gap, ...]
    reads: frozenset[Read]
    rests_on: tuple[object, ...] = ()
    pieces: Mapping[str, Made] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Earlier:
    """What a step left before an edit, None where there is nothing to build on, and the fields that the edit changed."""

    made: Made | None
    changed: set[Read]


class Ledger(Workbook):
    """Collects what one step of a derivation works out; never shared."""

    def __init__(self, house: House, earlier: Earlier | None = None) -> None:
        super().__init__(book(house.job.rule_book))
        self.job = house.job
        self.seats = house.seats
        self.gaps: list[Gap] = []
        self.house = house
        self._earlier = earlier
        self._pieces: dict[str, Made] = {}
        self._alone = len(house.whole.islands) == 1
        # Values of whatever kind the finders give.
        self._looked_up: dict[object, Any] = {}

    @classmethod
    def of(cls, job: Job, shelf: Shelf) -> Ledger:
        """The empty ledger of a job. Raises UnknownCard, WrongCard."""
        return cls(House(job, seats_of(job, shelf)))

    def within(self, house: House) -> Ledger:
        """The same ledger, looking at one island of the house."""
        if house is self.house:
            return self
        part = copy(self)
        part.house, part.seats = house, house.seats
        return part

    def once(self, find: Callable[[Ledger], Value]) -> Value:
        """What is to be found in a house without islands, found once."""
        if not self._alone:
            return find(self)
        known = self._looked_up.get(find, self)
        if known is self:
            known = self._looked_up[find] = find(self)
        found: Value = known
        return found

    @property
    def islands(self) -> tuple[Ledger, ...]:
        """The same ledger, looking at each island by itself."""
        return (self,) if self._alone else tuple(self.within(island) for island in self.house.islands)

    def key(self, name: str) -> str:
        """The key of a figure of an island: plain for the first, with its leader's name behind for another, marked for all together."""
        if self._alone:
            return name
        house = self.house
        # A low line stands in no name, so that none can be taken for another key's end.
        return f"{name}.of_{house.lead.id}" if house.mark else name if house.is_apart else f"{name}.of_all"

    def titled(self, words: str) -> str:
        """Words about an island, with its leader's name where there are several."""
        if self._alone:
            return words
        house = self.house
        return f"{words}, {house.lead.name}" if house.is_apart else f"{words}, all islands"

    def decided(self, path: str) -> Figure:
        """A job input that has a value; symbol, name and unit stand beside its field."""
        return self.figures.get(f"in.{path}") or self.told(self._owner(path), path)

    def _owner(self, path: str) -> BaseModel:
        """The part of the job that a path's last step lies in."""
        section, _, field = path.partition(".")
        if not field or "." in field:
            return locate(self.job, path)[0]
        owner: BaseModel = getattr(self.job, section)
        return owner

    def decided_of(self, owner: BaseModel, path: str) -> Figure:
        """As ``decided``, of a part of the job that is at hand."""
        return self.figures.get(f"in.{path}") or self.told(owner, path)

    def asked(self, path: str) -> Figure | None:
        """A job input that may be unanswered; an empty one is kept as a gap, asked for as its field says."""
        return self.figures.get(f"in.{path}") or self.asked_of(self._owner(path), path)

    def asked_of(self, owner: BaseModel, path: str) -> Figure | None:
        """As ``asked``, of a part of the job that is at hand."""
        name = path.rpartition(".")[2]
        if getattr(owner, name) is not None:
            return self.told(owner, path)
        told, called = quantity(type(owner), name), {"id": getattr(owner, "id", ""), "title": getattr(owner, "title", "")}
        self.gap(path, told.station, told.asked.format(**called), told.holds_up.format(**called))
        return None

    def gap(self, path: str, station: str, question: str, holds_up: str) -> None:
        """Note a missing answer once for each field; the first asker says what it holds up."""
        if all(gap.path != path for gap in self.gaps):
            self.gaps.append(Gap(path, station, question, holds_up))

    def piece(self, name: str, rests_on: tuple[object, ...], work: Callable[[Ledger], Value], *, holds: tuple[str, ...] = ()) -> Value:
        """A piece of a step with a workbook of its own, kept from before an edit where nothing that it rests on changed.

        ``rests_on`` names whatever ``work`` uses besides the house and the fields it reads. ``holds`` as of a step.
        """
        if self._earlier is None:
            return work(self)
        old, changed = self._earlier.made and self._earlier.made.pieces.get(name), self._earlier.changed
        if old is not None and old.rests_on == rests_on and not touches(changed, old.reads, holds):
            made = old
            note(old.reads)
        else:
            made = worked(self.house, work, Earlier(None, changed), rests_on)
        self._pieces[name] = made
        for figure in made.figures.values():
            self.keep(figure)
        self.findings += made.findings
        for gap in made.gaps:
            self.gap(gap.path, gap.station, gap.question, gap.holds_up)
        return cast(Value, made.value)

    def closed(self, value: object, reads: set[Read], rests_on: tuple[object, ...]) -> Made:
        """What was worked out here, with the value it led to."""
        # What was found may hold this ledger, which would then wait for the collector.
        self._looked_up.clear()
        return Made(value, self.figures, tuple(self.findings), tuple(self.gaps), frozenset(reads), rests_on, self._pieces)


def worked(house: House, work: Callable[[Ledger], object], earlier: Earlier, rests_on: tuple[object, ...] = ()) -> Made:
    """Work something out in a ledger of its own, noting what it reads of the job."""
    with noting() as reads:
        ledger = Ledger(house, earlier)
        value = work(ledger)
    return ledger.closed(value, reads, rests_on)

"""Runs the steps of a derivation: all of them, or after an edit those alone whose reads or needs changed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial

from gumboot.core.card import Shelf
from gumboot.core.errors import BadFigure
from gumboot.core.figure import Figure
from gumboot.core.finding import Gap
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.ledger import Earlier, Ledger, Made, worked
from gumboot.core.plan.parts import Parts
from gumboot.core.plan.steps import STEPS, Step
from gumboot.core.seating import seats_of
from gumboot.core.seats import Seats
from gumboot.core.tracking import Read, followed, noting, touches, tracked

# What all steps leave together where no step is told apart.
WHOLE = "whole"

# Needs of single values by the step that gives them, each with the value's name.
FIELDS: dict[str, tuple[tuple[str, str], ...]] = {
    step.name: tuple({n: n.partition(".")[2] for s in STEPS for n in s.needs if n.startswith(f"{step.name}.")}.items()) for step in STEPS
}


@dataclass(frozen=True, slots=True)
class Built:
    """The house that the steps read. ``reads`` is what its graph was drawn up from, None where nobody takes note of reads."""

    house: House
    reads: frozenset[Read] | None = None

    @property
    def noted(self) -> bool:
        """Whether it is noted what the steps read of the job."""
        return self.reads is not None


@dataclass(frozen=True, slots=True)
class Run:
    """One derivation step by step, with the figures of all steps. ``again`` names the steps that ran; the others were kept from before."""

    job: Job
    shelf: Shelf
    built: Built
    made: Mapping[str, Made]
    figures: Mapping[str, Figure]
    parts: Parts
    again: tuple[str, ...]


def run(job: Job, shelf: Shelf, before: Run | None = None, *, noted: bool = False) -> Run:
    """Run the table for a job. With ``before``, a derivation of an earlier state of it, steps are kept where nothing they rest on changed.

    ``noted`` takes note of what each step reads, so that the next edit can build on it; so does building on one that took note.
    Raises UnknownCard, WrongCard, BadFigure where two steps work out one key differently.
    """
    changed = set[Read]()
    built, before = _build(job, shelf, before, changed, noted=noted)
    if not built.noted:
        return _at_once(job, shelf, built)
    parts, made, fresh, again = Parts(), dict[str, Made](), set[str](), list[str]()
    for step in STEPS:
        old = before.made[step.name] if before else None
        if old is None or not fresh.isdisjoint(step.needs) or touches(changed, old.reads, step.holds):
            new = worked(built.house, partial(_run, step, parts), Earlier(old, changed))
            again.append(step.name)
            fresh.update(_differing(step.name, old, new))
        else:
            new = old
        made[step.name] = new
        if step.gives:
            setattr(parts, step.name, new.value)
    figures = figures_of(made.values()) if again or before is None else before.figures
    return Run(job, shelf, built, made, figures, parts, tuple(again))


def _differing(name: str, old: Made | None, new: Made) -> Iterator[str]:
    """The needs, a whole part or one value of it, for which a step that ran again gives something else than before."""
    if old is not None and new.value == old.value:
        return
    yield name
    for need, field in FIELDS.get(name, ()):
        if old is None or getattr(new.value, field) != getattr(old.value, field):
            yield need


def _at_once(job: Job, shelf: Shelf, built: Built) -> Run:
    """All steps in one ledger: nobody builds on it, so nothing is told apart."""
    ledger, parts = Ledger(built.house), Parts()
    for step in STEPS:
        value = step.run(ledger, parts)
        if step.gives:
            setattr(parts, step.name, value)
    made = ledger.closed(None, set(), ())
    return Run(job, shelf, built, {WHOLE: made}, made.figures, parts, tuple([step.name for step in STEPS]))


def _build(job: Job, shelf: Shelf, before: Run | None, changed: set[Read], *, noted: bool) -> tuple[Built, Run | None]:
    """The house of a job, and the derivation to build on where there is one; adds to ``changed`` in what the two jobs differ."""
    if before is None or not before.built.noted:
        if not noted:
            return Built(House(job, seats_of(job, shelf))), None
        read = tracked(job)
        with noting() as reads:
            house = House(read, seats_of(read, shelf)).joined()
        return Built(house, frozenset(reads)), None
    old = before.built
    read = followed(before.job, old.house.job, job, changed)
    undisturbed = old.reads is not None and old.reads.isdisjoint(changed)
    with noting() as reads:
        house = House(read, _seats_after(old.house, read, shelf) if undisturbed and shelf is before.shelf else seats_of(read, shelf))
        kept = undisturbed and house.with_graph_of(old.house)
        house.joined()
    if kept or house.is_joined_as(old.house):
        return Built(house, frozenset(reads) | (old.reads or frozenset()) if kept else frozenset(reads)), before
    return Built(house, frozenset(reads)), None


# Parts of a job that have seats.
SEATED = ("things", "banks", "faces", "sensing", "equipment")


def _seats_after(old: House, job: Job, shelf: Shelf) -> Seats:
    """The things of a job with their cards after an edit: as before where it changed nothing of any."""
    before, after = old.job.__dict__, job.__dict__
    return old.seats if all(before[part] is after[part] for part in SEATED) else seats_of(job, shelf)


def _run(step: Step, parts: Parts, ledger: Ledger) -> object:
    return step.run(ledger, parts)


def figures_of(made: Iterable[Made]) -> dict[str, Figure]:
    """The figures of several steps by key. Raises BadFigure where two steps work out one key differently."""
    merged: dict[str, Figure] = {}
    for part in made:
        # The first stays; most keys are those of one step alone.
        first = {key: merged[key] for key in merged.keys() & part.figures.keys()}
        for key, known in first.items():
            figure = part.figures[key]
            if known is not figure and (known.value != figure.value or known.name != figure.name):
                raise BadFigure(f"{key} is worked out twice, as {known.name} {known.value} and {figure.name} {figure.value}")
        merged.update(part.figures)
        merged.update(first)
    return merged


def gaps_of(made: Iterable[Made]) -> tuple[Gap, ...]:
    """Every missing answer once; the first step that asks says what it holds up."""
    first: dict[str, Gap] = {}
    for part in made:
        for gap in part.gaps:
            first.setdefault(gap.path, gap)
    return tuple(first.values())

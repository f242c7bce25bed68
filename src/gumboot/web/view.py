"""What one page of a job is drawn from."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import field as kept
from functools import cached_property
from typing import Any

from markupsafe import Markup

from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.job import BadPath, Job, read_path
from gumboot.core.job.fields import Field, field_at
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord
from gumboot.core.recording.files import Taken
from gumboot.core.standing import Standing
from gumboot.drawing import show
from gumboot.store import jobs
from gumboot.store.accounts import Who
from gumboot.store.card_notes import Taken as Taken_
from gumboot.store.holdings import Holding
from gumboot.web import studies, typed, urls


@dataclass
class Bench:
    """Everything one page of a job is drawn from."""

    who: Who
    revision: jobs.Revision
    plan: Plan
    standing: Standing
    records: list[AnyRecord]
    station: str
    figure: str = ""
    problems: dict[str, str] = kept(default_factory=dict)
    typed: dict[str, str] = kept(default_factory=dict)
    # The act whose record was refused or asked about: what was typed for it stands in its fields.
    refused: str = ""
    # Who has which box in hand.
    holdings: dict[str, Holding] = kept(default_factory=dict)
    # What became of the lines of a file of records.
    taken: list[Taken] = kept(default_factory=list)
    # The field whose value was asked about, before it is kept as it is.
    asks: str = ""
    conflict: jobs.Conflict | None = None
    moves: list[str] = kept(default_factory=list)
    said: str = ""
    query: dict[str, str] = kept(default_factory=dict)
    shelf: Shelf = kept(default_factory=dict)
    behind: dict[str, Any] = kept(default_factory=dict)
    # What the company's crews wrote of each card and a planner took.
    crew_notes: Mapping[str, tuple[Taken_, ...]] = kept(default_factory=dict)

    def __post_init__(self) -> None:
        self._document = self.revision.job.model_dump(mode="json")

    @cached_property
    def edit_url(self) -> str:
        """Where the form of a field is sent."""
        return urls.act(self.job.id, "edit")

    @cached_property
    def hidden(self) -> Markup:
        """What every form of the page carries: the session's token, the station, the figure whose working is open."""
        return Markup(
            '<input type="hidden" name="csrf" value="{}"><input type="hidden" name="station" value="{}">'
            '<input type="hidden" name="figure" value="{}" data-selected-figure>'
        ).format(self.who.csrf, self.station, self.figure)

    @property
    def hidden_record(self) -> Markup:
        """What a form that records work carries: the session's token, who is here, and an id of its own."""
        return Markup(
            '<input type="hidden" name="csrf" value="{}"><input type="hidden" name="doer" value="{}"><input type="hidden" name="record_id" value="{}">'
        ).format(self.who.csrf, self.who.name, uuid.uuid4())

    def others(self, place: str) -> Holding | None:
        """Who else has a box in hand; None where nobody has, and where it is one's own."""
        held = self.holdings.get(place)
        return held if held is not None and held.name != self.who.name else None

    @property
    def job(self) -> Job:
        """The job of the revision shown."""
        return self.revision.job

    @property
    def system(self) -> str:
        """Unit system shown first."""
        return self.job.preferences.units

    def figure_of(self, key: str) -> Figure | None:
        """A figure of the plan, or of one of its studies."""
        return self.plan.figures.get(key) or studies.figure_of(self.plan, key)

    def value(self, path: str) -> Any:
        """The job's value at a path."""
        return read_path(self._document, path)

    def has(self, path: str) -> bool:
        """Whether the job has such a field: a run that is not entered yet has none."""
        try:
            read_path(self._document, path)
        except BadPath:
            return False
        return True

    def field(self, path: str) -> Field:
        """What a field takes, as its model declares it."""
        return field_at(self.job, path)

    def unit(self, path: str) -> str:
        """The unit in which a field is typed."""
        return typed.unit_of(self.field(path))

    def text(self, path: str) -> str:
        """A field's value as it stands in its input, in the shown unit system."""
        if path in self.typed:
            return self.typed[path]
        value, unit = self.value(path), self.unit(path)
        if isinstance(value, int | float) and not isinstance(value, bool):
            shown = show.US[unit][1](float(value)) if self.system == "US" and unit in show.US else float(value)
            return f"{round(shown, 2):g}" if abs(shown) < 100000 else f"{shown:.0f}"
        return typed.written(self.field(path), value)

    def as_written(self, path: str, value: Any) -> str:
        """A value as one may send it and mean the same in either unit system."""
        return typed.written(self.field(path), value)

    def as_shown(self, path: str, value: Any) -> str:
        """A value of a field in words, with its unit, as the person's unit system has it."""
        if isinstance(value, bool) or not isinstance(value, int | float):
            return typed.written(self.field(path), value) or "not answered"
        return self.quantity(value, typed.unit_of(self.field(path)))

    def shown_unit(self, unit: str) -> str:
        """Unit written beside a field."""
        return show.US[unit][0] if self.system == "US" and unit in show.US else unit

    def quantity(self, value: float, unit: str) -> str:
        """A quantity in the shown unit system."""
        return show.quantity(value, unit, self.system)

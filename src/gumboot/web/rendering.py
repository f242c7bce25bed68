"""Templates and what they are given."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from functools import cached_property
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from markupsafe import Markup
from sqlalchemy.orm import Session
from starlette.responses import HTMLResponse

from gumboot import __version__
from gumboot.catalogue import shelf
from gumboot.core import standing as standings
from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.job import BadPath, Job, read_path
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.settings import supply_text
from gumboot.core.plan.survey import questions_of
from gumboot.core.plan.upkeep import chosen, completed
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.loader import source
from gumboot.core.sim.switch_line import rehearse
from gumboot.core.standing import Record, Standing, stand
from gumboot.drawing import bank, links, loads, sensing, settings, show, single_line, strings, wall, wire
from gumboot.store import cards, jobs, records
from gumboot.store.accounts import Who
from gumboot.store.recent import Recent
from gumboot.web import equipment, lists, page_words, studies, urls

HERE = Path(__file__).parent
ENVIRONMENT = Environment(
    loader=FileSystemLoader(HERE / "templates"),
    autoescape=select_autoescape(("html",)),
    undefined=StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
ENVIRONMENT.globals.update(
    urls=urls,
    show=show,
    version=__version__,
    LEGS=standings.LEGS,
    questions_of=questions_of,
    book=book,
    supply_text=supply_text,
    link_tasks=standings.link_tasks,
    draw={
        "loads": loads,
        "strings": strings,
        "bank": bank,
        "line": single_line.single_line,
        "wall": wall.elevation,
        "wire": wire.enclosure,
        "links": links,
        "sensing": sensing,
        "settings": settings,
    },
    source=source,
    rehearse=rehearse,
)


@dataclass
class Bench:
    """Everything one page of a job is drawn from."""

    who: Who
    revision: jobs.Revision
    plan: Plan
    standing: Standing
    records: list[Record]
    station: str
    figure: str = ""
    problems: dict[str, str] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    conflict: jobs.Conflict | None = None
    moves: list[str] = field(default_factory=list)
    said: str = ""
    query: dict[str, str] = field(default_factory=dict)
    shelf: Shelf = field(default_factory=dict)
    behind: dict[str, Any] = field(default_factory=dict)

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

    def text(self, path: str, unit: str) -> str:
        """A field's value as it stands in its input, in the shown unit system."""
        if path in self.typed:
            return self.typed[path]
        value = self.value(path)
        if value is None:
            return ""
        if path == "banks.bank.lead_as_made":
            return " ".join(f"{x['inverter_pin']}-{x['battery_pin']}" for x in value)
        if isinstance(value, list):
            return " ".join(x if isinstance(x, str) else f"{x:g}" for x in value)
        if isinstance(value, (int, float)) and not isinstance(value, bool):
            shown = show.US[unit][1](float(value)) if self.system == "US" and unit in show.US else float(value)
            return f"{round(shown, 2):g}" if abs(shown) < 100000 else f"{shown:.0f}"
        return str(value)

    def shown_unit(self, unit: str) -> str:
        """Unit written beside a field."""
        return show.US[unit][0] if self.system == "US" and unit in show.US else unit

    def quantity(self, value: float, unit: str) -> str:
        """A quantity in the shown unit system."""
        return show.quantity(value, unit, self.system)


# Plans of the revisions seen last. A revision never changes and derive is pure, so a plan in memory cannot
# be stale; it saves the work on every page that changes no decision.
_PLANS: Recent[tuple[str, int, datetime], Plan] = Recent(64)
# The plan of each house seen last: the next revision is derived from it, and only what the edit touches is worked out again.
_NEWEST: Recent[str, Plan] = Recent(64)


def shelf_of(db: Session, job: Job) -> Shelf:
    """The shelf a job is planned with. A job of the catalogue's newest cards needs no look into the database."""
    ours = shelf()
    if all(card in ours and job.cards.get(card, ours[card].revision) == ours[card].revision for card in chosen(job)):
        return ours
    return cards.shelf_for(db, job)


def kept_whole(db: Session, path: str = "") -> Callable[[Job], Job]:
    """What an edit of a field adds beside what was typed: runs for new circuits, card revisions, and CTs when they are chosen."""
    return lambda job: completed(job, shelf_of(db, job), fit_cts=path in ("new", "sensing.meters.meter.card", "things.inverter.card"))


def plan_of(db: Session, revision: jobs.Revision) -> Plan:
    """The plan of a revision, derived once."""
    key = (revision.job_id, revision.number, revision.at)
    known = _PLANS.get(key)
    if known is None:
        known = derive(revision.job, shelf_of(db, revision.job), _NEWEST.get(revision.job_id), noted=True)
        _NEWEST.keep(revision.job_id, _PLANS.keep(key, known))
    return known


def bench(db: Session, who: Who, job_id: str, station: str, written: jobs.Revision | None = None, **extra: Any) -> Bench:
    """Load, derive, stand: the one route of data to a page. Raises NoSuchJob."""
    revision = written or jobs.load(db, job_id)
    rows = records.read_records(db, job_id)
    plan = plan_of(db, revision)
    view = Bench(who, revision, plan, stand(plan, rows, datetime.now(UTC)), rows, station, **extra)
    if station in ("survey", "bank"):
        # Only these two look beyond the cards that the job has.
        # A card that came with the job's own file is offered to no other job, and stays on offer for this one.
        view.shelf = {**{card: plan.shelf[card] for card in chosen(revision.job)}, **cards.whole_shelf(db)}
        view.behind = cards.behind(db, revision.job, view.shelf)
    return view


def render(template: str, status: int = 200, **context: Any) -> HTMLResponse:
    """A template as a response."""
    return HTMLResponse(ENVIRONMENT.get_template(template).render(**context), status_code=status)


def render_bench(view: Bench, fragment: bool, status: int = 200) -> HTMLResponse:
    """The station as a fragment for a script, or as a whole page."""
    return render("bench.html" if fragment else "station.html", status, b=view)


ENVIRONMENT.globals.update(page_words.WORDS, adder_of=lists.adder_of, equipment_places=equipment.places, studies=studies)

"""Templates and what they are given."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from sqlalchemy.orm import Session
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot import __version__
from gumboot.catalogue import shelf
from gumboot.core import standing as standings
from gumboot.core.card import Shelf
from gumboot.core.errors import GumbootError
from gumboot.core.job import Job
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.plan.settings import supply_of
from gumboot.core.plan.upkeep import chooses_cts, chosen, completed
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.loader import source
from gumboot.core.standing import stand
from gumboot.drawing import show
from gumboot.store import card_notes, cards, jobs, records
from gumboot.store.accounts import Who
from gumboot.store.holdings import holdings
from gumboot.store.recent import Recent
from gumboot.web import act_words, lists, page_words, urls
from gumboot.web.stations.views import VIEWS, page_of
from gumboot.web.view import Bench

HERE = Path(__file__).parent
ENVIRONMENT = Environment(
    loader=FileSystemLoader((HERE / "templates", HERE)),
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
    book=book,
    supply_of=supply_of,
    source=source,
    adder_of=lists.adder_of,
    asked_for=lists.asked_for,
    **act_words.WORDS,
    **page_words.WORDS,
)


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
    return lambda job: completed(job, shelf_of(db, job), fit_cts=path == "new" or chooses_cts(job, path))


def plan_of(db: Session, revision: jobs.Revision) -> Plan:
    """The plan of a revision, derived once."""
    key = (revision.job_id, revision.number, revision.at)
    known = _PLANS.get(key)
    if known is None:
        known = derive(revision.job, shelf_of(db, revision.job), _NEWEST.get(revision.job_id), noted=True)
        _NEWEST.keep(revision.job_id, _PLANS.keep(key, known))
    return known


def plan_under(db: Session, job_id: str, number: int | None, current: int) -> Plan | None:
    """The plan of an earlier revision, under which something was recorded; None for that of today, and for one that cannot be had."""
    if number is None or not 0 < number < current:
        return None
    try:
        return plan_of(db, jobs.load(db, job_id, number))
    except (jobs.NoSuchJob, jobs.Unreadable, GumbootError):
        return None


def bench(db: Session, who: Who, job_id: str, station: str, written: jobs.Revision | None = None, **extra: Any) -> Bench:
    """Load, derive, stand: the one route of data to a page. Raises NoSuchJob."""
    revision = written or jobs.load(db, job_id)
    rows = records.read_records(db, job_id)
    plan = plan_of(db, revision)
    standing = stand(plan, rows, datetime.now(UTC), revision.number, head=records.head(db, job_id))
    view = Bench(who, revision, plan, standing, rows, station, **extra)
    view.crew_notes = card_notes.taken(db)
    if station == "wire":
        view.holdings = holdings(db, job_id)
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
    page = "bench.html" if fragment else "station.html"
    return render(page, status, b=view, v=VIEWS[view.station](view), page=page_of(view.station))


def asking(request: Request, db: Session, who: Who, job_id: str, station: str, figure: str = "") -> Bench:
    """A station's bench with what else stands in the address: it asks the station's studies."""
    view = bench(db, who, job_id, station, figure=figure)
    view.query = {k: v[:400] for k, v in request.query_params.items()}
    return view


def in_hand(request: Request) -> bool:
    """Whether a page is asked for by a phone: as somebody chose, else as the browser says of itself."""
    chosen = request.cookies.get(urls.POSTURE, "")
    if chosen in ("bench", "hand"):
        return chosen == "hand"
    return request.headers.get("sec-ch-ua-mobile") == "?1" or "Mobi" in request.headers.get("user-agent", "")


def shown(request: Request, db: Session, who: Who, job_id: str, station: str, figure: str = "") -> Response:
    """A station as it is asked for; a phone is led to the hand."""
    if in_hand(request) and not request.headers.get("HX-Request") and not request.query_params:
        return RedirectResponse(urls.hand(job_id, station), 303)
    return render_bench(asking(request, db, who, job_id, station, figure), fragment=bool(request.headers.get("HX-Request")))

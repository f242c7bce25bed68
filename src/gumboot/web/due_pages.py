"""What comes due: as a file of one house, and as a calendar that a phone or an office fetches."""

from __future__ import annotations

from datetime import UTC, datetime

from fastapi import APIRouter
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.standing.due import Due, due_of, together
from gumboot.store import accounts, feeds, jobs
from gumboot.web import urls
from gumboot.web.rendering import bench, render
from gumboot.web.security import Author, Db, Person

ROUTER = APIRouter()
CALENDAR = "text/calendar; charset=utf-8"


def _ics(houses: list[tuple[str, str, tuple[Due, ...]]]) -> bytes:
    # Imported when it is asked for: no page pays for it.
    from gumboot.documents.calendar import calendar

    return calendar(houses, datetime.now(UTC))


def _due_of_all(db: Session, person: accounts.Who) -> list[tuple[str, str, tuple[Due, ...]]]:
    """Every house that can be planned, with what comes due there."""
    found = []
    for row in jobs.list_jobs(db):
        try:
            view = bench(db, person, row.id, "wire")
        except (jobs.Unreadable, GumbootError):
            continue
        found.append((row.id, view.job.title, due_of(view.plan, view.standing)))
    return found


@ROUTER.get("/jobs/{job_id}/due.ics")
def of_one(job_id: str, db: Db, person: Person) -> Response:
    """What comes due at one house."""
    view = bench(db, person, job_id, "wire")
    rows = [(job_id, view.job.title, due_of(view.plan, view.standing))]
    return Response(_ics(rows), media_type=CALENDAR, headers={"Content-Disposition": f'attachment; filename="{job_id}-due.ics"'})


@ROUTER.get("/due")
def due_page(db: Db, person: Person) -> HTMLResponse:
    """What comes due at every house, and the calendar's address."""
    return _page(db, person)


def _page(db: Session, person: accounts.Who, token: str = "") -> HTMLResponse:
    rows = together(_due_of_all(db, person))
    return render("due.html", rows=rows, now=datetime.now(UTC), who=person, has_feed=feeds.has(db, person.name), token=token)


@ROUTER.post("/due/feed")
def new_feed(db: Db, person: Author) -> HTMLResponse:
    """Make a calendar address; one that was made before is worth nothing from now on."""
    return _page(db, person, feeds.renew(db, person.name))


@ROUTER.post("/due/feed/withdraw")
def no_feed(db: Db, person: Author) -> Response:
    """Withdraw the calendar address."""
    feeds.withdraw(db, person.name)
    return RedirectResponse(urls.DUE, 303)


@ROUTER.get("/feeds/{token}.ics")
def feed(token: str, db: Db) -> Response:
    """The calendar of who made the token. 404 for any other."""
    user = feeds.owner(db, token)
    if user is None:
        raise HTTPException(404, "There is no such calendar. It may have been withdrawn.")
    who = accounts.Who(user.name, user.display, user.role, "")
    return Response(_ics(_due_of_all(db, who)), media_type=CALENDAR)

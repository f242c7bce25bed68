"""Sign-in, the list of jobs, and the working of a figure."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from fastapi import APIRouter, Request
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.rulebook.books import BOOKS
from gumboot.core.standing.due import due_of, together
from gumboot.documents.rule_reference import rule_rows, source_rows
from gumboot.store import accounts, jobs
from gumboot.web import studies, urls
from gumboot.web.rendering import bench, render
from gumboot.web.security import COOKIE, Author, Db, Person, Text, session_cookie
from gumboot.web.view import Bench

ROUTER = APIRouter()


@ROUTER.get(urls.SIGN_IN)
def sign_in_page() -> HTMLResponse:
    """The sign-in page."""
    return render("sign_in.html", problem="", name="")


@ROUTER.post(urls.SIGN_IN)
def sign_in(request: Request, db: Db, name: Text = "", password: Text = "") -> Response:
    """Check name and password; five failures in five minutes rest the name."""
    # A password typed into the wrong field must not reach the log: only a name that there is does.
    request.state.person = accounts.known_name(db, name) or "(no such account)"
    problem, status = "", 401
    try:
        token = accounts.sign_in(db, name, password, request.app.state.published)
    except accounts.Throttled:
        problem, status = "Too many tries for this name. Wait five minutes.", 429
    except accounts.Busy:
        problem, status = "More people sign in at once than the server can check. Try again in a few seconds.", 503
    except accounts.Published:
        problem, status = (
            "This is the demo's published password. Whoever looks after the server gives you a new one: ./gumboot user password.",
            403,
        )
    else:
        if token is not None:
            response = RedirectResponse(urls.HOME, 303)
            session_cookie(request, response, token)
            return response
        problem = (
            "That name and password do not belong together."
            if accounts.users(db)
            else "There is no account yet. On the server: ./gumboot user add NAME --role 'licence holder'."
        )
    refused = render("sign_in.html", status, problem=problem, name=name[:60])
    if status == 503:
        refused.headers["Retry-After"] = "3"
    return refused


@ROUTER.post(urls.SIGN_OUT)
def sign_out(request: Request, db: Db, person: Author) -> Response:
    """End the session."""
    accounts.sign_out(db, request.cookies.get(COOKIE, ""))
    response = RedirectResponse(urls.SIGN_IN, 303)
    response.delete_cookie(COOKIE, path="/")
    return response


@ROUTER.get(urls.HOME)
def home(db: Db, person: Person) -> HTMLResponse:
    """The list of jobs with their standing; one that cannot be read or planned is a row with its reason."""
    views: list[Bench | Unplanned] = []
    for row in jobs.list_jobs(db):
        try:
            views.append(bench(db, person, row.id, "survey"))
        except (jobs.Unreadable, GumbootError) as refused:
            views.append(Unplanned(row.id, row.title, str(refused)))
    now = datetime.now(UTC)
    planned = [view for view in views if isinstance(view, Bench)]
    rows = together((v.job.id, v.job.title, [due for due in due_of(v.plan, v.standing) if due.at < now + SOON]) for v in planned)
    return render("jobs.html", views=views, who=person, due=rows, now=now)


# What comes due within this time stands on the jobs page.
SOON = timedelta(days=7)


@dataclass(frozen=True, slots=True)
class Unplanned:
    """A job of which this version can make no plan, and why."""

    id: str
    title: str
    reason: str


@ROUTER.get("/jobs/{job_id}/document.json")
def document(job_id: str, db: Db, person: Person) -> Response:
    """A job's newest document as it is kept, readable by this version or not."""
    text = json.dumps(jobs.raw_document(db, job_id), indent=1, ensure_ascii=False) + "\n"
    return Response(text, media_type="application/json", headers={"Content-Disposition": f'attachment; filename="{job_id}.gumboot.json"'})


@ROUTER.get(urls.RULES)
def rules(person: Person) -> HTMLResponse:
    """The rule reference."""
    return render("rules.html", rows=rule_rows(), clauses=source_rows(), books=BOOKS, who=person)


@ROUTER.get("/jobs/{job_id}")
def job_home(job_id: str, person: Person) -> Response:
    """A job begins at its survey."""
    return RedirectResponse(urls.station(job_id, "survey"), 303)


@ROUTER.get("/jobs/{job_id}/part/changes")
def changes(request: Request, job_id: str, figure: str, db: Db, person: Person) -> HTMLResponse:
    """What would change a figure."""
    view = bench(db, person, job_id, "survey", figure=figure)
    if figure not in view.plan.figures:
        raise HTTPException(404, "That figure is no longer part of this plan. Reload the page.")
    return render("changes.html", b=view, f=view.plan.figures[figure], study=studies.what_changes(view.plan, figure))


@ROUTER.get("/jobs/{job_id}/working")
def working(job_id: str, figure: str, db: Db, person: Person, station: str = "survey") -> HTMLResponse:
    """The working of one figure, as the side panel shows it."""
    view = bench(db, person, job_id, station, figure=figure)
    if view.figure_of(figure) is None:
        raise HTTPException(404, "That figure is no longer part of this plan. Reload the page.")
    return render("working.html", b=view)

"""Sign-in, the list of jobs, the working of a figure, and downloads."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from fastapi import APIRouter, Request
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.intake.loads_csv import loads_csv
from gumboot.core.plan.job_file import job_file
from gumboot.core.record import Photo
from gumboot.core.recording.files import lines_of
from gumboot.core.rulebook.books import BOOKS
from gumboot.core.standing import counted
from gumboot.core.standing.due import due_of, together
from gumboot.core.study.van import Van, torques_of
from gumboot.documents import buying, tables
from gumboot.documents.dxf import drawing_dxf
from gumboot.documents.pack import Picture, Pictures
from gumboot.documents.rule_reference import rule_rows, source_rows
from gumboot.documents.template import template_dxf, template_of
from gumboot.drawing import single_line, strings, wall
from gumboot.drawing.svg import Canvas
from gumboot.store import accounts, jobs, photos
from gumboot.store import records as record_store
from gumboot.web import studies, urls
from gumboot.web.rendering import bench, render
from gumboot.web.security import COOKIE, Author, Db, Person, Text, session_cookie
from gumboot.web.view import Bench

ROUTER = APIRouter()
# As many as a person leafs through; the rest is kept with the records.
MOST_PICTURES = 120


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


def _pictures(db: Session, view: Bench) -> Pictures:
    """The newest pictures of the work that nobody took back, as they were taken."""
    taken = [(r, r.photo) for r in counted(view.records) if isinstance(r, Photo) and r.photo]
    shown = []
    for r, name in taken[-MOST_PICTURES:]:
        if (found := photos.photo(db, view.job.id, name)) is not None:
            act = view.standing.acts.get(r.act)
            shown.append(Picture(act.title if act else r.act, r.by, r.at, name, photos.small(found[1])))
    return Pictures(tuple(shown), max(0, len(taken) - MOST_PICTURES))


def _pack_pdf(db: Session, view: Bench) -> bytes:
    from gumboot.documents.pdf import pack_pdf

    head = record_store.head(db, view.job.id)
    return pack_pdf(view.plan, view.standing, view.records, view.revision.number, head, pictures=_pictures(db, view))


def _canvas(view: Bench, drawing: str) -> Canvas:
    if drawing == "single-line":
        return single_line.canvas(view.plan)
    found, walls = None, {w.id: w for w in view.plan.walls}
    named = drawing.removeprefix("wall-") if drawing.startswith("wall-") else view.job.walls[0].id
    if drawing.startswith("wall") and named in walls:
        found = wall.canvas(view.plan, walls[named], view.system)
    if drawing == "roof" and strings.roof_ready(view.plan):
        found = strings.roof_canvas(view.plan, view.system)
    if found is None:
        raise HTTPException(404, "That drawing waits for answers: open its station to see which.")
    return found


def _drawing_file(view: Bench, drawing: str, form: str) -> tuple[str | bytes, str]:
    canvas = _canvas(view, drawing)
    return (canvas.file(), "image/svg+xml") if form == "svg" else (drawing_dxf(canvas), "image/vnd.dxf")


def _sheet_pdf(view: Bench) -> bytes:
    from gumboot.documents.pdf import sheet_pdf

    foot = "To be checked by a licensed person against the local code and the makers' manuals, which win."
    title = f"{view.job.title}, single-line diagram, revision {view.revision.number}"
    return sheet_pdf(_canvas(view, "single-line"), title, foot)


def _van(view: Bench) -> Van:
    return studies.what_comes_along(view.plan, datetime.now(UTC).date().isoformat())


def _torques_pdf(view: Bench) -> bytes:
    from gumboot.documents.pdf import torques_pdf

    return torques_pdf(torques_of(view.plan), f"{view.job.title}, torques, revision {view.revision.number}")


def _template_file(view: Bench, box: str, form: str) -> tuple[bytes, str]:
    found = template_of(view.plan, box)
    if found is None:
        raise HTTPException(404, "That box hangs on no holes yet: place it on the Wall first.")
    if form == "dxf":
        return template_dxf(found), "image/vnd.dxf"
    from gumboot.documents.pdf import template_pdf

    return template_pdf(found, view.system), "application/pdf"


@ROUTER.get("/jobs/{job_id}/download/{name}")
def download(job_id: str, name: str, db: Db, person: Person) -> Response:
    """The job, its terminations, its records, or the hand-over pack."""
    view = bench(db, person, job_id, "hand-over")
    plan, job = view.plan, view.job
    csv_kind = "text/csv; charset=utf-8"
    makers: dict[str, Callable[[], tuple[str | bytes, str]]] = {
        "job.gumboot.json": lambda: (job_file(job, plan.shelf), "application/json"),
        "terminations.csv": lambda: (tables.terminations_csv(plan), csv_kind),
        "records.csv": lambda: (tables.records_csv(view.records), csv_kind),
        "records.jsonl": lambda: (lines_of(view.records), "application/jsonl"),
        "loads.csv": lambda: (loads_csv(job.loads), csv_kind),
        "cut-list.csv": lambda: (buying.cut_list_csv(studies.material(plan)), csv_kind),
        "materials.csv": lambda: (buying.materials_csv(studies.material(plan)), csv_kind),
        "materials.xlsx": lambda: (
            buying.materials_xlsx(studies.material(plan), f"{job.title}, revision {view.revision.number}"),
            "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        ),
        "van-list.csv": lambda: (buying.van_csv(_van(view)), csv_kind),
        "leads.csv": lambda: (buying.leads_csv(_van(view)), csv_kind),
        "torques-a6.pdf": lambda: (_torques_pdf(view), "application/pdf"),
        "pack.pdf": lambda: (_pack_pdf(db, view), "application/pdf"),
        "single-line.pdf": lambda: (_sheet_pdf(view), "application/pdf"),
    }
    drawing, _, form = name.rpartition(".")
    if form in ("svg", "dxf") and (drawing in ("single-line", "wall", "roof") or drawing.startswith("wall-")):
        makers[name] = lambda: _drawing_file(view, drawing, form)
    if form in ("pdf", "dxf") and drawing.startswith("template-"):
        makers[name] = lambda: _template_file(view, drawing.removeprefix("template-"), form)
    if name not in makers:
        raise HTTPException(404, "There is no such file.")
    content, kind = makers[name]()
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{job_id}-{name}"'})

"""New jobs, copies, the history of a job, and two designs side by side."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, UploadFile
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, RedirectResponse, Response

from gumboot.catalogue.begin import KINDS, begin, copy
from gumboot.core.errors import GumbootError, WrongCard
from gumboot.core.job import Job
from gumboot.core.job.names import slug
from gumboot.core.limits import read_json
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.job_file import read_job_file
from gumboot.core.study.compare import compare
from gumboot.store import cards, jobs
from gumboot.web import urls
from gumboot.web.deciding import EDITORS, message
from gumboot.web.rendering import kept_whole, plan_of, render
from gumboot.web.security import Author, Db, Person, Text, may

ROUTER = APIRouter()
MOST_JOB_BYTES = 2_000_000
MOST_ID = 50


def _free_id(db: Session, title: str, wanted: str = "") -> str:
    """The id that is wanted, where no job has it; else one made from the title."""
    jobs.hold_names(db)
    taken = {row.id for row in jobs.list_jobs(db)}
    return wanted if wanted and wanted not in taken and len(wanted) <= MOST_ID else slug(title, taken, "job", MOST_ID)


def _page(db: Session, who: Any, status: int = 200, problem: str = "", **typed: str) -> HTMLResponse:
    return render("new_job.html", status, who=who, kinds=KINDS, rows=jobs.list_jobs(db), problem=problem, typed=typed)


@ROUTER.get(urls.NEW_JOB)
def new_job_page(db: Db, person: Person) -> HTMLResponse:
    """Begin a job: from a kind of system, from another job, or from a file."""
    return _page(db, person)


def _begin(db: Session, person: Any, job: Job) -> Response:
    whole = kept_whole(db, "new")(job)
    jobs.create_job(db, whole, person.display)
    plan_of(db, jobs.load(db, whole.id))
    return RedirectResponse(urls.station(whole.id, "survey"), 303)


@ROUTER.post(urls.NEW_JOB)
def new_job(db: Db, person: Author, title: Text = "", kind: Text = "", like: Text = "", answers: Text = "") -> Response:
    """Begin a job and go to its survey."""
    may(person, *EDITORS)
    title = title.strip()
    if not title or len(title) > 80:
        return _page(db, person, 422, "Give the house a name of at most 80 letters.", title=title, kind=kind, like=like)
    job_id = _free_id(db, title)
    if like:
        return _begin(db, person, copy(jobs.load(db, like).job, job_id, title, answers == "yes"))
    if kind not in {k.id for k in KINDS}:
        return _page(db, person, 422, "Choose the kind of system, or a job to copy.", title=title)
    return _begin(db, person, begin(kind, job_id, title))


@ROUTER.post(urls.NEW_JOB + "/file")
def job_from_file(db: Db, person: Author, file: UploadFile) -> Response:
    """A job from a ``*.gumboot.json`` file, under an id that is free."""
    may(person, *EDITORS)
    raw = file.file.read(MOST_JOB_BYTES + 1)
    problem = "The file is larger than 2 MB." if len(raw) > MOST_JOB_BYTES else ""
    found = None
    if not problem:
        try:
            found = read_job_file(read_json(raw))
        except ValidationError as refused:
            where = ".".join(str(p) for p in refused.errors()[0]["loc"])
            problem = f"{where + ': ' if where else ''}{message(refused)}"
        except WrongCard as refused:
            problem = str(refused)
        except ValueError as refused:
            problem = f"The file is no job: {refused}. Choose a *.gumboot.json file."
    if found is not None:
        try:
            job = cards.take_in(db, found, person.display)
            return _begin(db, person, job.model_copy(update={"id": _free_id(db, job.title, job.id)}))
        except GumbootError as refused:
            problem = str(refused)
            db.rollback()
    return _page(db, person, 422, problem)


@ROUTER.get("/jobs/{job_id}/history")
def history_page(job_id: str, db: Db, person: Person) -> HTMLResponse:
    """Revisions of a job, newest first, each to be compared with the one before."""
    head = jobs.load(db, job_id)
    return render("history.html", who=person, job=head.job, rows=jobs.history(db, job_id, 200), head=head.number)


def _side(db: Session, name: str) -> tuple[str, int, Plan]:
    job_id, _, number = name.partition("@")
    if number and not (number.isdigit() and 0 < int(number) < 10**9):
        raise HTTPException(404, f"'{number}' is no revision.")
    revision = jobs.load(db, job_id, int(number) if number else None)
    return f"{revision.job.title}, revision {revision.number}", revision.number, plan_of(db, revision)


@ROUTER.get(urls.COMPARE)
def compare_page(db: Db, person: Person, a: str = "", b: str = "") -> HTMLResponse:
    """Two designs side by side: ``a`` and ``b`` are a job's id, with ``@`` and a revision for an older one."""
    rows = jobs.list_jobs(db)
    if not a or not b:
        return render("compare.html", who=person, rows=rows, a=a, b=b, names=("", ""), plans=None, found=None)
    first, second = _side(db, a), _side(db, b)
    found = compare(first[2], second[2])
    return render("compare.html", who=person, rows=rows, a=a, b=b, names=(first[0], second[0]), plans=(first[2], second[2]), found=found)

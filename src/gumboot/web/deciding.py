"""Decisions of the plan: one field, one item of a list, a step back or forward; each is a revision, and the station is drawn anew."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import RedirectResponse, Response

from gumboot.core.acts import names_in
from gumboot.core.errors import GumbootError
from gumboot.core.job import BadPath, Job, write_path
from gumboot.core.job.fields import field_at
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.upkeep import without_battery
from gumboot.core.standing import STATION_IDS
from gumboot.store import accounts, jobs, records
from gumboot.web import typed, urls
from gumboot.web.lists import adder_of, new_item
from gumboot.web.rendering import bench, kept_whole, plan_of, render_bench
from gumboot.web.security import Author, Db, Text, Texts, may
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/jobs/{job_id}")
# An apprentice looks and rehearses; decisions are the others'.
EDITORS = ("planner", "installer", "licence holder")


def message(refused: ValidationError) -> str:
    row = refused.errors()[0]
    if row["type"] in ("greater_than", "greater_than_equal", "less_than", "less_than_equal"):
        (relation, bound), *_ = (row.get("ctx") or {"limit": ""}).items()
        words = {"gt": "above", "ge": "at least", "lt": "below", "le": "at most"}
        return f"This must be {words.get(relation, relation)} {bound:g} in SI units."
    if row["type"] in ("float_type", "float_parsing", "int_type", "int_parsing", "int_from_float"):
        return "This must be a whole number." if row["type"].startswith("int") else "This needs a number."
    return row["msg"].removeprefix("Value error, ")


def again(db: Db, person: accounts.Who, job_id: str, station: str, figure: str, **extra: Any) -> Bench:
    if extra.get("written") is None:
        db.expire_all()
    if station not in STATION_IDS:
        raise HTTPException(404, "There is no such station.")
    return bench(db, person, job_id, station, figure=figure, **extra)


def answer(request: Request, view: Bench, status: int = 200) -> Response:
    if request.headers.get("HX-Request"):
        return render_bench(view, fragment=True, status=status)
    if status == 200:
        return RedirectResponse(urls.station(view.job.id, view.station), 303)
    return render_bench(view, fragment=False, status=status)


def revise(
    request: Request,
    db: Session,
    person: accounts.Who,
    job_id: str,
    station: str,
    change: Callable[[Job], Job],
    note: str,
    key: str,
    said: str = "",
    typed: dict[str, str] | None = None,
) -> Response:
    """Do one act as one revision and redraw; what is refused changes nothing and says why at ``key``."""
    may(person, *EDITORS)
    problem = ""
    try:
        keep = kept_whole(db)
        plan_of(db, jobs.rewrite(db, job_id, lambda job: keep(change(job)), note, person.display))
    except ValidationError as refused:
        row = refused.errors()[0]
        where = ".".join(str(p) for p in row["loc"])
        problem = f"{where + ': ' if where else ''}{message(refused)}"
    except BadPath as refused:
        raise HTTPException(404, str(refused)) from None
    except GumbootError as refused:
        problem = str(refused)
    if problem:
        db.rollback()
    view = again(
        db,
        person,
        job_id,
        station,
        "",
        problems={key: problem} if problem else {},
        typed=typed or {} if problem else {},
        said="" if problem else said,
    )
    return answer(request, view, 422 if problem else 200)


def plan_now(db: Session, job_id: str) -> Plan:
    """The plan of the newest revision: within an act, the one whose content the act is given."""
    return plan_of(db, jobs.load(db, job_id))


def patched(job: Job, path: str, value: Any) -> Job:
    return Job.model_validate(write_path(job.model_dump(mode="json"), path, value))


@ROUTER.post("/edit")
def edit(
    request: Request,
    job_id: str,
    db: Db,
    person: Author,
    path: Text,
    base: Annotated[int, Form()],
    value: Text = "",
    station: Text = "survey",
    figure: Text = "",
) -> Response:
    """Set one field, re-derive, redraw. A refused value stays in its field with the reason beside it."""
    may(person, *EDITORS)
    job = jobs.load(db, job_id).job
    problem, conflict, status, written = "", None, 200, None
    try:
        entered = typed.read(field_at(job, path), value, job.preferences.units)
        written = jobs.edit(db, job_id, base, path, entered, person.display, kept_whole(db, path))
        plan_of(db, written)
    except ValidationError as refused:
        problem, status = message(refused), 422
    except BadPath as refused:
        raise HTTPException(404, str(refused)) from None
    except GumbootError as refused:
        # Also a value that no plan can be derived from: a job in the store always derives.
        problem, status = str(refused), 422
    except jobs.Conflict as refused:
        conflict, status = refused, 409
    if status != 200:
        db.rollback()
        written = None
    view = again(
        db,
        person,
        job_id,
        station,
        figure,
        written=written,
        problems={path: problem} if problem else {},
        typed={path: value} if problem else {},
        conflict=conflict,
    )
    return answer(request, view, status)


@ROUTER.post("/undo")
def undo(request: Request, job_id: str, db: Db, person: Author, station: Text = "survey", figure: Text = "") -> Response:
    """One step back."""
    may(person, *EDITORS)
    try:
        jobs.undo(db, job_id, person.display)
        said = ""
    except jobs.NothingToUndo:
        said = "There is nothing to undo."
    return answer(request, again(db, person, job_id, station, figure, said=said))


@ROUTER.post("/redo")
def redo(request: Request, job_id: str, db: Db, person: Author, station: Text = "survey", figure: Text = "") -> Response:
    """One step forward."""
    may(person, *EDITORS)
    try:
        jobs.redo(db, job_id, person.display)
        said = ""
    except jobs.NothingToUndo:
        said = "There is nothing to redo."
    return answer(request, again(db, person, job_id, station, figure, said=said))


def recorded(db: Session, job_id: str) -> set[str]:
    """The names that a job's records speak of: nothing new is called so."""
    return names_in(record.act for record in records.read_records(db, job_id))


@ROUTER.post("/list/add")
def add_item(request: Request, job_id: str, db: Db, person: Author, form: Texts) -> Response:
    """A new item of a list: faces, obstacles, strings, batteries, boxes, openings, CTs, tariff windows, tools."""
    path, station = form.get("path", ""), form.get("station", "survey")
    adder = adder_of(path)
    if adder is None:
        raise HTTPException(404, "Nothing is added to that list here.")
    typed = {f"add-{path}-{k.removeprefix('item.')}": v for k, v in form.items() if k.startswith("item.")}
    fields = {k.removeprefix("item."): v for k, v in form.items() if k.startswith("item.")}
    known = recorded(db, job_id)

    def change(job: Job) -> Job:
        item = new_item(job, path, fields, known)
        return patched(job, path if adder.single else f"{path}.+", item)

    return revise(request, db, person, job_id, station, change, f"{path}: {adder.title} added", f"add-{path}", typed=typed)


@ROUTER.post("/list/remove")
def remove_item(request: Request, job_id: str, db: Db, person: Author, path: Text, item: Text = "", station: Text = "survey") -> Response:
    """Take an item off a list; undo brings it back. What hangs on it (a battery's run, its place on the wall) goes with it."""
    adder = adder_of(path)
    if adder is None:
        raise HTTPException(404, "Nothing is removed from that list here.")

    def change(job: Job) -> Job:
        if adder.single:
            return patched(job, path, None)
        less = patched(job, f"{path}.-{item}", None)
        return without_battery(less, item) if path.startswith("banks.") else less

    return revise(request, db, person, job_id, station, change, f"{path}: {item} removed", f"list-{path}")

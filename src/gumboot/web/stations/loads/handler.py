"""The station Loads, its picks and its year."""

from __future__ import annotations

from fastapi import Request, UploadFile
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.intake.consumption_csv import read_consumption
from gumboot.core.intake.loads_csv import MOST_BYTES, read_loads
from gumboot.core.job import BadPath, Job
from gumboot.core.job.model import Consumption
from gumboot.core.job.names import slug
from gumboot.core.plan.derive import Plan
from gumboot.core.study.pick import moved
from gumboot.store import accounts, jobs
from gumboot.web import studies
from gumboot.web.deciding import EDITORS, again, answer, message, plan_now, revise
from gumboot.web.lists import BadItem
from gumboot.web.page_words import leg_options
from gumboot.web.quantities import parse
from gumboot.web.rendering import asking, bench, plan_of, render
from gumboot.web.security import Author, Db, Person, Text, may
from gumboot.web.stations.loads.view import picks_of, year_of
from gumboot.web.stations.opening import opened

ROUTER = opened("loads")
MOST_CONSUMPTION_BYTES = 12_000_000


@ROUTER.get("/part/picks")
def picks(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """The best pick of circuits, the balance of legs, what may start together, the schools."""
    view = asking(request, db, person, job_id, "loads")
    return render("stations/loads/picks.html", b=view, v=picks_of(view))


@ROUTER.get("/part/year")
def year(request: Request, job_id: str, db: Db, person: Person) -> HTMLResponse:
    """The year and its outages."""
    view = asking(request, db, person, job_id, "loads")
    return render("stations/loads/year.html", b=view, v=year_of(view))


@ROUTER.post("/loads/add")
def add_load(
    request: Request,
    job_id: str,
    db: Db,
    person: Author,
    title: Text = "",
    running: Text = "",
    surge: Text = "",
    leg: Text = "L1",
    side: Text = "backed",
    board: Text = "",
) -> Response:
    """A new load; without a starting power it starts as it runs."""
    may(person, *EDITORS)
    revision = jobs.load(db, job_id)
    taken = {x.id for x in revision.job.loads}
    load_id = slug(title, taken)
    problem = ""
    try:
        running_w = parse(running, "W")
        load = {
            "id": load_id,
            "title": title.strip(),
            "running_w": running_w,
            "surge_w": parse(surge, "W") if surge.strip() else running_w,
            "leg": leg,
            "side": side,
            "board": board if side == "backed" else "",
        }
        plan_of(db, jobs.edit(db, job_id, revision.number, "loads.+", load, person.display))
    except ValidationError as refused:
        problem = f"{refused.errors()[0]['loc'][-1]}: {message(refused)}"
    except GumbootError as refused:
        problem = str(refused)
    if problem:
        db.rollback()
    typed = {"add-title": title, "add-running": running, "add-surge": surge} if problem else {}
    return answer(
        request,
        again(db, person, job_id, "loads", "", problems={"add-load": problem} if problem else {}, typed=typed),
        422 if problem else 200,
    )


@ROUTER.post("/loads/remove")
def remove_load(request: Request, job_id: str, db: Db, person: Author, load: Text) -> Response:
    """Take a load off the job; undo brings it back."""
    may(person, *EDITORS)
    try:
        jobs.edit(db, job_id, jobs.load(db, job_id).number, f"loads.-{load}", None, person.display)
    except BadPath:
        raise HTTPException(404, "That load is not on this job any more.") from None
    return answer(request, again(db, person, job_id, "loads", ""))


def _island(db: Db, job_id: str, leader: str) -> Plan:
    """The island that a page asks about. Raises BadItem where its leader leads none any more."""
    part = studies.named_island(plan_now(db, job_id), leader)
    if part is None:
        raise BadItem("island", f"{leader} leads no island of this house any more. Reload the page, then ask again.")
    return part


@ROUTER.post("/loads/pick")
def take_pick(request: Request, job_id: str, db: Db, person: Author, legs: Text = "fixed", island: Text = "") -> Response:
    """Back up the best pick of circuits, of one island where the house has several."""

    def change(job: Job) -> Job:
        part = _island(db, job_id, island)
        moves = studies.best_pick(part, legs == "free").changes
        loads = [moved(part, x, *moves[x.id]) if x.id in moves else x for x in job.loads]
        return job.model_copy(update={"loads": loads})

    return revise(request, db, person, job_id, "loads", change, "best pick of circuits", "pick")


@ROUTER.post("/loads/balance")
def take_balance(request: Request, job_id: str, db: Db, person: Author, island: Text = "") -> Response:
    """Move breakers so that the heaviest leg is lightest."""

    def change(job: Job) -> Job:
        moves = studies.balance(_island(db, job_id, island)).moves
        return job.model_copy(update={"loads": [x.model_copy(update={"leg": moves[x.id]}) if x.id in moves else x for x in job.loads]})

    return revise(request, db, person, job_id, "loads", change, "legs balanced", "balance")


def _text(upload: UploadFile, most: int) -> str:
    raw = upload.file.read(most + 1)
    if len(raw) > most:
        raise BadItem("file", f"The file is larger than {most // 1000} kB. Split it.")
    for encoding in ("utf-8-sig", "cp1252"):
        try:
            return raw.decode(encoding)
        except UnicodeDecodeError:
            continue
    raise BadItem("file", "The file is no text. Export it as CSV.")


@ROUTER.post("/loads/import")
def import_loads(request: Request, job_id: str, db: Db, person: Author, file: UploadFile, replace: Text = "") -> Response:
    """Loads from a CSV file. A file with a bad line changes nothing and names every bad line."""
    may(person, *EDITORS)
    view = bench(db, person, job_id, "loads")
    try:
        text = _text(file, MOST_BYTES)
    except BadItem as refused:
        return _refused_lines(request, db, person, job_id, "import-loads", [str(refused)])
    taken = set() if replace else {x.id for x in view.job.loads}
    read = read_loads(text, taken, leg_options(view))
    if read.bad or not read.loads:
        lines = [f"Line {b.line}: {b.text}" for b in read.bad] or ["No load stands in the file."]
        return _refused_lines(request, db, person, job_id, "import-loads", lines)

    def change(job: Job) -> Job:
        return job.model_copy(update={"loads": list(read.loads) if replace else [*job.loads, *read.loads]})

    return revise(
        request,
        db,
        person,
        job_id,
        "loads",
        change,
        f"{len(read.loads)} loads imported",
        "import-loads",
        f"{len(read.loads)} loads were read.",
    )


@ROUTER.post("/loads/consumption")
def import_consumption(request: Request, job_id: str, db: Db, person: Author, file: UploadFile) -> Response:
    """Interval consumption from a CSV file. Lines that cannot be used are named; the rest is taken."""
    may(person, *EDITORS)
    try:
        read = read_consumption(_text(file, MOST_CONSUMPTION_BYTES), file.filename or "")
    except BadItem as refused:
        return _refused_lines(request, db, person, job_id, "import-consumption", [str(refused)])
    lines = [f"Line {b.line}: {b.text}" for b in read.bad]
    found = read.consumption
    if found is None:
        return _refused_lines(request, db, person, job_id, "import-consumption", lines)
    said = f"{found.intervals} intervals of {read.minutes} min were read, {found.kwh:.0f} kWh."
    if lines:
        found = found.model_copy(
            update={"notes": [*found.notes, *lines[:12], *([f"and {len(lines) - 12} lines more"] if len(lines) > 12 else [])]}
        )
    return revise(
        request, db, person, job_id, "loads", lambda job: job.model_copy(update={"consumption": found}), said, "import-consumption", said
    )


@ROUTER.post("/loads/consumption/clear")
def clear_consumption(request: Request, job_id: str, db: Db, person: Author) -> Response:
    """Let the listed loads stand for the house again."""
    return revise(
        request,
        db,
        person,
        job_id,
        "loads",
        lambda job: job.model_copy(update={"consumption": Consumption()}),
        "consumption cleared",
        "import-consumption",
    )


def _refused_lines(request: Request, db: Session, person: accounts.Who, job_id: str, key: str, lines: list[str]) -> Response:
    shown = "\n".join(lines[:30]) + (f"\nand {len(lines) - 30} more" if len(lines) > 30 else "")
    return answer(request, again(db, person, job_id, "loads", "", problems={key: shown}), 422)

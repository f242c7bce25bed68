"""Acts of the Plan leg that set several fields at once, and the parts of its pages that are asked for after the picture stands."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, UploadFile
from pydantic import ValidationError
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import HTMLResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.intake.consumption_csv import read_consumption
from gumboot.core.intake.loads_csv import MOST_BYTES, read_loads
from gumboot.core.job import BadPath, Job, read_path, write_path
from gumboot.core.job.fitting import Own, another, another_box, fit, take_out_bank
from gumboot.core.job.model import Consumption, String
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.upkeep import without_battery
from gumboot.core.study.layouts import Lay, strings_of, why_not
from gumboot.core.study.pick import moved
from gumboot.store import accounts, jobs
from gumboot.web import studies
from gumboot.web.equipment import places
from gumboot.web.lists import BadItem, adder_of, new_item
from gumboot.web.page_words import leg_options
from gumboot.web.pages import EDITORS, again, answer, message
from gumboot.web.rendering import bench, kept_whole, plan_of, render
from gumboot.web.security import Author, Db, Person, Text, Texts, may

ROUTER = APIRouter()
MOST_CONSUMPTION_BYTES = 12_000_000


def act(
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


def _patched(job: Job, path: str, value: Any) -> Job:
    return Job.model_validate(write_path(job.model_dump(mode="json"), path, value))


@ROUTER.post("/jobs/{job_id}/list/add")
def add_item(request: Request, job_id: str, db: Db, person: Author, form: Texts) -> Response:
    """A new item of a list: faces, obstacles, strings, batteries, boxes, openings, CTs, tariff windows, tools."""
    path, station = form.get("path", ""), form.get("station", "survey")
    adder = adder_of(path)
    if adder is None:
        raise HTTPException(404, "Nothing is added to that list here.")
    typed = {f"add-{path}-{k.removeprefix('item.')}": v for k, v in form.items() if k.startswith("item.")}
    fields = {k.removeprefix("item."): v for k, v in form.items() if k.startswith("item.")}

    def change(job: Job) -> Job:
        item = new_item(job, path, fields)
        return _patched(job, path if adder.single else f"{path}.+", item)

    return act(request, db, person, job_id, station, change, f"{path}: {adder.title} added", f"add-{path}", typed=typed)


@ROUTER.post("/jobs/{job_id}/list/remove")
def remove_item(request: Request, job_id: str, db: Db, person: Author, path: Text, item: Text = "", station: Text = "survey") -> Response:
    """Take an item off a list; undo brings it back. What hangs on it (a battery's run, its place on the wall) goes with it."""
    adder = adder_of(path)
    if adder is None:
        raise HTTPException(404, "Nothing is removed from that list here.")

    def change(job: Job) -> Job:
        if adder.single:
            return _patched(job, path, None)
        less = _patched(job, f"{path}.-{item}", None)
        return without_battery(less, item) if path.startswith("banks.") else less

    return act(request, db, person, job_id, station, change, f"{path}: {item} removed", f"list-{path}")


@ROUTER.post("/jobs/{job_id}/things/fit")
def fit_thing(request: Request, job_id: str, db: Db, person: Author, path: Text, value: Text = "") -> Response:
    """Choose the card of a thing; a thing that is not there is put in, and one left without a card is taken out; so is an idle bank."""

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        if path.startswith("banks.") and not value:
            take_out_bank(document, path.split(".")[1])
        else:
            fit(document, path.removeprefix("things.").removesuffix(".card"), value or None)
        return Job.model_validate(document)

    return act(request, db, person, job_id, "survey", change, f"{path} {value or 'taken out'}", path)


@ROUTER.post("/jobs/{job_id}/things/another")
def another_inverter(request: Request, job_id: str, db: Db, person: Author, like: Text, seen: Text = "", own: Text = "") -> Response:
    """Another inverter like one that stands there, with its own switch-fuse and roof box, and with a bank or a board of its own if asked."""

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        brings: Own = "bank" if own == "bank" else "board" if own == "board" else "nothing"
        another(document, like, seen=int(seen) if seen.isdigit() else None, own=brings)
        return Job.model_validate(document)

    return act(
        request, db, person, job_id, "survey", change, f"another inverter like {like}", "another", said="Another inverter stands here now."
    )


@ROUTER.post("/jobs/{job_id}/things/another-box")
def another_of_boxes(request: Request, job_id: str, db: Db, person: Author, like: Text, seen: Text = "") -> Response:
    """Another board or transfer switch like one that stands there."""

    def change(job: Job) -> Job:
        document = job.model_dump(mode="json")
        another_box(document, like, seen=int(seen) if seen.isdigit() else None)
        return Job.model_validate(document)

    return act(
        request, db, person, job_id, "survey", change, f"another like {like}", "another", said=f"Another like {like} stands here now."
    )


def _island(db: Db, job_id: str, leader: str) -> Plan:
    """The island that a page asks about. Raises BadItem where its leader leads none any more."""
    part = studies.named_island(plan_now(db, job_id), leader)
    if part is None:
        raise BadItem("island", f"{leader} leads no island of this house any more. Reload the page, then ask again.")
    return part


@ROUTER.post("/jobs/{job_id}/loads/pick")
def take_pick(request: Request, job_id: str, db: Db, person: Author, legs: Text = "fixed", island: Text = "") -> Response:
    """Back up the best pick of circuits, of one island where the house has several."""

    def change(job: Job) -> Job:
        part = _island(db, job_id, island)
        moves = studies.best_pick(part, legs == "free").changes
        loads = [moved(part, x, *moves[x.id]) if x.id in moves else x for x in job.loads]
        return job.model_copy(update={"loads": loads})

    return act(request, db, person, job_id, "loads", change, "best pick of circuits", "pick")


@ROUTER.post("/jobs/{job_id}/loads/balance")
def take_balance(request: Request, job_id: str, db: Db, person: Author, island: Text = "") -> Response:
    """Move breakers so that the heaviest leg is lightest."""

    def change(job: Job) -> Job:
        moves = studies.balance(_island(db, job_id, island)).moves
        return job.model_copy(update={"loads": [x.model_copy(update={"leg": moves[x.id]}) if x.id in moves else x for x in job.loads]})

    return act(request, db, person, job_id, "loads", change, "legs balanced", "balance")


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


@ROUTER.post("/jobs/{job_id}/loads/import")
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

    return act(
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


@ROUTER.post("/jobs/{job_id}/loads/consumption")
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
    return act(
        request, db, person, job_id, "loads", lambda job: job.model_copy(update={"consumption": found}), said, "import-consumption", said
    )


@ROUTER.post("/jobs/{job_id}/loads/consumption/clear")
def clear_consumption(request: Request, job_id: str, db: Db, person: Author) -> Response:
    """Let the listed loads stand for the house again."""
    return act(
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


def read_lays(text: str) -> tuple[Lay, ...]:
    """A layout as the address writes it: ``PV1:south:11:1:0,PV2:west:8:1:0``. Raises BadItem."""
    found = []
    for part in filter(None, text.split(",")):
        bits = part.split(":")
        if len(bits) != 5 or not all(b.isdigit() for b in bits[2:]) or not 0 < int(bits[2]) <= 60 or not 0 < int(bits[3]) <= 10:
            raise BadItem("layout", "That is no layout. Choose one from the list.")
        found.append(Lay(bits[0], bits[1], int(bits[2]), int(bits[3]), bits[4] == "1"))
    return tuple(found)


@ROUTER.post("/jobs/{job_id}/strings/take")
def take_layout(request: Request, job_id: str, db: Db, person: Author, layout: Text) -> Response:
    """Take a layout from the list. One that breaks a limit is refused with every limit it breaks."""

    def change(job: Job) -> Job:
        lays, plan = read_lays(layout), plan_now(db, job_id)
        broken = why_not(plan, lays)
        if broken or not lays:
            raise BadItem("layout", " ".join(b.text for b in broken) or "The layout is empty.")
        strings = [String.model_validate(row) for row in strings_of(plan, lays)]
        return job.model_copy(update={"strings": strings})

    return act(request, db, person, job_id, "strings", change, f"layout {layout}", "layout")


@ROUTER.get("/jobs/{job_id}/part/{part}")
def part_of_page(job_id: str, part: str, request: Request, db: Db, person: Person) -> HTMLResponse:
    """A part of a station's page that needs a study; asked for when the rest is drawn."""
    homes = {
        "year": "loads",
        "picks": "loads",
        "layouts": "strings",
        "sizes": "circuits",
        "changes": "survey",
        "material": "circuits",
        "fits": "survey",
    }
    if part not in homes:
        raise HTTPException(404, "There is no such part.")
    view = bench(db, person, job_id, homes[part])
    view.query = {k: v[:400] for k, v in request.query_params.items()}
    if part == "changes" and view.query.get("figure", "") not in view.plan.figures:
        raise HTTPException(404, "That figure is no longer part of this plan. Reload the page.")
    if part == "fits" and all(place.path != view.query.get("path") for place in places(view.job)):
        raise HTTPException(404, "That place is no longer part of this job. Reload the page.")
    return render(f"parts/{part}.html", b=view)


@ROUTER.post("/jobs/{job_id}/cards/update")
def update_card(request: Request, job_id: str, db: Db, person: Author, card: Text, revision: Annotated[int, Form()]) -> Response:
    """Plan with another revision of a card from now on."""

    def change(job: Job) -> Job:
        if card not in job.cards:
            raise BadItem("card", "That card is not on this job any more.")
        return job.model_copy(update={"cards": {**job.cards, card: revision}})

    return act(request, db, person, job_id, "survey", change, f"card {card} at revision {revision}", "cards")


@ROUTER.post("/jobs/{job_id}/runs/from-wall")
def length_from_wall(request: Request, job_id: str, db: Db, person: Author, run: Text) -> Response:
    """Take the length that the wall gives for a run between two boxes."""

    def change(job: Job) -> Job:
        plan = plan_now(db, job_id)
        circuit = next((c for c in plan.circuits.all if c.id == run), None)
        length = studies.wall_length_m(plan, circuit) if circuit else None
        if length is None:
            raise BadItem("run", "The wall gives no length for that run: an end of it is not on the wall.")
        read_path(job.model_dump(mode="json"), f"runs.{run}")
        return _patched(job, f"runs.{run}.length_m", round(length, 2))

    return act(request, db, person, job_id, "circuits", change, f"length of {run} from the wall", "runs")

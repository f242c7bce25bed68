"""Downloads of a job: its document, lists, drawings, templates, labels, the pack."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime

from fastapi import APIRouter
from sqlalchemy.orm import Session
from starlette.exceptions import HTTPException
from starlette.responses import Response

from gumboot.core.intake.loads_csv import loads_csv
from gumboot.core.plan.job_file import job_file
from gumboot.core.record import Photo
from gumboot.core.recording.files import lines_of
from gumboot.core.standing import counted
from gumboot.core.study.label_prints import prints_of
from gumboot.core.study.van import Van, torques_of
from gumboot.documents import buying, tables
from gumboot.documents.dxf import drawing_dxf
from gumboot.documents.labels import labels_csv, laid_out, medium_of
from gumboot.documents.pack import Picture, Pictures
from gumboot.documents.template import template_dxf, template_of
from gumboot.drawing import single_line, strings, wall
from gumboot.drawing.svg import Canvas
from gumboot.store import photos
from gumboot.store import records as record_store
from gumboot.web import studies
from gumboot.web.rendering import bench
from gumboot.web.security import Db, Person
from gumboot.web.view import Bench

ROUTER = APIRouter()
# As many as a person leafs through; the rest is kept with the records.
MOST_PICTURES = 120


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


def _van_pdf(view: Bench) -> bytes:
    from gumboot.documents.pdf import van_pdf

    return van_pdf(view.plan, datetime.now(UTC).date().isoformat(), f"{view.job.title}, van list, revision {view.revision.number}")


def _labels_file(view: Bench, key: str) -> tuple[bytes, str]:
    medium = medium_of(key)
    if medium is None:
        raise HTTPException(404, "There is no such tape or sheet: the list stands on Live checks.")
    prints = prints_of(view.plan)
    if all(laid_out(print_, medium) is None for print_ in prints):
        raise HTTPException(404, f"No label of this house goes on {medium.title}: take a wider one.")
    from gumboot.documents.pdf import labels_pdf

    return labels_pdf(prints, medium, f"{view.job.title}, labels, {medium.title}, revision {view.revision.number}"), "application/pdf"


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
        "van-list.pdf": lambda: (_van_pdf(view), "application/pdf"),
        "leads.csv": lambda: (buying.leads_csv(_van(view)), csv_kind),
        "labels.csv": lambda: (labels_csv(prints_of(plan)), csv_kind),
        "torques-a6.pdf": lambda: (_torques_pdf(view), "application/pdf"),
        "pack.pdf": lambda: (_pack_pdf(db, view), "application/pdf"),
        "single-line.pdf": lambda: (_sheet_pdf(view), "application/pdf"),
    }
    drawing, _, form = name.rpartition(".")
    if form in ("svg", "dxf") and (drawing in ("single-line", "wall", "roof") or drawing.startswith("wall-")):
        makers[name] = lambda: _drawing_file(view, drawing, form)
    if form in ("pdf", "dxf") and drawing.startswith("template-"):
        makers[name] = lambda: _template_file(view, drawing.removeprefix("template-"), form)
    if form == "pdf" and drawing.startswith("labels-"):
        makers[name] = lambda: _labels_file(view, drawing.removeprefix("labels-"))
    if name not in makers:
        raise HTTPException(404, "There is no such file.")
    content, kind = makers[name]()
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{job_id}-{name}"'})

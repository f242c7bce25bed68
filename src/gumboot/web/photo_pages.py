"""A picture of an act, and the picture itself."""

from __future__ import annotations

import uuid
from typing import cast

from fastapi import APIRouter, UploadFile
from starlette.exceptions import HTTPException
from starlette.responses import RedirectResponse, Response

from gumboot.core.acts import ident
from gumboot.core.record import Photo, Role
from gumboot.core.recording import Doing, may_record, said
from gumboot.core.recording import Person as Doer
from gumboot.store import photos, records
from gumboot.web import urls
from gumboot.web.act_words import act_mark
from gumboot.web.rendering import bench
from gumboot.web.security import Author, Db, Person

ROUTER = APIRouter(prefix="/jobs/{job_id}/photos")


@ROUTER.post("/{word}/{name}")
def add(job_id: str, word: str, name: str, db: Db, person: Author, file: UploadFile) -> Response:
    """Keep a picture of an act, with a record that names it by its hash."""
    now = records.hold(db, job_id)
    view = bench(db, person, job_id, "wire")
    act = view.standing.acts.get(ident(word, name))
    if act is None:
        raise HTTPException(404, "That is no act of this plan any more. Nothing was saved.")
    try:
        kept = photos.keep(db, job_id, file.file.read(photos.MOST_BYTES + 1))
    except photos.BadPhoto as bad:
        raise HTTPException(422, f"{bad} Nothing was saved.") from None
    by = Doing(person.name, person.display, person.role, view.revision.number)
    record = Photo(**said(str(uuid.uuid4()), act.id, now, by), photo=kept)
    verdict = may_record(view.plan, view.standing, record, Doer(person.name, person.display, cast("Role", person.role)), now)
    if verdict.record is None:
        raise HTTPException(403 if verdict.outcome == "forbidden" else 422, verdict.text)
    records.add_record(db, job_id, records.Sent(record.id, record.kind, act.id, {"photo": kept}, person.display), verdict.record)
    return RedirectResponse(f"{urls.station(job_id, act.station)}#{act_mark(act)}", 303)


@ROUTER.get("/{name}")
def picture(job_id: str, name: str, db: Db, person: Person) -> Response:
    """A picture of this house."""
    found = photos.photo(db, job_id, name)
    if found is None:
        raise HTTPException(404, "There is no such picture.")
    kind, content = found
    return Response(content, media_type=kind, headers={"Cache-Control": "private, max-age=31536000, immutable"})

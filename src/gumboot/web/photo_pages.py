"""A picture of an act, and the picture itself."""

from __future__ import annotations

import uuid
from typing import cast

from fastapi import APIRouter, Request, UploadFile
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot.core.acts import ident
from gumboot.core.record import Photo, Role
from gumboot.core.recording import Doing, may_record, said
from gumboot.core.recording import Person as Doer
from gumboot.store import photos, records
from gumboot.web import urls
from gumboot.web.act_words import act_mark
from gumboot.web.record_pages import Recording, recording
from gumboot.web.rendering import bench
from gumboot.web.security import Author, Db, Person, Texts
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/jobs/{job_id}/photos")


def _record(view: Bench, act_id: str, here: Recording, kept: str) -> Photo:
    """The record of a picture as it is offered to the rule of recording."""
    by = Doing(here.person.name, here.person.display, here.person.role, view.revision.number, here.device, here.clock_ahead_s)
    return Photo(**said(here.record_id, act_id, here.now - here.age, by), photo=kept)


def _add(view: Bench, act_id: str, here: Recording, content: bytes) -> str:
    """Keep a picture with its record; gives its hash. Raises HTTPException."""
    try:
        kept = photos.keep(here.db, here.job_id, content)
    except photos.BadPhoto as bad:
        raise HTTPException(422, f"{bad} Nothing was saved.") from None
    who = Doer(here.person.name, here.person.display, cast("Role", here.person.role))
    verdict = may_record(view.plan, view.standing, _record(view, act_id, here, kept), who, here.now)
    if verdict.record is None:
        raise HTTPException(403 if verdict.outcome == "forbidden" else 422, verdict.text)
    sent = records.Sent(here.record_id, "photo", act_id, {"photo": kept}, here.person.display)
    try:
        records.add_record(here.db, here.job_id, sent, verdict.record)
    except records.OtherRecord:
        raise HTTPException(409, "A record of this id says something else already; nothing was saved from here.") from None
    return kept


@ROUTER.post("/{word}/{name}")
def add(request: Request, job_id: str, word: str, name: str, db: Db, person: Author, typed: Texts, file: UploadFile) -> Response:
    """Keep a picture of an act, with a record that names it by its hash; sent again it is the same one."""
    here = recording(request, job_id, db, person, {"record_id": str(uuid.uuid4()), **typed})
    view = bench(db, person, job_id, "wire")
    act = view.standing.acts.get(ident(word, name))
    if act is None:
        raise HTTPException(404, "That is no act of this plan any more. Nothing was saved.")
    kept = _add(view, act.id, here, file.file.read(photos.MOST_BYTES + 1))
    if here.by_script:
        return JSONResponse({"ok": True, "photo": kept})
    return RedirectResponse(f"{urls.station(job_id, act.station)}#{act_mark(act)}", 303)


@ROUTER.get("/{name}")
def picture(job_id: str, name: str, db: Db, person: Person) -> Response:
    """A picture of this house."""
    found = photos.photo(db, job_id, name)
    if found is None:
        raise HTTPException(404, "There is no such picture.")
    kind, content = found
    return Response(content, media_type=kind, headers={"Cache-Control": "private, max-age=31536000, immutable"})

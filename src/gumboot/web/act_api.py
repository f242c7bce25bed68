"""Acts and records as data: what a phone judges by, and one record sent as it is."""

from __future__ import annotations

import gzip
import json
from collections import defaultdict
from datetime import UTC, datetime
from typing import Any, cast

from fastapi import APIRouter, Request
from pydantic import ValidationError
from starlette.responses import JSONResponse, Response

from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, Left, Photo, Role, as_sent, parse_record
from gumboot.core.recording import Person as Doer
from gumboot.core.recording import may_record
from gumboot.store import records
from gumboot.web.act_data import carried
from gumboot.web.act_words import said_by, to_agree
from gumboot.web.rendering import bench, plan_under
from gumboot.web.security import Author, Db, JsonBody, Person
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/api/jobs/{job_id}")
STATUS = {"refused": 422, "asked": 409, "unknown": 404, "forbidden": 403}


def packed(request: Request, told: Any) -> Response:
    """An answer as JSON, packed for who takes it so."""
    body = json.dumps(told, ensure_ascii=False, separators=(",", ":")).encode()
    if "gzip" not in request.headers.get("accept-encoding", ""):
        return Response(body, media_type="application/json")
    headers = {"Content-Encoding": "gzip", "Vary": "Accept-Encoding"}
    return Response(gzip.compress(body, 5), media_type="application/json", headers=headers)


def _one(view: Bench, r: AnyRecord) -> dict[str, str]:
    left = {"left": r.as_left} if isinstance(r, Left) else {}
    return {
        **left,
        "id": r.id,
        "by": r.by,
        "doer": r.doer,
        "at": r.at.isoformat(),
        "words": said_by(view, r),
        "device": r.device,
    }


def _said(view: Bench) -> dict[str, dict[str, str]]:
    """What the record that stands of each act says, in words, and who made it when."""
    return {act: _one(view, record) for act, record in view.standing.last.items() if record is not None}


def _photos(view: Bench) -> dict[str, list[dict[str, str]]]:
    """The pictures of each act, the oldest first."""
    found = defaultdict[str, list[dict[str, str]]](list)
    for r in view.records:
        if isinstance(r, Photo) and r.photo:
            found[r.act].append({"hash": r.photo, "by": r.by, "at": r.at.isoformat()})
    return found


def beside(view: Bench) -> dict[str, Any]:
    """What a phone shows beside the acts: what was said last, pictures, who has what in hand, each station, and the head of the records."""
    stations = {
        name: {"state": s.state, "word": s.word, "done": s.done, "total": s.total, "stops": s.stops, "cautions": s.cautions}
        for name, s in view.standing.stations.items()
    }
    holding = {place: {"name": h.name, "display": h.display} for place, h in view.holdings.items()}
    signed = view.standing.signed
    return {
        "said": _said(view),
        "photos": _photos(view),
        "stations": stations,
        "holdings": holding,
        "agree": {f"setting:{row.key}": waits for row in view.plan.settings.sheet if (waits := to_agree(view, row))},
        "head": view.standing.head or "",
        "missing": list(view.standing.missing),
        "two": {act: [_one(view, record) for record in two] for act, two in view.standing.two.items()},
        "signed": {"by": signed.by, "at": signed.at.isoformat()} if signed is not None and not view.standing.ended else None,
    }


@ROUTER.get("/acts")
def acts(request: Request, job_id: str, db: Db, person: Person) -> Response:
    """Every act of a house with its band and gate, as the server sees it at this moment; packed for who takes it so."""
    view = bench(db, person, job_id, "wire")
    who = {"name": person.name, "display": person.display, "role": person.role}
    told = {"revision": view.revision.number, "at": datetime.now(UTC).isoformat(), "person": who, **carried(view.plan, view.standing)}
    # A few hundred acts are much alike: a twentieth of them goes through the air.
    return packed(request, {**told, **beside(view)})


def _problem(status: int, title: str, detail: str, **more: Any) -> Response:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


def _kept(record: AnyRecord, status: int) -> Response:
    return JSONResponse({"id": record.id, "act": record.act, "defects": list(record.defects)}, status)


def _judge(
    view: Bench, record: AnyRecord, person: Doer, now: datetime, *, sure: bool, under: Plan | None
) -> tuple[AnyRecord | None, Response | None]:
    verdict = may_record(view.plan, view.standing, record, person, now, sure=sure, under=under)
    if verdict.record is None:
        return None, _problem(STATUS[verdict.outcome], f"The record is {verdict.outcome}", verdict.text, field=verdict.field)
    return verdict.record, None


@ROUTER.post("/records")
def add(job_id: str, raw: JsonBody, db: Db, person: Author, sure: bool = False) -> Response:
    """Add one record of the format ``gumboot.record/1``: 201 with its defects, 409 with the question that its value raises."""
    try:
        record = parse_record(raw if isinstance(raw, dict) else {})
    except ValidationError as bad:
        rows = [{"field": ".".join(map(str, e["loc"])) or "body", "message": e["msg"]} for e in bad.errors()[:8]]
        return _problem(422, "That is no record", "; ".join(f"{r['field']}: {r['message']}" for r in rows), errors=rows)
    now = records.hold(db, job_id)
    view = bench(db, person, job_id, "wire")
    known = next((r for r in view.records if r.id == record.id), None)
    if known is not None and as_sent(known) == as_sent(record):
        return _kept(known, 200)
    doer = Doer(person.name, person.display, cast("Role", person.role))
    under = plan_under(db, job_id, record.revision, view.revision.number)
    kept, refused = _judge(view, record, doer, now, sure=sure, under=under)
    if kept is None:
        return refused or _problem(422, "The record is refused", "It was not kept.")
    try:
        records.add_record(
            db, job_id, records.Sent(record.id, kept.kind, kept.act, {"api": record.model_dump_json()}, person.display), kept
        )
    except records.OtherRecord:
        return _problem(409, "The id is taken", "A record of this id says something else already. Nothing was saved.", field="id")
    return _kept(kept, 201)

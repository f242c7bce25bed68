"""Acts and records as data: what a phone judges by, and one record sent as it is."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, cast

from fastapi import APIRouter
from pydantic import ValidationError
from starlette.responses import JSONResponse, Response

from gumboot.core.acts import Act, Gates, Stands
from gumboot.core.plan.derive import Plan
from gumboot.core.record import AnyRecord, Role, as_sent, parse_record
from gumboot.core.recording import Input, inputs_of, may_record
from gumboot.core.recording import Person as Doer
from gumboot.core.standing import Standing
from gumboot.store import records
from gumboot.web.rendering import bench
from gumboot.web.security import Author, Db, JsonBody, Person
from gumboot.web.view import Bench

ROUTER = APIRouter(prefix="/api/jobs/{job_id}")
STATUS = {"refused": 422, "asked": 409, "unknown": 404, "forbidden": 403}


def _band(act: Act) -> dict[str, Any]:
    band = act.band
    ends = {
        name: figure.value for name, figure in (("low", band.low), ("high", band.high), ("expected", band.expected)) if figure is not None
    }
    more = {"measures": band.measures, "shows": list(band.shows), "words": band.words, "choices": list(band.choices)}
    return {"unit": band.unit, **ends, **{name: value for name, value in more.items() if value}}


def _input(asked: Input) -> dict[str, Any]:
    more = {
        "unit": asked.unit,
        "units": list(asked.units),
        "choices": list(asked.choices),
        "says": list(asked.says),
        "stands": asked.stands,
        "hint": asked.hint,
    }
    told = {name: value for name, value in more.items() if value}
    return {"name": asked.name, "words": asked.words, "takes": asked.takes, "required": asked.required, "group": asked.group, **told}


def act_data(act: Act, stands: Stands, gates: Gates, asks: Sequence[Input]) -> dict[str, Any]:
    """One act with what it asks for and its gate as it is now: what it needs, and which of that holds it."""
    return {
        "id": act.id,
        "kind": act.kind,
        "station": act.station,
        "title": act.title,
        "thing": act.thing,
        "prepare": act.prepare,
        "see": act.see,
        "caution": act.caution,
        "band": _band(act),
        "inputs": [_input(asked) for asked in asks],
        "guards": act.guards,
        "who": list(act.who),
        "needs": list(act.needs),
        "heeds": list(act.heeds),
        "lasts": {
            "hours": act.lasts.hours,
            "moves": act.lasts.moves,
            "landed": list(act.lasts.landed),
            "rests": act.lasts.rests,
            "below": act.lasts.below.value if act.lasts.below is not None else None,
        },
        "makes_safe": act.makes_safe,
        "is_derived": act.is_derived,
        "is_optional": act.is_optional,
        "state": stands.state,
        "why": stands.why,
        "held_by": [trouble.act.id for trouble in gates.held_by(act.id)],
    }


def _acts(plan: Plan, standing: Standing) -> list[dict[str, Any]]:
    asked = {act.id: inputs_of(plan, standing, act) for act in standing.acts.values()}
    return [act_data(act, standing.stands[act.id], standing.gates, asked[act.id]) for act in standing.acts.values()]


@ROUTER.get("/acts")
def acts(job_id: str, db: Db, person: Person) -> dict[str, Any]:
    """Every act of a house with its band and gate, as the server sees it at this moment."""
    view = bench(db, person, job_id, "wire")
    return {"revision": view.revision.number, "at": datetime.now(UTC).isoformat(), "acts": _acts(view.plan, view.standing)}


def _problem(status: int, title: str, detail: str, **more: Any) -> Response:
    body = {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}
    return JSONResponse(body, status, media_type="application/problem+json")


def _kept(record: AnyRecord, status: int) -> Response:
    return JSONResponse({"id": record.id, "act": record.act, "defects": list(record.defects)}, status)


def _judge(view: Bench, record: AnyRecord, person: Doer, now: datetime, *, sure: bool) -> tuple[AnyRecord | None, Response | None]:
    verdict = may_record(view.plan, view.standing, record, person, now, sure=sure)
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
    kept, refused = _judge(view, record, doer, now, sure=sure)
    if kept is None:
        return refused or _problem(422, "The record is refused", "It was not kept.")
    try:
        records.add_record(
            db, job_id, records.Sent(record.id, kept.kind, kept.act, {"api": record.model_dump_json()}, person.display), kept
        )
    except records.OtherRecord:
        return _problem(409, "The id is taken", "A record of this id says something else already. Nothing was saved.", field="id")
    return _kept(kept, 201)

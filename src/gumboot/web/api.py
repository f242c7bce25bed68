"""The JSON side: the plan as data, and edits with problem details."""

from __future__ import annotations

from typing import Any, Self

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, ValidationError, model_validator
from starlette.responses import JSONResponse, Response

from gumboot.core.errors import GumbootError
from gumboot.core.job import BadPath, Job
from gumboot.core.job.fields import field_at
from gumboot.documents.report import plan_json
from gumboot.store import jobs
from gumboot.web import typed
from gumboot.web.deciding import EDITORS, message
from gumboot.web.rendering import kept_whole, plan_of
from gumboot.web.security import Author, Db, JsonBody, Person, may

ROUTER = APIRouter(prefix="/api")


class Edit(BaseModel):
    """One field of a job against the revision it was read from: its value in SI units, or as somebody types it in the units of the job."""

    model_config = ConfigDict(extra="forbid")
    path: str
    value: Any = None
    typed: str | None = None
    base: int

    @model_validator(mode="after")
    def _one_of_two(self) -> Self:
        if (self.typed is None) == ("value" not in self.model_fields_set):
            raise ValueError("send either value, in SI units, or typed")
        return self

    def entered(self, job: Job) -> Any:
        """The value for the job. Raises BadPath, BadUnit."""
        return self.value if self.typed is None else typed.read(field_at(job, self.path), self.typed, job.preferences.units)


def _problem(status: int, title: str, detail: str, **more: Any) -> Response:
    return JSONResponse(
        {"type": "about:blank", "title": title, "status": status, "detail": detail, **more}, status, media_type="application/problem+json"
    )


@ROUTER.get("/jobs/{job_id}/plan")
def plan(job_id: str, db: Db, person: Person) -> dict[str, Any]:
    """The whole plan: the same figures that the pages show."""
    revision = jobs.load(db, job_id)
    return {"revision": revision.number, **plan_json(plan_of(db, revision))}


@ROUTER.get("/jobs/{job_id}/revision")
def revision(job_id: str, db: Db, person: Person) -> dict[str, int]:
    """Number of the newest revision: cheap to ask before an edit."""
    return {"revision": jobs.load(db, job_id).number}


@ROUTER.patch("/jobs/{job_id}")
def edit(job_id: str, raw: JsonBody, db: Db, person: Author) -> Response:
    """Set one field; answers with the new revision, or problem details that name the field."""
    may(person, *EDITORS)
    try:
        body = Edit.model_validate(raw)
    except ValidationError as refused:
        rows = [{"field": ".".join(map(str, e["loc"])) or "body", "message": e["msg"]} for e in refused.errors()]
        return _problem(422, "Something is missing or wrong", "; ".join(f"{r['field']}: {r['message']}" for r in rows), errors=rows)
    try:
        entered = body.entered(jobs.load(db, job_id).job)
        revision = jobs.edit(db, job_id, body.base, body.path, entered, person.display, kept_whole(db, body.path))
        plan_of(db, revision)
    except BadPath as refused:
        return _problem(404, "No such field", str(refused), field=body.path)
    except ValidationError as refused:
        rows = [{"field": ".".join(map(str, e["loc"])) or body.path, "message": e["msg"]} for e in refused.errors()]
        return _problem(422, "That value is not allowed", message(refused), errors=rows)
    except jobs.Conflict as refused:
        return _problem(
            409,
            "Someone changed this meanwhile",
            str(refused),
            field=refused.path,
            yours=refused.yours,
            theirs=refused.theirs,
            by=refused.by,
            head=refused.head,
        )
    except GumbootError as refused:
        db.rollback()
        return _problem(422, "No plan follows from that value", str(refused), field=body.path)
    return JSONResponse({"revision": revision.number})

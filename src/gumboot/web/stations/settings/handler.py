"""The station Settings."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from gumboot.web.rendering import shown
from gumboot.web.security import Db, Person

ROUTER = APIRouter(prefix="/jobs/{job_id}")


@ROUTER.get("/settings")
def page(request: Request, job_id: str, db: Db, person: Person, figure: str = "") -> Response:
    """The station."""
    return shown(request, db, person, job_id, "settings", figure)

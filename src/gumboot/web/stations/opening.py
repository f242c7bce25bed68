"""How every station is opened: by its address, with what else stands there."""

from __future__ import annotations

from fastapi import APIRouter, Request
from starlette.responses import Response

from gumboot.web.rendering import shown
from gumboot.web.security import Db, Person


def opened(station: str) -> APIRouter:
    """The addresses of a station, its page the first of them."""
    router = APIRouter(prefix="/jobs/{job_id}")

    @router.get(f"/{station}")
    def page(request: Request, job_id: str, db: Db, person: Person, figure: str = "") -> Response:
        return shown(request, db, person, job_id, station, figure)

    return router

"""The application: routes, middleware, and one kind answer for every failure."""

from __future__ import annotations

import gc
import logging
import sys
import threading
import time
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from sqlalchemy import URL
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError
from sqlalchemy.exc import TimeoutError as NoConnection
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, RedirectResponse, Response

from gumboot import __version__
from gumboot.core.errors import GumbootError
from gumboot.store.demo import DEMO_PASSWORD
from gumboot.store.engine import database_state, open_engine
from gumboot.store.jobs import NoSuchJob, Unreadable
from gumboot.web import (
    act_api,
    act_pages,
    api,
    card_pages,
    deciding,
    downloads,
    due_pages,
    job_pages,
    live,
    note_pages,
    pages,
    photo_pages,
    record_pages,
    studies,
    sum_pages,
    urls,
)
from gumboot.web.bag import handler as bag
from gumboot.web.door import AT_ONCE, Door
from gumboot.web.headers import HEADERS
from gumboot.web.rendering import render
from gumboot.web.scripts import MARK, STATIC, Shipped
from gumboot.web.security import Guard, SignInNeeded
from gumboot.web.stations.routers import ROUTERS

LOG = logging.getLogger("gumboot")


def _problem(request: Request, status: int, title: str, detail: str, **more: Any) -> Response:
    request_id = getattr(request.state, "request_id", "")
    if request.url.path.startswith("/api/") or request.headers.get("accept", "").startswith("application/json"):
        body = {"type": "about:blank", "title": title, "status": status, "detail": detail, "request_id": request_id, **more}
        return JSONResponse(body, status, media_type="application/problem+json", headers=HEADERS)
    # A script swaps the answer into the page: then only the part that fits there is sent.
    template = "error_fragment.html" if request.headers.get("HX-Request") else "error.html"
    response = render(template, status, title=title, detail=detail, request_id=request_id)
    response.headers.update(HEADERS)
    return response


def _handlers(app: FastAPI) -> None:
    @app.exception_handler(SignInNeeded)
    def _sign_in(request: Request, _: SignInNeeded) -> Response:
        if request.url.path.startswith("/api/") or request.headers.get("accept", "").startswith("application/json"):
            return _problem(request, 401, "Sign in first", "Your session is over. Sign in again; nothing is lost.")
        if request.headers.get("X-Record"):
            return _problem(request, 401, "Sign in first", "Your session is over. Sign in again; nothing is lost.")
        if request.headers.get("HX-Request"):
            return Response(status_code=204, headers={"HX-Redirect": urls.SIGN_IN})
        return RedirectResponse(urls.SIGN_IN, 303)

    @app.exception_handler(NoSuchJob)
    def _no_job(request: Request, missing: NoSuchJob) -> Response:
        return _problem(
            request, 404, "No such job", f"There is no job '{missing}'. It may have been renamed; the list of jobs has them all."
        )

    @app.exception_handler(Unreadable)
    @app.exception_handler(GumbootError)
    def _no_plan(request: Request, refused: Exception) -> Response:
        return _problem(request, 422, "No plan follows", f"{refused} Nothing is lost: the job and its records stand as they are.")

    @app.exception_handler(HTTPException)
    def _http(request: Request, failure: HTTPException) -> Response:
        titles = {413: "Too large", 404: "Nothing here", 403: "Not yours to do", 405: "Not that way", 429: "Too many tries"}
        detail = (
            failure.detail
            if failure.status_code != 404 or failure.detail != "Not Found"
            else "This page does not exist. The list of jobs is a good place to start again."
        )
        response = _problem(request, failure.status_code, titles.get(failure.status_code, "That did not work"), str(detail))
        response.headers.update(failure.headers or {})
        return response

    @app.exception_handler(RequestValidationError)
    def _invalid(request: Request, failure: RequestValidationError) -> Response:
        rows = [{"field": ".".join(str(p) for p in e["loc"][1:]) or str(e["loc"][0]), "message": e["msg"]} for e in failure.errors()]
        return _problem(
            request, 422, "Something is missing or wrong", "; ".join(f"{r['field']}: {r['message']}" for r in rows), errors=rows
        )

    @app.exception_handler(DataError)
    def _unstorable(request: Request, _: DataError) -> Response:
        return _problem(
            request,
            422,
            "That text cannot be kept",
            "It holds a character that cannot be stored. Type it again without pasting; nothing was saved.",
        )

    @app.exception_handler(NoConnection)
    def _no_connection(request: Request, _: NoConnection) -> Response:
        answer = _problem(request, 503, "More is asked at once than the server can do", "Nothing was saved. Try again in 2 seconds.")
        answer.headers["Retry-After"] = "2"
        return answer

    @app.exception_handler(IntegrityError)
    def _taken(request: Request, failure: IntegrityError) -> Response:
        LOG.warning("taken in request %s: %s", getattr(request.state, "request_id", ""), type(failure.orig).__name__)
        return _problem(
            request,
            409,
            "Somebody did the same at the same moment",
            "Nothing was saved from here. Reload the page and look, then try again.",
        )

    @app.exception_handler(DBAPIError)
    def _database(request: Request, failure: DBAPIError) -> Response:
        LOG.error("database failure in request %s", getattr(request.state, "request_id", ""), exc_info=failure)
        return _problem(
            request,
            503,
            "The database does not answer",
            "Nothing was saved. Try again in a moment; if it stays so, restart with ./gumboot demo.",
        )

    @app.exception_handler(Exception)
    def _any(request: Request, failure: Exception) -> Response:
        LOG.error("failure in request %s", getattr(request.state, "request_id", ""), exc_info=failure)
        return _problem(request, 500, "Something broke on our side", "Nothing was saved. Note the number below when you report it.")


def create_app(database: URL, demo: bool = True) -> FastAPI:
    """The app on one database. Without ``demo`` the demo's published password opens nothing."""
    logging.basicConfig(level=logging.INFO, stream=sys.stderr, format="%(message)s")
    logging.getLogger("weasyprint").setLevel(logging.ERROR)
    logging.getLogger("fontTools").setLevel(logging.ERROR)
    app = FastAPI(title="Gumboot", version=__version__, docs_url=None, redoc_url=None, openapi_url=None)
    # Beside those within the door: the health page, and one that is being given back.
    app.state.engine = open_engine(database, AT_ONCE + 4)
    app.state.published = "" if demo else DEMO_PASSWORD
    app.add_middleware(Guard)
    app.add_middleware(Door)
    app.mount(f"/static/{MARK}", Shipped(directory=STATIC), name="static")
    for router in (
        bag.ROUTER,
        live.ROUTER,
        due_pages.ROUTER,
        job_pages.ROUTER,
        note_pages.ROUTER,
        card_pages.ROUTER,
        deciding.ROUTER,
        *ROUTERS,
        pages.ROUTER,
        downloads.ROUTER,
        record_pages.ROUTER,
        record_pages.ASIDE,
        act_pages.ROUTER,
        photo_pages.ROUTER,
        sum_pages.ROUTER,
        api.ROUTER,
        act_api.ROUTER,
    ):
        app.include_router(router)
    _handlers(app)
    # A derivation makes thousands of small values. What was loaded at start is never garbage, so the
    # collector need not walk it during every edit.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)

    # Solar and solver libraries take seconds to load: done beside the first requests, not within one.
    threading.Thread(target=studies.warm, name="warm", daemon=True).start()

    # Asked once a second at most, so that asking for health cannot take the connections away.
    asked: tuple[float, str] = (-1.0, "ready")

    @app.get(urls.HEALTH)
    async def health() -> JSONResponse:
        nonlocal asked
        if time.monotonic() - asked[0] > 1.0:
            asked = (time.monotonic(), asked[1])
            asked = (time.monotonic(), await run_in_threadpool(database_state, app.state.engine))
        state = asked[1]
        return JSONResponse({"app": __version__, "database": state}, 200 if state == "ready" else 503)

    @app.get("/favicon.ico", include_in_schema=False)
    def favicon() -> Response:
        return RedirectResponse(urls.static("boot.svg"), 301)

    return app

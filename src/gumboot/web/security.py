"""Headers, request ids, who is signed in, and the guard against forged forms."""

from __future__ import annotations

import hmac
import json
import logging
import time
import uuid
from typing import Annotated, Any

from fastapi import Depends, Form, Request
from sqlalchemy.orm import Session
from starlette.datastructures import MutableHeaders
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gumboot.core.limits import read_json
from gumboot.store import accounts
from gumboot.web.headers import HEADERS

COOKIE = "gumboot_session"
LOG = logging.getLogger("gumboot.request")


class SignInNeeded(Exception):
    """The page needs a signed-in person."""


class Guard:
    """Gives every request an id, logs it as JSON with who asked and from where, and sets the security headers.

    Neither what was typed nor what is kept is ever in a line: method, path and answer say what was done.
    """

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, and mark its answer."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        state, path = scope.setdefault("state", {}), str(scope["path"])
        state["request_id"] = uuid.uuid4().hex[:12]
        began, status = time.perf_counter(), 0

        async def marked(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                headers = MutableHeaders(scope=message)
                headers.update(HEADERS)
                headers["X-Request-ID"] = state["request_id"]
                if not path.startswith("/static/"):
                    headers["Cache-Control"] = "no-store"
            await send(message)

        try:
            await self.app(scope, receive, marked)
        finally:
            client = scope.get("client")
            line = {
                "id": state["request_id"],
                "method": scope["method"],
                "path": path,
                "status": status or 500,
                "who": state.get("person", ""),
                "from": client[0] if client else "",
                "ms": round(1000 * (time.perf_counter() - began), 1),
            }
            LOG.info(json.dumps(line))


def database(request: Request):  # type: ignore[no-untyped-def]
    """One session and one commit per request; rolled back when the handler fails."""
    with Session(request.app.state.engine) as db:
        yield db
        db.commit()


Db = Annotated[Session, Depends(database, scope="function")]


def signed_in(request: Request, db: Db) -> accounts.Who:
    """The signed-in person. Raises SignInNeeded."""
    person = accounts.who(db, request.cookies.get(COOKIE))
    if person is None:
        raise SignInNeeded
    request.state.person = person.name
    return person


Person = Annotated[accounts.Who, Depends(signed_in)]


async def genuine(request: Request, person: Person) -> accounts.Who:
    """The signed-in person behind a form or script of ours. Raises 403 without the session's token."""
    token = request.headers.get("X-CSRF-Token", "")
    if not token and request.headers.get("content-type", "").startswith(("application/x-www-form-urlencoded", "multipart/form-data")):
        token = str((await request.form()).get("csrf", ""))
    if not hmac.compare_digest(token.encode(), person.csrf.encode()):
        raise HTTPException(403, "The page is older than your sign-in. Reload it and try again; nothing was saved.")
    return person


Author = Annotated[accounts.Who, Depends(genuine)]


MOST_LETTERS = 4000
# A text field of a form.
Text = Annotated[str, Form(max_length=MOST_LETTERS)]


async def form_texts(request: Request) -> dict[str, str]:
    """The plain texts of a form whose fields are not known beforehand. Raises 422 that names a field with too much in it."""
    found = {k: v for k, v in (await request.form()).items() if isinstance(v, str)}
    for name, text in found.items():
        if len(text) > MOST_LETTERS:
            raise HTTPException(422, f"{name[:60]}: {len(text)} letters; at most {MOST_LETTERS} are taken. Shorten it; nothing was saved.")
    return found


async def json_body(request: Request) -> Any:
    """The JSON body. Raises 422 for what is not JSON, is nested beyond reason, or holds no finite number."""
    try:
        return read_json(await request.body())
    except ValueError as refused:
        raise HTTPException(422, f"The body cannot be read: {refused}. Send a JSON object; nothing was saved.") from None


JsonBody = Annotated[Any, Depends(json_body)]


Texts = Annotated[dict[str, str], Depends(form_texts)]


def may(person: accounts.Who, *roles: str) -> None:
    """Raise 403 unless the person has one of the roles."""
    if person.role not in roles:
        raise HTTPException(403, f"This needs a {' or '.join(roles)}; you are signed in as {person.role}.")


def session_cookie(request: Request, response: Response, token: str) -> None:
    """Set the session cookie: never readable by scripts, and secure except over plain loopback."""
    loopback = request.url.scheme == "http" and request.url.hostname in ("127.0.0.1", "localhost", "testserver")
    response.set_cookie(
        COOKIE, token, httponly=True, samesite="lax", secure=not loopback, max_age=int(accounts.SESSION_LENGTH.total_seconds()), path="/"
    )

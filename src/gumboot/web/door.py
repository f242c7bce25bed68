"""What stands before every request: how large a body may be, and how many requests are worked on at once.

Threads, database connections and password checks are all taken within one limit, so that no burst can leave a request holding one of
them while it waits for another. What does not fit waits a moment in a short line; beyond that the answer is 503 at once.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
from collections import Counter
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from weakref import WeakKeyDictionary

from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gumboot.web import urls
from gumboot.web.headers import HEADERS

# Each takes one database connection and at most one thread at a time: store/engine.py sizes its pool from this.
AT_ONCE, WAITING = 12, 96
# One person, or one address that is not signed in, never fills the house.
AT_ONCE_EACH, WAITING_EACH = 6, 40
PATIENCE_S, BODY_S, RETRY_AFTER_S = 5.0, 60.0, 2
# Refused before it is read whole: the largest list that is taken in is far smaller.
MOST_FILE_BYTES, MOST_BODY_BYTES = 16_000_000, 300_000
# A form or a text is read whole before it takes a place, so that a slow one holds up nobody; files are read within, and few at once.
FILES_AT_ONCE = 4
LOG = logging.getLogger("gumboot.request")


class TooLarge(HTTPException):
    """The body went on beyond its limit."""

    def __init__(self, file: bool) -> None:
        what = "That file is larger than 16 MB. Split it" if file else "What was sent is larger than 300 kB. Send less at once"
        super().__init__(413, f"{what}; nothing was saved.", {"connection": "close"})


class TooSlow(HTTPException):
    """The body did not arrive in time."""

    def __init__(self) -> None:
        super().__init__(408, f"What was sent did not arrive within {BODY_S:.0f} seconds; nothing was saved.", {"connection": "close"})


class _Line:
    """Places inside, and who waits for one."""

    def __init__(self, places: int, most_waiting: int) -> None:
        self.places, self.most_waiting, self.waiting = asyncio.Semaphore(places), most_waiting, 0

    @property
    def full(self) -> bool:
        return self.places.locked() and self.waiting >= self.most_waiting

    async def enter(self) -> None:
        self.waiting += 1
        try:
            await self.places.acquire()
        finally:
            self.waiting -= 1


class _House:
    """The lines of one event loop: the house's own, and one for each who is here."""

    def __init__(self, at_once: int, waiting: int) -> None:
        self.all, self.files = _Line(at_once, waiting), _Line(FILES_AT_ONCE, waiting)
        self.each: dict[str, _Line] = {}
        self.counts: Counter[str] = Counter()

    @asynccontextmanager
    async def place(self, who: str, patience_s: float, file: bool) -> AsyncIterator[bool]:
        """Whether there is a place; it is given back at the end."""
        mine = self.each.setdefault(who, _Line(AT_ONCE_EACH, WAITING_EACH))
        lines = (mine, *((self.files,) if file else ()), self.all)
        self.counts[who] += 1
        entered: list[_Line] = []
        try:
            if not any(line.full for line in lines):
                with suppress(TimeoutError):
                    async with asyncio.timeout(patience_s):
                        for line in lines:
                            await line.enter()
                            entered.append(line)
            yield len(entered) == len(lines)
        finally:
            for line in entered:
                line.places.release()
            self.counts[who] -= 1
            if not self.counts[who]:
                del self.counts[who], self.each[who]


def _who(scope: Scope) -> str:
    """The session's cookie or, without one, the address."""
    cookies = dict(scope["headers"]).get(b"cookie", b"").decode("latin-1")
    client = scope.get("client")
    return hashlib.sha256((cookies or str(client[0] if client else "")).encode()).hexdigest()


def _plain(scope: Scope, status: int, title: str, detail: str, headers: dict[str, str]) -> tuple[list[tuple[bytes, bytes]], bytes]:
    if str(scope["path"]).startswith("/api/"):
        kind, body = "application/problem+json", json.dumps({"type": "about:blank", "title": title, "status": status, "detail": detail})
    else:
        kind, body = "text/plain; charset=utf-8", f"{title}. {detail}"
    raw = body.encode()
    rows = {"content-type": kind, "content-length": str(len(raw)), "cache-control": "no-store", **headers}
    return [(k.encode(), v.encode()) for k, v in rows.items()], raw


async def _refuse(scope: Scope, send: Send, status: int, title: str, detail: str, **headers: str) -> None:
    rows, raw = _plain(scope, status, title, detail, {**{k.lower(): v for k, v in HEADERS.items()}, **headers})
    await send({"type": "http.response.start", "status": status, "headers": rows})
    await send({"type": "http.response.body", "body": raw})


class Door:
    """Counts requests in, and bytes of a body while they arrive, with or without a length said beforehand."""

    def __init__(self, app: ASGIApp, at_once: int = AT_ONCE, waiting: int = WAITING, patience_s: float = PATIENCE_S) -> None:
        self.app, self.at_once, self.waiting, self.patience_s = app, at_once, waiting, patience_s
        self._houses: WeakKeyDictionary[asyncio.AbstractEventLoop, _House] = WeakKeyDictionary()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request in, let it wait, or refuse it."""
        path = str(scope.get("path", ""))
        # A stream stays open for hours and works on nothing: it takes no place.
        if scope["type"] != "http" or path == urls.HEALTH or path.startswith("/static/") or urls.is_stream(path):
            await self.app(scope, receive, send)
            return
        loop = asyncio.get_running_loop()
        house = self._houses.get(loop) or self._houses.setdefault(loop, _House(self.at_once, self.waiting))
        headers = dict(scope["headers"])
        file, said = headers.get(b"content-type", b"").startswith(b"multipart/form-data"), headers.get(b"content-length", b"0")
        try:
            if said.isdigit() and int(said) > (MOST_FILE_BYTES if file else MOST_BODY_BYTES):
                raise TooLarge(file)
            arriving = _counted(receive, file)
            ready = arriving if file else await _whole(arriving)
        except HTTPException as refused:
            await _refuse(scope, send, refused.status_code, "That did not arrive", str(refused.detail), connection="close")
            return
        if ready is None:
            return  # nobody is there to be answered
        async with house.place(_who(scope), self.patience_s, file) as inside:
            if inside:
                await self.app(scope, ready, send)
            else:
                await _busy(scope, send)


async def _busy(scope: Scope, send: Send) -> None:
    LOG.warning(json.dumps({"event": "busy", "method": scope["method"], "path": scope["path"], "status": 503}))
    detail = f"Nothing was saved. Try again in {RETRY_AFTER_S} seconds."
    await _refuse(scope, send, 503, "More is asked at once than the server can do", detail, **{"retry-after": str(RETRY_AFTER_S)})


def _counted(receive: Receive, file: bool) -> Receive:
    """The body as it arrives. Raises TooLarge and TooSlow."""
    most, until = (MOST_FILE_BYTES if file else MOST_BODY_BYTES), asyncio.get_running_loop().time() + BODY_S
    seen, whole = 0, False

    async def counted() -> Message:
        nonlocal seen, whole
        try:
            async with asyncio.timeout_at(None if whole else until):
                message = await receive()
        except TimeoutError:
            raise TooSlow from None
        if message["type"] == "http.request":
            seen += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if seen > most:
                raise TooLarge(file)
        return message

    return counted


async def _whole(receive: Receive) -> Receive | None:
    """The whole body, read before anything is done with it, and what follows it; None when whoever sent it went away."""
    parts: list[bytes] = []
    more = True
    while more:
        message = await receive()
        if message["type"] != "http.request":
            return None
        parts.append(message.get("body", b""))
        more = message.get("more_body", False)
    first: list[Message] = [{"type": "http.request", "body": b"".join(parts), "more_body": False}]

    async def replayed() -> Message:
        return first.pop() if first else await receive()

    return replayed

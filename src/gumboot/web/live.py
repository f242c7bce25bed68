"""What others record appears without a reload: one listener on the database's notifications for the process, one stream for each page."""

from __future__ import annotations

import asyncio
import json
import logging
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Any
from weakref import WeakKeyDictionary

import psycopg
from fastapi import APIRouter, Request
from sqlalchemy import URL
from sqlalchemy.orm import Session
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.responses import Response

from gumboot.store import accounts
from gumboot.store.records import CHANNEL
from gumboot.web.security import COOKIE

ROUTER = APIRouter()
LOG = logging.getLogger("gumboot")
AGAIN_S = 2.0
# Streams of one house and of all: whoever comes then looks again by hand.
MOST_OF_ONE, MOST = 40, 300
# Notes that a page has not taken yet; beyond them it only learns that something happened.
MOST_NOTES = 20
Notes = asyncio.Queue[dict[str, Any]]


class Hub:
    """Hands what the database notifies on to the pages of a house."""

    def __init__(self, database: URL) -> None:
        self.address = database.set(drivername="postgresql").render_as_string(hide_password=False)
        self.pages: dict[str, set[Notes]] = {}
        self.task: asyncio.Task[None] | None = None

    def count(self) -> int:
        """Pages that listen."""
        return sum(len(pages) for pages in self.pages.values())

    def join(self, job_id: str) -> Notes | None:
        """A queue of notes of one house; None where too many listen already."""
        if self.count() >= MOST or len(self.pages.get(job_id, ())) >= MOST_OF_ONE:
            return None
        if self.task is None or self.task.done():
            self.task = asyncio.create_task(self._listen(), name="listener")
        notes: Notes = asyncio.Queue(MOST_NOTES)
        self.pages.setdefault(job_id, set()).add(notes)
        return notes

    def leave(self, job_id: str, notes: Notes) -> None:
        """A page went away; with the last one the listener rests."""
        self.pages.get(job_id, set()).discard(notes)
        if not self.pages.get(job_id):
            self.pages.pop(job_id, None)
        if not self.pages and self.task is not None:
            self.task.cancel()
            self.task = None

    def tell(self, note: dict[str, Any]) -> None:
        """Hand a note to the pages of its house."""
        for notes in self.pages.get(str(note.get("job")), ()):
            with suppress(asyncio.QueueFull):
                notes.put_nowait(note)

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(self.address, autocommit=True) as connection:
                    await connection.execute(f"listen {CHANNEL}")
                    async for note in connection.notifies():
                        with suppress(ValueError):
                            self.tell(json.loads(note.payload))
            except psycopg.Error as failure:
                LOG.warning("the listener lost the database: %s", type(failure).__name__)
            await asyncio.sleep(AGAIN_S)


_HUBS: WeakKeyDictionary[asyncio.AbstractEventLoop, Hub] = WeakKeyDictionary()


def hub_of(app: Any) -> Hub:
    """The hub of the running loop."""
    loop = asyncio.get_running_loop()
    return _HUBS.get(loop) or _HUBS.setdefault(loop, Hub(app.state.engine.url))


def _who(request: Request) -> accounts.Who | None:
    with Session(request.app.state.engine) as db:
        return accounts.who(db, request.cookies.get(COOKIE))


@ROUTER.get("/jobs/{job_id}/events")
async def events(job_id: str, request: Request) -> Response:
    """A stream of what is recorded at one house: which act, and by whom. No thread and no connection is held for it."""
    if await run_in_threadpool(_who, request) is None:
        raise HTTPException(401, "Sign in first.")
    hub = hub_of(request.app)
    notes = hub.join(job_id)
    if notes is None:
        raise HTTPException(503, "Too many pages listen already. Reload to see what is new.")

    async def stream() -> AsyncIterator[ServerSentEvent]:
        try:
            while True:
                note = await notes.get()
                yield ServerSentEvent(json.dumps({k: note.get(k) for k in ("act", "by", "who", "id")}), event="record")
        finally:
            hub.leave(job_id, notes)

    return EventSourceResponse(stream(), ping=25)

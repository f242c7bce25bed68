"""What is recorded is heard by whoever looks at that house, through one listener."""

from __future__ import annotations

import asyncio
import uuid
from typing import Any

from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from gumboot.store import jobs, records
from gumboot.web import urls
from gumboot.web.live import MOST_OF_ONE, Hub
from tests.core.test_stands import one
from tests.helpers import edited
from tests.web.conftest import Crew


def recorded(engine: Engine, job_id: str) -> str:
    with Session(engine) as db:
        records.hold(db, job_id)
        made = one("check:dead-dc", kind="reading", value=0.2)
        records.add_record(db, job_id, records.Sent(made.id, made.kind, made.act, {}, made.by), made)
        db.commit()
    return made.id


def house(engine: Engine) -> str:
    job = edited({}).model_copy(update={"id": f"live-{uuid.uuid4().hex[:8]}"})
    with Session(engine) as db:
        jobs.create_job(db, job, "Petra")
        db.commit()
    return job.id


async def heard(hub: Hub, engine: Engine, job_id: str) -> tuple[dict[str, Any], str, bool]:
    """What a page of the house hears of a record, the record's id, and whether a page of another house hears anything."""
    mine, other = hub.join(job_id), hub.join("elsewhere")
    assert mine is not None
    assert other is not None
    for _ in range(200):
        # Until the listener stands, what is committed is heard by nobody.
        made = await asyncio.to_thread(recorded, engine, job_id)
        try:
            note = await asyncio.wait_for(mine.get(), 0.2)
        except TimeoutError:
            continue
        hub.leave(job_id, mine)
        hub.leave("elsewhere", other)
        return note, made, other.empty()
    raise AssertionError("nothing was heard")


def test_a_record_is_heard_at_its_own_house(engine: Engine) -> None:
    job_id = house(engine)

    async def go() -> None:
        hub = Hub(engine.url)
        note, made, quiet = await heard(hub, engine, job_id)
        assert (note["act"], note["who"], note["by"], note["job"]) == ("check:dead-dc", "ivo", "Ivo Installer", job_id)
        assert note["id"] == made
        assert quiet
        assert (hub.count(), hub.task) == (0, None)

    asyncio.run(go())


def test_a_listener_that_loses_the_database_listens_again(engine: Engine, owner: Engine) -> None:
    job_id = house(engine)

    async def go() -> None:
        hub = Hub(engine.url)
        notes = hub.join(job_id)
        await heard(hub, engine, job_id)
        with owner.connect() as connection:
            connection.execute(text("select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen %'"))
        await heard(hub, engine, job_id)
        assert notes is not None
        hub.leave(job_id, notes)

    asyncio.run(go())


def test_a_house_has_so_many_listeners_and_no_more() -> None:
    async def go() -> None:
        from sqlalchemy import make_url

        hub = Hub(make_url("postgresql://nobody@127.0.0.1:1/none"))
        pages = [hub.join("house") for _ in range(MOST_OF_ONE)]
        assert None not in pages
        assert hub.join("house") is None
        assert hub.join("other") is not None
        hub.leave("house", pages[0])  # type: ignore[arg-type]
        assert hub.join("house") is not None
        # A page that takes nothing loses notes, and holds up nobody.
        for n in range(100):
            hub.tell({"job": "house", "act": str(n)})
        hub.pages.clear()
        if hub.task is not None:
            hub.task.cancel()

    asyncio.run(go())


def test_a_stranger_hears_nothing(ivo: Crew) -> None:
    ivo.client.cookies.clear()
    assert ivo.client.get(urls.events(ivo.job)).status_code == 401


def test_what_is_a_stream() -> None:
    assert urls.is_stream(urls.events("d1-saltmarsh"))
    assert not any(urls.is_stream(path) for path in ("/jobs/events", "/jobs/a/b/events", "/jobs/a/wire", "/x/a/events"))

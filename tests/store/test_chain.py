"""Records that came in are chained; what is changed behind the program's back is found."""

from __future__ import annotations

import json
import threading
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session

from gumboot.core.record import parse_record
from gumboot.store import jobs, records
from tests.crew import said
from tests.helpers import edited

NOW = datetime(2026, 11, 27, 12, tzinfo=UTC)


def new_job(db: Session) -> str:
    job = edited({}).model_copy(update={"id": f"chain-{uuid.uuid4().hex[:8]}"})
    jobs.create_job(db, job, "Petra")
    return job.id


def add(db: Session, job_id: str, n: int = 0) -> str:
    records.hold(db, job_id)
    made = parse_record({**said("check:dead-dc", NOW + timedelta(seconds=n)), "kind": "reading", "value": 1.0 + n / 10, "typed": "Ω 1,0"})
    records.add_record(db, job_id, records.Sent(made.id, made.kind, made.act, {}, made.by), made)
    return made.id


def test_each_record_is_a_link_and_the_chain_stands(db: Session) -> None:
    job_id = new_job(db)
    assert records.head(db, job_id) == "0" * 64
    heads = {records.head(db, job_id)}
    for n in range(4):
        add(db, job_id, n)
        heads.add(records.head(db, job_id))
    assert len(heads) == 5
    assert records.chain_faults(db, job_id) == []
    assert [r.received_at is not None for r in records.read_records(db, job_id)] == [True] * 4


def test_a_record_that_comes_in_late_stands_where_it_came_in(db: Session) -> None:
    job_id = new_job(db)
    newer, older = add(db, job_id, 60), add(db, job_id, 0)
    assert [r.id for r in records.read_records(db, job_id)] == [newer, older]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ("update records set value = jsonb_set(value, '{value}', '0.1') where id = :r", "is not what was received"),
        ("update records set at = at - interval '1 day' where id = :r", "is not what was received"),
        ("update records set by = 'Somebody' where id = :r", "is not what was received"),
        ("update record_links set hash = repeat('0', 64) where record_id = :r", "is not what was received"),
        ("delete from record_links where record_id = :r", "is missing"),
    ],
)
def test_what_an_owner_changes_in_the_database_is_found(engine: Engine, owner: Engine, change: str, words: str) -> None:
    with Session(engine) as db:
        job_id = new_job(db)
        ids = [add(db, job_id, n) for n in range(3)]
        db.commit()
    with owner.begin() as connection:
        for table in ("records", "record_links"):
            connection.execute(text(f"alter table {table} disable trigger {table}_append_only"))
        connection.execute(text(change), {"r": ids[1]})
        for table in ("records", "record_links"):
            connection.execute(text(f"alter table {table} enable trigger {table}_append_only"))
    with Session(engine) as db:
        assert any(words in fault for fault in records.chain_faults(db, job_id))


def test_racing_writers_make_one_chain(engine: Engine) -> None:
    with Session(engine) as db:
        job_id = new_job(db)
        db.commit()
    failures = list[Exception]()

    def one(n: int) -> None:
        try:
            with Session(engine) as db:
                add(db, job_id, n)
                db.commit()
        except Exception as failure:
            failures.append(failure)

    threads = [threading.Thread(target=one, args=(n,)) for n in range(12)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert failures == []
    with Session(engine) as db:
        assert len(records.read_records(db, job_id)) == 12
        assert records.chain_faults(db, job_id) == []


def test_rows_of_an_earlier_version_are_chained_as_they_stand(owner: Engine) -> None:
    """A database before chains, with rows in it: they stay byte for byte, and the chain begins over them."""
    from alembic import command

    from gumboot.store.engine import _config, migrate

    name = f"unchained_{uuid.uuid4().hex[:8]}"
    root = create_engine(owner.url.set(database="postgres"), isolation_level="AUTOCOMMIT")
    with root.connect() as connection:
        connection.execute(text(f"create database {name}"))
    url = owner.url.set(database=name)
    older = create_engine(url)
    try:
        command.upgrade(_config(url), "0004")
        rows: list[dict[str, Any]] = [
            {"id": f"row-{n}", "kind": kind, "subject": subject, "value": json.dumps(value), "at": NOW + timedelta(minutes=n)}
            for n, (kind, subject, value) in enumerate(
                [
                    ("torque", "lug", {"value_nm": 11.0, "tug": True}),
                    ("measurement", "dead-dc", {"value": 1e-7}),
                    ("done", "start-dead", {"ok": True}),
                ]
            )
        ]
        with Session(older) as db:
            db.execute(text("insert into jobs (id, title, head) values ('house', 'House', 1)"))
            for row in rows:
                db.execute(
                    text(
                        "insert into records (id, job_id, kind, subject, value, by, role, at)"
                        " values (:id, 'house', :kind, :subject, cast(:value as jsonb), 'Ivo', 'installer', :at)"
                    ),
                    row,
                )
            db.commit()
            before = db.execute(text("select id, kind, subject, value::text, at from records order by id")).all()
        migrate(url)
        with Session(older) as db:
            assert db.execute(text("select id, kind, subject, value::text, at from records order by id")).all() == before
            assert records.chain_faults(db, "house") == []
            assert [r.act for r in records.read_records(db, "house")] == ["torque:lug", "check:dead-dc", "step:start-dead"]
            add(db, "house")
            assert records.chain_faults(db, "house") == []
            db.rollback()
    finally:
        older.dispose()
        with root.connect() as connection:
            connection.execute(text(f"drop database if exists {name} with (force)"))
        root.dispose()

"""Revisions, conflicts, undo and redo; records that nothing can change."""

from __future__ import annotations

import threading
import uuid
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from pydantic import ValidationError
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from gumboot.core.job import BadPath
from gumboot.core.record import OldRow, typed
from gumboot.core.standing import counted, latest
from gumboot.store import jobs, records
from gumboot.store.demo import load_demo
from tests.helpers import edited

LENGTH = "runs.bat-main.length_m"


@pytest.fixture
def job_id(db: Session) -> str:
    job = edited({}).model_copy(update={"id": f"t-{uuid.uuid4().hex[:8]}"})
    jobs.create_job(db, job, "Petra")
    return job.id


def length(db: Session, job_id: str) -> float | None:
    runs = jobs.load(db, job_id).job.runs
    return next(r.length_m for r in runs if r.id == "bat-main")


def test_each_edit_is_a_revision(db: Session, job_id: str) -> None:
    revision = jobs.edit(db, job_id, 1, LENGTH, 2.0, "Petra")
    assert (revision.number, revision.author, revision.note) == (2, "Petra", f"{LENGTH} = 2.0")
    assert jobs.load(db, job_id, 1).job.runs != revision.job.runs


def test_undo_and_redo_across_revisions(db: Session, job_id: str) -> None:
    for number, value in enumerate((2.0, 3.0, 4.0), 1):
        jobs.edit(db, job_id, number, LENGTH, value, "Petra")
    seen = [length(db, job_id)]
    for _ in range(3):
        jobs.undo(db, job_id, "Ivo")
        seen.append(length(db, job_id))
    assert seen == [4.0, 3.0, 2.0, 1.6]
    with pytest.raises(jobs.NothingToUndo):
        jobs.undo(db, job_id, "Ivo")
    for expected in (2.0, 3.0, 4.0):
        jobs.redo(db, job_id, "Ivo")
        assert length(db, job_id) == expected
    with pytest.raises(jobs.NothingToUndo):
        jobs.redo(db, job_id, "Ivo")
    assert jobs.load(db, job_id).number == 10


def test_an_edit_after_undo_leaves_no_redo(db: Session, job_id: str) -> None:
    jobs.edit(db, job_id, 1, LENGTH, 2.0, "Petra")
    jobs.undo(db, job_id, "Petra")
    revision = jobs.edit(db, job_id, 3, LENGTH, 9.0, "Petra")
    assert revision.can_undo
    assert not revision.can_redo


def test_same_field_changed_meanwhile_is_a_conflict_with_both_values(db: Session, job_id: str) -> None:
    jobs.edit(db, job_id, 1, LENGTH, 2.0, "Petra")
    with pytest.raises(jobs.Conflict) as caught:
        jobs.edit(db, job_id, 1, LENGTH, 5.0, "Ivo")
    assert (caught.value.yours, caught.value.theirs, caught.value.by, caught.value.head) == (5.0, 2.0, "Petra", 2)
    assert length(db, job_id) == 2.0


def test_another_field_changed_meanwhile_keeps_both(db: Session, job_id: str) -> None:
    jobs.edit(db, job_id, 1, LENGTH, 2.0, "Petra")
    revision = jobs.edit(db, job_id, 1, "settings.reserve_pct", 70, "Ivo")
    assert length(db, job_id) == 2.0
    assert revision.job.settings.reserve_pct == 70


def test_same_value_meanwhile_is_no_conflict(db: Session, job_id: str) -> None:
    jobs.edit(db, job_id, 1, LENGTH, 2.0, "Petra")
    assert jobs.edit(db, job_id, 1, LENGTH, 2.0, "Ivo").number == 2, "what stands already is no further step"


@pytest.mark.parametrize(
    ("path", "value", "error"),
    [(LENGTH, -1, ValidationError), (LENGTH, "far", ValidationError), ("runs.nowhere.length_m", 1, BadPath), ("site.colour", 1, BadPath)],
)
def test_bad_edits_are_refused_and_write_nothing(db: Session, job_id: str, path: str, value: Any, error: type[Exception]) -> None:
    with pytest.raises(error):
        jobs.edit(db, job_id, 1, path, value, "Petra")
    assert jobs.load(db, job_id).number == 1


def test_racing_edits_lose_nothing(engine: Engine) -> None:
    job = edited({}).model_copy(update={"id": f"race-{uuid.uuid4().hex[:8]}"})
    with Session(engine) as db:
        jobs.create_job(db, job, "Petra")
        db.commit()
    paths = [f"loads.{x.id}.running_w" for x in job.loads[:6]]
    failures: list[Exception] = []

    def one(path: str) -> None:
        try:
            with Session(engine) as db:
                jobs.edit(db, job.id, 1, path, 50, path)
                db.commit()
        except Exception as failure:
            failures.append(failure)

    threads = [threading.Thread(target=one, args=(p,)) for p in paths]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert failures == []
    with Session(engine) as db:
        final = jobs.load(db, job.id)
        assert final.number == 7
        assert [x.running_w for x in final.job.loads[:6]] == [50] * 6


def test_no_such_job(db: Session) -> None:
    with pytest.raises(jobs.NoSuchJob):
        jobs.load(db, "nowhere")


def sent(subject: str = "lug", record_id: str = "", age_s: int = 0, **typed: str) -> records.Sent:
    return records.Sent(record_id or str(uuid.uuid4()), "torque", subject, typed, "Ivo", timedelta(seconds=age_s))


def add(db: Session, job_id: str, one: records.Sent | None = None) -> Any:
    one = one or sent()
    done_at = records.hold(db, job_id) - one.age
    made = typed(OldRow(one.record_id, one.kind, one.subject, {"value_nm": 11, "tug": True}, one.by, "installer", done_at))
    return records.add_record(db, job_id, one, made)


def test_records_come_back_in_order(db: Session, job_id: str) -> None:
    first, second = add(db, job_id), add(db, job_id)
    assert [r.id for r in records.read_records(db, job_id)] == [first.id, second.id]


def test_a_record_sent_twice_stands_once(db: Session, job_id: str) -> None:
    one = sent(reached="97")
    assert add(db, job_id, one).id == add(db, job_id, replace(one, age=timedelta(minutes=5))).id == one.record_id
    assert len(records.read_records(db, job_id)) == 1


@pytest.mark.parametrize("other", [{"subject": "other"}, {"typed": {"reached": "98"}}, {"by": "Lena"}, {"kind": "recheck"}])
def test_the_same_id_with_other_content_is_refused(db: Session, job_id: str, other: dict[str, Any]) -> None:
    one = sent(reached="97")
    add(db, job_id, one)
    with pytest.raises(records.OtherRecord):
        add(db, job_id, replace(one, **other))
    with pytest.raises(records.OtherRecord):
        add(db, "d1-saltmarsh", one)
    assert len(records.read_records(db, job_id)) == 1


def test_a_correction_names_what_was_done_before_it(db: Session, job_id: str) -> None:
    first = add(db, job_id)
    assert add(db, job_id).corrects == first.id
    assert add(db, job_id, sent("other")).corrects is None


def test_a_record_that_arrives_late_corrects_nothing_newer(db: Session, job_id: str) -> None:
    newer = add(db, job_id)
    late = add(db, job_id, sent(age_s=3600))
    assert late.corrects is None
    assert latest(counted(records.read_records(db, job_id)), "torque")["lug"].id == newer.id


def test_racing_sends_of_one_record_are_one_row(engine: Engine) -> None:
    one, found, failures = sent(reached="97"), [], []

    def send() -> None:
        try:
            with Session(engine) as db:
                found.append(add(db, "d1-saltmarsh", one).id)
                db.commit()
        except Exception as refused:
            failures.append(refused)

    threads = [threading.Thread(target=send) for _ in range(12)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert failures == []
    assert found == [one.record_id] * 12
    with Session(engine) as db:
        assert len([r for r in records.read_records(db, "d1-saltmarsh") if r.id == one.record_id]) == 1


@pytest.mark.parametrize(
    "statement", ["update records set value = '{}'", "delete from records", "truncate records, record_links, card_notes"]
)
def test_the_application_may_not_change_records(engine: Engine, statement: str) -> None:
    with engine.connect() as connection, pytest.raises(DBAPIError, match="permission denied"):
        connection.execute(text(statement))


@pytest.mark.parametrize(
    "statement", ["update records set value = '{}'", "delete from records", "truncate records, record_links, card_notes"]
)
def test_not_even_the_owner_changes_records_by_accident(engine: Engine, owner: Engine, statement: str) -> None:
    with Session(engine) as db:
        add(db, "d1-saltmarsh")
        db.commit()
    with owner.connect() as connection, pytest.raises(DBAPIError, match="append-only"):
        connection.execute(text(statement))


@pytest.mark.parametrize(
    "statement",
    [
        "update revisions set author = 'nobody'",
        "delete from revisions",
        "update cards set author = 'nobody'",
        "delete from cards",
        "delete from jobs",
        "update users set role = 'licence holder'",
        "insert into users values ('x', 'x', 'planner', 'x', false)",
    ],
)
def test_the_application_may_not_change_what_is_kept(engine: Engine, statement: str) -> None:
    with engine.connect() as connection, pytest.raises(DBAPIError, match="permission denied"):
        connection.execute(text(statement))


def test_loading_the_demo_again_changes_nothing(db: Session) -> None:
    before = [(r.id, r.head) for r in jobs.list_jobs(db)]
    load_demo(db)
    assert [(r.id, r.head) for r in jobs.list_jobs(db)] == before

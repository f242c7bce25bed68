"""What comes due on its page, on the jobs page, as a file, and as a calendar that can be withdrawn."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.store import jobs
from tests.web.conftest import Crew
from tests.web.test_records import fill


@pytest.fixture(autouse=True)
def few_houses(engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    """Only the houses of the test itself: those that all tests before have left would be planned for each page."""
    every = jobs.list_jobs
    with Session(engine) as db:
        before = {row.id for row in every(db)}
    monkeypatch.setattr(jobs, "list_jobs", lambda db: [row for row in every(db) if row.id not in before])


def test_marks_that_are_overdue_stand_on_their_station_the_due_page_and_the_jobs_page(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", "rest", hours=30)
    assert "18 of 18 marks overdue" in ivo.get("wire")
    page = ivo.client.get("/due").text
    assert "Marks on 18 lugs a day later" in page
    assert "overdue since" in page
    assert "overdue since" in ivo.client.get("/").text


def test_a_house_gives_its_due_list_as_a_file(engine: Engine, ivo: Crew) -> None:
    fill(engine, ivo, "torque", hours=1)
    answer = ivo.client.get(f"/jobs/{ivo.job}/due.ics")
    assert answer.headers["content-type"].startswith("text/calendar")
    assert "SUMMARY:Saltmarsh Cottage: Marks on 18 lugs a day later" in answer.text.replace("\r\n ", "")


def test_a_calendar_is_fetched_by_its_token_until_it_is_withdrawn(crew: Callable[[str], Crew], app: object) -> None:
    abel = crew("abel")
    assert abel.client.post("/due/feed", data={}).status_code == 403
    page = abel.client.post("/due/feed", data={"csrf": abel.csrf}).text
    first = re.search(r"/feeds/([\w-]+)\.ics", page)
    assert first
    stranger = TestClient(app)  # type: ignore[arg-type]
    assert stranger.get(first[0]).text.startswith("BEGIN:VCALENDAR")
    assert first[1] not in abel.client.get("/due").text
    second = re.search(r"/feeds/([\w-]+)\.ics", abel.client.post("/due/feed", data={"csrf": abel.csrf}).text)
    assert second
    assert stranger.get(first[0]).status_code == 404
    assert stranger.get(second[0]).status_code == 200
    abel.client.post("/due/feed/withdraw", data={"csrf": abel.csrf})
    assert stranger.get(second[0]).status_code == 404
    assert stranger.get("/due", follow_redirects=False).status_code in (303, 401)

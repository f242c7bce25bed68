"""What stands before every request: bursts, bodies without a length, documents beyond reason, and answers that were failures of ours."""

from __future__ import annotations

import asyncio
import json
import logging
import threading
from collections.abc import Awaitable, Callable, Iterator
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session
from starlette.types import Message, Receive, Scope, Send

from gumboot.store import jobs
from gumboot.web import door
from gumboot.web.door import Door
from tests.helpers import edited
from tests.web.conftest import Crew

Answer = tuple[int, dict[str, str]]


def scope(path: str = "/x", who: str = "a", **headers: str) -> Scope:
    rows = [(k.replace("_", "-").encode(), v.encode()) for k, v in {"cookie": who, **headers}.items()]
    return {"type": "http", "method": "POST", "path": path, "headers": rows, "client": ("127.0.0.1", 1)}


async def ask(app: Any, at: Scope, chunks: tuple[bytes, ...] = (b"",)) -> Answer:
    parts = iter(chunks)
    left = len(chunks)

    async def receive() -> Message:
        nonlocal left
        left -= 1
        return {"type": "http.request", "body": next(parts, b""), "more_body": left > 0}

    answer: dict[str, Any] = {}

    async def send(message: Message) -> None:
        if message["type"] == "http.response.start":
            answer.update(message)

    await app(at, receive, send)
    return int(answer["status"]), {k.decode(): v.decode() for k, v in answer["headers"]}


def counting(hold: asyncio.Event, inside: list[int]) -> Callable[[Scope, Receive, Send], Awaitable[None]]:
    """An app that stays until it is let go, and remembers how many were in it at once."""

    async def app(_: Scope, receive: Receive, send: Send) -> None:
        inside[0] += 1
        inside[1] = max(inside)
        while (await receive()).get("more_body"):
            pass
        await hold.wait()
        inside[0] -= 1
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    return app


async def burst(people: int, each: int, at_once: int = 4, waiting: int = 6) -> tuple[list[Answer], int]:
    hold, inside = asyncio.Event(), [0, 0]
    house = Door(counting(hold, inside), at_once=at_once, waiting=waiting, patience_s=30)
    asked = [asyncio.create_task(ask(house, scope(who=f"p{p}"))) for _ in range(each) for p in range(people)]
    for _ in range(60):
        await asyncio.sleep(0)
    early = [t.result() for t in asked if t.done()]
    hold.set()
    answers = [await t for t in asked]
    assert all(status == 503 for status, _ in early)
    return answers, inside[1]


def test_a_burst_is_worked_on_within_the_limit_and_the_rest_is_told_at_once() -> None:
    answers, most = asyncio.run(burst(people=20, each=1))
    assert most == 4
    refused = [headers for status, headers in answers if status == 503]
    assert len(refused) == 20 - 4 - 6
    assert all(headers["retry-after"] == "2" for headers in refused)
    assert sum(status == 200 for status, _ in answers) == 10


def test_one_person_never_fills_the_house(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(door, "AT_ONCE_EACH", 3)
    monkeypatch.setattr(door, "WAITING_EACH", 2)

    async def crowd() -> tuple[int, int]:
        hold, inside = asyncio.Event(), [0, 0]
        house = Door(counting(hold, inside), at_once=4, waiting=50, patience_s=30)
        greedy = [asyncio.create_task(ask(house, scope(who="greedy"))) for _ in range(20)]
        other = asyncio.create_task(ask(house, scope(who="other")))
        for _ in range(60):
            await asyncio.sleep(0)
        reached = inside[0]
        hold.set()
        answers = [await t for t in (other, *greedy)]
        return reached, answers[0][0]

    assert asyncio.run(crowd()) == (4, 200)


def test_health_and_styles_do_not_wait_in_line() -> None:
    async def crowd() -> list[int]:
        hold, inside = asyncio.Event(), [0, 0]
        house = Door(counting(hold, inside), at_once=1, waiting=0, patience_s=30)
        first = asyncio.create_task(ask(house, scope()))
        await asyncio.sleep(0)
        tasks = [asyncio.create_task(ask(house, scope(path))) for path in ("/healthz", "/static/app.css", "/")]
        for _ in range(30):
            await asyncio.sleep(0)
        hold.set()
        return [(await t)[0] for t in (first, *tasks)]

    assert asyncio.run(crowd()) == [200, 200, 200, 503]


def test_who_waits_too_long_is_told_so() -> None:
    async def crowd() -> int:
        hold, inside = asyncio.Event(), [0, 0]
        house = Door(counting(hold, inside), at_once=1, waiting=5, patience_s=0.01)
        first = asyncio.create_task(ask(house, scope()))
        await asyncio.sleep(0)
        status = (await ask(house, scope(who="b")))[0]
        hold.set()
        await first
        return status

    assert asyncio.run(crowd()) == 503


@pytest.mark.parametrize(
    ("kind", "size", "status"),
    [
        ("application/json", door.MOST_BODY_BYTES, 200),
        ("application/json", door.MOST_BODY_BYTES + 1, 413),
        ("multipart/form-data; boundary=x", door.MOST_BODY_BYTES + 1, 200),
        ("multipart/form-data; boundary=x", door.MOST_FILE_BYTES + 1, 413),
    ],
)
def test_a_body_without_a_length_is_counted_while_it_arrives(kind: str, size: int, status: int) -> None:
    async def sent() -> int:
        hold = asyncio.Event()
        hold.set()
        piece = 250_000
        chunks = tuple(b"x" * min(piece, size - at) for at in range(0, size, piece))
        try:
            return (await ask(Door(counting(hold, [0, 0])), scope(content_type=kind), chunks))[0]
        except door.TooLarge as refused:
            return refused.status_code

    assert asyncio.run(sent()) == status


def test_a_slow_form_holds_up_nobody() -> None:
    async def crowd() -> list[int]:
        hold = asyncio.Event()
        hold.set()
        house = Door(counting(hold, [0, 0]), at_once=1, waiting=0, patience_s=30)
        arrives = asyncio.Event()

        async def slow() -> Message:
            await arrives.wait()
            return {"type": "http.request", "body": b"x", "more_body": False}

        answers: list[int] = []

        async def send(message: Message) -> None:
            if message["type"] == "http.response.start":
                answers.append(message["status"])

        waiting = [asyncio.create_task(house(scope(who=f"slow{n}"), slow, send)) for n in range(5)]
        await asyncio.sleep(0)
        quick = (await ask(house, scope(who="quick")))[0]
        arrives.set()
        for task in waiting:
            await task
        return [quick, len(answers)]

    assert asyncio.run(crowd()) == [200, 5]


def test_a_body_that_never_comes_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(door, "BODY_S", 0.01)

    async def crowd() -> list[int]:
        answers: list[int] = []

        async def never() -> Message:
            await asyncio.Event().wait()
            return {}

        async def send(message: Message) -> None:
            if message["type"] == "http.response.start":
                answers.append(message["status"])

        await Door(counting(asyncio.Event(), [0, 0]))(scope(), never, send)
        return answers

    assert asyncio.run(crowd()) == [408]


def test_a_length_beyond_the_limit_is_refused_before_a_byte_is_read(app: FastAPI) -> None:
    answer = TestClient(app).post("/api/sums/torque", content=b"x", headers={"content-length": "100000000"})
    assert answer.status_code == 413
    assert answer.headers["content-type"] == "application/problem+json"


def chunked(size: int) -> Iterator[bytes]:
    for _ in range(size // 100_000):
        yield b"[" * 100_000


def test_a_chunked_body_to_the_sums_is_refused(app: FastAPI) -> None:
    answer = TestClient(app, raise_server_exceptions=False).post("/api/sums/torque", content=chunked(3_000_000))
    assert answer.status_code == 413
    assert "larger than 300 kB" in answer.text


def test_sixty_cheap_requests_at_once_are_all_answered(app: FastAPI, petra: Crew) -> None:
    statuses: list[int] = []

    def one() -> None:
        client = TestClient(app, raise_server_exceptions=False, cookies=dict(petra.client.cookies))
        statuses.append(client.get(f"/api/jobs/{petra.job}/revision").status_code)

    threads = [threading.Thread(target=one) for _ in range(60)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    # Each client of the tests has a loop, and so a door, of its own: what is left to run out are connections, and that is said at once.
    assert set(statuses) <= {200, 503}
    assert 200 in statuses
    assert petra.client.get("/healthz").status_code == 200


@pytest.mark.parametrize("path", ["/sums/conductor", "/sums/torque"])
@pytest.mark.parametrize("typed", ["5+9**9**9", "5 A*9**9**9/9**9**9", "5 (", "5 A)", "5 1/0 A", "x" * 5000, "kilo" * 1000])
def test_no_text_freezes_the_server_or_breaks_it(app: FastAPI, path: str, typed: str) -> None:
    field = "current" if "conductor" in path else "torque"
    answer = TestClient(app, raise_server_exceptions=False).get(path, params={field: typed, "ambient": "30 C"})
    assert answer.status_code == 422
    assert "Write for example" in answer.text


DEEP = "[" * 100_000


@pytest.mark.parametrize(
    "content", [DEEP, '{"a":' * 50_000, '{"torque": NaN}', '{"torque": 1e999}', '{"torque": "' + "9" * 200 + '"}', "[]", "7"]
)
def test_odd_json_to_the_sums(app: FastAPI, content: str) -> None:
    answer = TestClient(app, raise_server_exceptions=False).post("/api/sums/torque", content=content)
    assert answer.status_code in (413, 422)
    assert answer.json()["detail"]


@pytest.mark.parametrize("content", [DEEP, '{"format": NaN}', "[]", '{"loads": ' + json.dumps([0] * 300) + "}", "\xff"])
def test_odd_files_are_refused_in_words(petra: Crew, content: str) -> None:
    for address in ("/new/file", "/cards"):
        answer = petra.client.post(address, data={"csrf": petra.csrf}, files={"file": ("x.json", content.encode("latin-1"))})
        assert answer.status_code == 422, address
        assert "on our side" not in answer.text


@pytest.mark.parametrize("value", ["NaN", "Infinity", "-Infinity", DEEP, "1e999"])
def test_odd_values_over_the_api(petra: Crew, value: str) -> None:
    petra.edit("settings.reserve_pct", "31")
    body = f'{{"path": "settings.reserve_pct", "value": {value}, "base": 1}}'
    answer = petra.client.patch(
        f"/api/jobs/{petra.job}", content=body, headers={"X-CSRF-Token": petra.csrf, "content-type": "application/json"}
    )
    assert answer.status_code in (409, 422)
    assert answer.json()["detail"]


def test_a_field_with_too_much_in_it_is_named(petra: Crew) -> None:
    answer = petra.edit("story", "x" * 4001, kind="text")
    assert answer.status_code == 422
    assert "value" in answer.text


def test_lists_of_a_job_end_somewhere(petra: Crew) -> None:
    load = {"title": "x", "running_w": 10.0, "surge_w": 10.0, "leg": "L1", "side": "house"}
    document = edited({}).model_dump(mode="json")
    for count, good in ((200, True), (201, False)):
        document["loads"] = [{**load, "id": f"l{n}"} for n in range(count)]
        answer = petra.client.post(
            "/new/file", data={"csrf": petra.csrf}, files={"file": ("x.json", json.dumps(document).encode())}, follow_redirects=False
        )
        assert (answer.status_code == 303) is good
    assert "at most 200 are kept" in answer.text


def test_a_document_that_cannot_be_read_is_a_row_with_its_reason(owner: Engine, engine: Engine, petra: Crew) -> None:
    job = edited({}).model_copy(update={"id": f"old-{petra.job}", "title": "Old Weir House"})
    with Session(engine) as db:
        jobs.create_job(db, job, "Petra")
        db.commit()
    with owner.begin() as connection:
        connection.execute(text("update revisions set document = document - 'site' where job_id = :j"), {"j": job.id})
    page = petra.client.get("/")
    assert page.status_code == 200
    assert "Old Weir House" in page.text
    assert "site: Field required" in page.text
    station = petra.client.get(f"/jobs/{job.id}/survey")
    assert station.status_code == 422
    assert "site: Field required" in station.text
    assert petra.client.get(f"/jobs/{job.id}/document.json").json()["title"] == "Old Weir House"
    with owner.begin() as connection:
        connection.execute(text("delete from revisions where job_id = :j"), {"j": job.id})
        connection.execute(text("delete from jobs where id = :j"), {"j": job.id})


def test_a_hold_of_a_check_that_the_house_has_not(lena: Crew) -> None:
    assert lena.post("records/hold/pack-spread", reason="a reason of some length").status_code in (200, 422)
    assert lena.post("records/hold/no-such-check", reason="a reason of some length").status_code == 404


def test_racing_edits_of_their_own_fields_all_stand(app: FastAPI, petra: Crew) -> None:
    base, statuses = petra.revision(), []
    paths = [
        "runs.grid.length_m",
        "runs.backup.length_m",
        "runs.bat-main.length_m",
        "settings.reserve_pct",
        "settings.outage_hours",
        "site.altitude_m",
    ]

    def one(path: str) -> None:
        client = TestClient(app, raise_server_exceptions=False, cookies=dict(petra.client.cookies))
        answer = client.post(
            f"/jobs/{petra.job}/edit",
            data={"csrf": petra.csrf, "path": path, "value": "7", "kind": "number", "base": base},
            headers={"HX-Request": "true"},
        )
        statuses.append(answer.status_code)

    threads = [threading.Thread(target=one, args=(path,)) for path in paths]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert statuses == [200] * len(paths)
    assert petra.revision() == base + len(paths)


def test_two_jobs_of_one_title_at_once_are_two_jobs(app: FastAPI, petra: Crew) -> None:
    statuses: list[int] = []

    def one() -> None:
        client = TestClient(app, raise_server_exceptions=False, cookies=dict(petra.client.cookies))
        answer = client.post("/new", data={"csrf": petra.csrf, "title": "Twin Barn", "kind": "K4"}, follow_redirects=False)
        statuses.append(answer.status_code)

    threads = [threading.Thread(target=one) for _ in range(5)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert statuses == [303] * 5


class Kept(logging.Handler):
    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.lines.append(record.getMessage())


@pytest.fixture
def log() -> Iterator[list[str]]:
    kept, logger = Kept(), logging.getLogger("gumboot.request")
    logger.addHandler(kept)
    before = logger.level
    logger.setLevel(logging.INFO)
    yield kept.lines
    logger.setLevel(before)
    logger.removeHandler(kept)


def test_the_log_says_who_and_from_where_and_nothing_that_is_secret(app: FastAPI, ivo: Crew, log: list[str]) -> None:
    client = TestClient(app)
    client.post("/sign-in", data={"name": "ivo", "password": "a-wrong-secret"})
    client.post("/sign-in", data={"name": "typed-my-password-here", "password": "x"})
    ivo.post("records/setting/charge_a", value="secret 120")
    lines = [json.loads(line) for line in log]
    assert [(x["status"], x["who"]) for x in lines if x["path"] == "/sign-in"] == [(401, "ivo"), (401, "(no such account)")]
    change = next(x for x in lines if x["path"].endswith("charge_a"))
    assert (change["who"], change["method"], change["from"]) == ("ivo", "POST", "testclient")
    assert not any(word in line for line in log for word in ("a-wrong-secret", "typed-my-password", "secret 120"))

"""Sign-in, headers, guards and the answers to failures."""

from __future__ import annotations

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from gumboot import __version__
from gumboot.core.standing import STATION_IDS
from tests.web.conftest import Crew

CLOSED = [
    "/",
    "/rules",
    "/jobs/d1-saltmarsh",
    *[f"/jobs/d1-saltmarsh/{s}" for s in STATION_IDS],
    "/jobs/d1-saltmarsh/working?figure=x",
    "/jobs/d1-saltmarsh/download/pack.pdf",
    "/jobs/d1-saltmarsh/wire/x",
]


@pytest.fixture
def stranger(app: FastAPI) -> TestClient:
    return TestClient(app, follow_redirects=False)


def test_health_says_version_and_database(stranger: TestClient) -> None:
    assert stranger.get("/healthz").json() == {"app": __version__, "database": "ready"}


@pytest.mark.parametrize("path", CLOSED)
def test_everything_else_needs_a_session(stranger: TestClient, path: str) -> None:
    answer = stranger.get(path)
    assert (answer.status_code, answer.headers["location"]) == (303, "/sign-in")


def test_the_api_says_so_as_problem_details(stranger: TestClient) -> None:
    answer = stranger.get("/api/jobs/d1-saltmarsh/plan")
    assert answer.status_code == 401
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["content-security-policy"]


def test_security_headers_on_every_kind_of_answer(stranger: TestClient, petra: Crew) -> None:
    for answer in (
        stranger.get("/sign-in"),
        stranger.get("/static/app.css"),
        stranger.get("/nowhere"),
        petra.client.get(f"/jobs/{petra.job}/wall"),
    ):
        policy = answer.headers["content-security-policy"]
        assert "default-src 'self'" in policy
        assert "unsafe" not in policy
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert answer.headers["x-frame-options"] == "DENY"
        assert len(answer.headers["x-request-id"]) == 12


def test_cookie_is_guarded(app: FastAPI) -> None:
    form = {"name": "petra", "password": "low-tide-42"}
    loopback = TestClient(app, follow_redirects=False).post("/sign-in", data=form).headers["set-cookie"].lower()
    assert "httponly" in loopback
    assert "samesite=lax" in loopback
    assert "secure" not in loopback
    behind_tls = (
        TestClient(app, base_url="https://gumboot.example", follow_redirects=False)
        .post("/sign-in", data=form)
        .headers["set-cookie"]
        .lower()
    )
    assert "secure" in behind_tls


def test_wrong_password_keeps_the_name_typed(stranger: TestClient) -> None:
    answer = stranger.post("/sign-in", data={"name": "petra", "password": "no"})
    assert answer.status_code == 401
    assert 'value="petra"' in answer.text
    assert "do not belong together" in answer.text


@pytest.mark.parametrize("csrf", ["", "wrong"])
def test_forms_without_the_token_are_refused(petra: Crew, csrf: str) -> None:
    before = petra.revision()
    answer = petra.client.post(f"/jobs/{petra.job}/edit", data={"csrf": csrf, "path": "title", "value": "x", "base": before})
    assert answer.status_code == 403
    assert "nothing was saved" in answer.text
    assert petra.revision() == before


def test_sign_out_ends_the_session(petra: Crew) -> None:
    petra.client.post("/sign-out", data={"csrf": petra.csrf})
    assert petra.client.get("/", follow_redirects=False).headers["location"] == "/sign-in"


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("/nowhere", "does not exist"),
        ("/jobs/none/survey", "no job"),
        ("/jobs/d1-saltmarsh/kitchen", "list of jobs"),
        ("/jobs/d1-saltmarsh/wire/none", "not part of this plan"),
        ("/jobs/d1-saltmarsh/download/none", "no such file"),
        ("/jobs/d1-saltmarsh/working?figure=none", "no longer part"),
    ],
)
def test_kind_404(petra: Crew, path: str, words: str) -> None:
    answer = petra.client.get(path)
    assert answer.status_code == 404
    assert words in answer.text
    assert "request " in answer.text


def test_missing_form_fields_are_named(petra: Crew) -> None:
    answer = petra.post("edit")
    assert answer.status_code == 422
    assert "path" in answer.text
    assert "base" in answer.text


def test_a_failure_of_ours_is_a_kind_500(app: FastAPI, petra: Crew, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("secret detail")

    monkeypatch.setattr("gumboot.web.rendering.stand", broken)
    answer = petra.client.get(f"/jobs/{petra.job}/survey")
    assert answer.status_code == 500
    assert "on our side" in answer.text
    assert "secret detail" not in answer.text


def test_title_is_escaped(petra: Crew) -> None:
    petra.edit("title", "<script>alert(1)</script>", kind="text")
    page = petra.get("survey")
    assert "<script>alert" not in page
    assert "&lt;script&gt;alert" in page

"""Signed-in clients on a fresh copy of the demo house."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from httpx import Response
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.cli.cluster import Cluster
from gumboot.store import jobs
from gumboot.store.demo import DEMO_PASSWORD
from gumboot.web import urls
from gumboot.web.app import create_app
from gumboot.web.security import COOKIE
from tests.helpers import edited


@pytest.fixture(scope="session")
def app(cluster: Cluster, engine: Engine) -> Iterator[FastAPI]:
    made = create_app(cluster.url())
    yield made
    made.state.engine.dispose()


@dataclass
class Crew:
    """A signed-in person's browser."""

    client: TestClient
    job: str
    csrf: str

    def get(self, station: str) -> str:
        answer = self.client.get(f"/jobs/{self.job}/{station}")
        assert answer.status_code == 200, answer.text[:400]
        return str(answer.text)

    def post(self, verb: str, fragment: Any = True, **data: Any) -> Response:
        headers = {"HX-Request": "true"} if fragment else {}
        if verb.startswith("records/"):
            data = {"record_id": str(uuid.uuid4()), **data}
        if verb.startswith("records/sign-off/"):
            data = {**self.seen(), **data}
        answer: Response = self.client.post(f"/jobs/{self.job}/{verb}", data={"csrf": self.csrf, **data}, headers=headers)
        return answer

    def seen(self) -> dict[str, str]:
        """What a signature carries of what was seen."""
        acts = self.client.get(f"/api/jobs/{self.job}/acts").json()["acts"]
        asked = next(act["inputs"] for act in acts if act["id"] == "sign-off:job")
        return {each["name"]: each.get("stands", "") for each in asked if each["takes"] == "seen"}

    def revision(self) -> int:
        return int(self.client.get(f"/api/jobs/{self.job}/revision").json()["revision"])

    def edit(self, path: str, value: str, kind: str = "number", unit: str = "", base: int | None = None, **more: Any) -> Response:
        return self.post("edit", path=path, value=value, kind=kind, unit=unit, base=base or self.revision(), **more)


@pytest.fixture
def job_id(engine: Engine) -> str:
    job = edited({"preferences.units": "SI"}).model_copy(update={"id": f"w-{uuid.uuid4().hex[:8]}"})
    with Session(engine) as db:
        jobs.create_job(db, job, "demo")
        db.commit()
    return job.id


# The session of each person, as long as it lasts: looking at a password takes a fifth of a second, and there are hundreds of tests.
SESSIONS: dict[str, str] = {}


@pytest.fixture
def crew(app: FastAPI, job_id: str) -> Callable[[str], Crew]:
    def sign_in(name: str) -> Crew:
        client = TestClient(app, raise_server_exceptions=False)
        if name in SESSIONS:
            client.cookies.set(COOKIE, SESSIONS[name])
        # Asked for what costs nothing: a page of the job would be planned and drawn for every test.
        if (me := client.get(urls.ME, headers={"Accept": "application/json"})).status_code == 401:
            client.cookies.clear()
            client.post("/sign-in", data={"name": name, "password": DEMO_PASSWORD}, follow_redirects=False)
            SESSIONS[name] = client.cookies[COOKIE]
            me = client.get(urls.ME)
        return Crew(client, job_id, me.json()["csrf"])

    return sign_in


@pytest.fixture
def petra(crew: Callable[[str], Crew]) -> Crew:
    return crew("petra")


@pytest.fixture
def ivo(crew: Callable[[str], Crew]) -> Crew:
    return crew("ivo")


@pytest.fixture
def lena(crew: Callable[[str], Crew]) -> Crew:
    return crew("lena")

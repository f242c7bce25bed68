"""Acts and records as data: what a phone judges by, one record sent as it is, every refusal by role, gate and content."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest

from gumboot.core.recording import Person
from tests.crew import IVO, said
from tests.web.conftest import Crew


def send(crew: Crew, document: Any, query: str = "") -> Any:
    return crew.client.post(f"/api/jobs/{crew.job}/records{query}", json=document, headers={"X-CSRF-Token": crew.csrf})


def reading(value: float = 0.2, act: str = "check:dead-dc", who: Person = IVO, **more: Any) -> dict[str, Any]:
    every = said(act, datetime.now(UTC), who)
    return {**every, "done_at": every["done_at"].isoformat(), "kind": "reading", "value": value, **more}


def acts(crew: Crew) -> dict[str, dict[str, Any]]:
    answer = crew.client.get(f"/api/jobs/{crew.job}/acts").json()
    return {a["id"]: a for a in answer["acts"]}


def test_the_acts_are_served_with_band_state_and_gate(ivo: Crew) -> None:
    served = acts(ivo)
    dead = served["check:dead-dc"]
    assert (dead["band"]["high"], dead["band"]["unit"], dead["band"]["measures"]) == (5.0, "V", "magnitude")
    assert (dead["state"], dead["held_by"], dead["lasts"]["hours"]) == ("open", [], 12.0)
    assert [(i["name"], i["takes"], i.get("unit")) for i in dead["inputs"]] == [("value", "quantity", "V"), ("tool", "tool", None)]
    assert "step:start-dead" in served["step:on-bat-1"]["held_by"]
    assert served["off:all.switches"]["makes_safe"]
    assert set(served["step:on-bat-1"]["needs"]) <= set(served)
    assert ivo.client.get("/api/jobs/nowhere/acts").status_code == 404


def test_a_record_is_kept_once_and_seen_in_the_acts(ivo: Crew) -> None:
    document = reading()
    assert send(ivo, document).status_code == 201
    assert send(ivo, document).status_code == 200
    assert acts(ivo)["check:dead-dc"]["state"] == "good"
    other = send(ivo, {**document, "value": 0.3})
    assert (other.status_code, other.json()["field"]) == (409, "id")


@pytest.mark.parametrize(
    ("change", "status", "words"),
    [
        ({"act": "check:nothing"}, 404, "no act of this plan"),
        ({"act": "step:export", "kind": "done", "value": None}, 422, "value"),
        ({"doer": "lena"}, 403, "This was done by lena"),
        ({"value": -1.0, "act": "check:earth-grid"}, 422, "null the test leads"),
        ({"value": 4211.0, "act": "check:voc-PV1", "cell_c": 18.0}, 409, "did you mean 421.1 V?"),
        ({"done_at": (datetime.now(UTC) + timedelta(hours=2)).isoformat()}, 422, "dated in the future"),
        ({"kind": "dream"}, 422, "dream"),
        ({"value": "much"}, 422, "value"),
    ],
)
def test_each_refusal_says_why(ivo: Crew, change: dict[str, Any], status: int, words: str) -> None:
    answer = send(ivo, {**reading(), **change})
    assert answer.status_code == status, answer.text
    assert words in answer.text


def test_gates_roles_and_tokens_hold_here_as_well(ivo: Crew, crew: Callable[[str], Crew]) -> None:
    every = said("step:grid-breaker", datetime.now(UTC))
    step = {**every, "done_at": every["done_at"].isoformat(), "kind": "done"}
    assert "Held by the step before" in send(ivo, step).json()["detail"]
    late = {**step, "done_at": (datetime.now(UTC) - timedelta(hours=1)).isoformat()}
    kept = send(ivo, late)
    assert kept.status_code == 201
    assert kept.json()["defects"][0].startswith("out of order")
    for name in ("abel", "petra"):
        other = crew(name)
        other.job = ivo.job
        mine = reading(who=Person(name, name, "apprentice"))
        assert send(other, mine).status_code == 403
    assert ivo.client.post(f"/api/jobs/{ivo.job}/records", json=reading()).status_code == 403
    odds: tuple[Any, ...] = ([], "x", 7, None)
    for odd in odds:
        assert send(ivo, odd).status_code == 422
    assert send(ivo, reading(4211.0, "check:voc-PV1", cell_c=18.0), "?sure=true").status_code == 201
    # What the sender says of verdict, name and revision counts for nothing.
    forged = reading(act="check:dead-grid", by="The Owner", revision=99, defects=["none"], role="licence holder")
    assert send(ivo, forged).status_code == 201
    row = ivo.client.get(f"/jobs/{ivo.job}/download/records.jsonl").text
    assert "The Owner" not in row
    assert '"revision": 99' not in row

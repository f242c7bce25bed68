"""The pages and the API of the quick sums."""

from __future__ import annotations

import json
from math import isfinite
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from gumboot.core.sums import SUMS
from tests.core.test_sums import BY_HAND


@pytest.fixture
def anyone(app: FastAPI) -> TestClient:
    """Somebody who has not signed in: a quick sum holds nothing of a job."""
    return TestClient(app, raise_server_exceptions=False)


def test_the_list_has_a_schema_for_each(anyone: TestClient) -> None:
    rows = anyone.get("/api/sums").json()
    assert [r["name"] for r in rows] == list(SUMS)
    assert all(r["schema"]["properties"]["book"]["enum"] for r in rows)


def test_a_sum_by_the_api(anyone: TestClient) -> None:
    answer = anyone.post("/api/sums/torque", json={"torque": "35 lbf in"})
    assert answer.status_code == 200
    assert answer.json()["figure"]["value"] == pytest.approx(3.954469, abs=1e-6)
    assert answer.json()["working"]["lbf_in"]["value"] == pytest.approx(35)


@pytest.mark.parametrize(
    ("name", "body", "status", "field"),
    [
        ("torque", '{"torque": "35 V"}', 422, "torque"),
        ("torque", "{}", 422, "torque"),
        ("torque", "[]", 422, None),
        ("torque", "not json", 422, None),
        ("torque", '{"torque": 1e999}', 422, "torque"),
        ("torque", '{"torque": {"a": 1}}', 422, "torque"),
        ("torque", '{"torque": "' + "9" * 30000 + '"}', 413, None),
        ("nothing", "{}", 404, None),
        ("bank-sharing", '{"current": 100, "leads": ["x"], "cell": 1, "rating": 1}', 422, "leads"),
        ("conduit-fill", '{"kind": "EMT", "raceway": "\\u0000", "wires": ["6 AWG"]}', 422, None),
    ],
)
def test_bad_questions_are_problems_with_the_field(anyone: TestClient, name: str, body: str, status: int, field: str | None) -> None:
    answer = anyone.post(f"/api/sums/{name}", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"].startswith("application/problem+json")
    assert answer.json().get("field") == field


@pytest.mark.parametrize("name", list(SUMS))
@pytest.mark.parametrize("book", ["nec-2023", "bs-7671"])
def test_every_page_opens(anyone: TestClient, name: str, book: str) -> None:
    page = anyone.get(f"/sums/{name}?book={book}")
    assert page.status_code == 200
    assert "Work it out" in page.text
    assert " style=" not in page.text
    assert "licensed person" in page.text


def test_a_page_answers_with_working_and_clause(anyone: TestClient) -> None:
    page = anyone.get("/sums/conductor?current=45+A&ambient=104+F&device=60").text
    for words in ("6 AWG", "1.25 · I_b", "Table 310.16", "value from memory", "No rule objects"):
        assert words in page


def test_a_page_keeps_what_was_typed_when_it_refuses(anyone: TestClient) -> None:
    answer = anyone.get("/sums/conductor?current=45+m&ambient=30")
    assert answer.status_code == 422
    assert 'value="45 m"' in answer.text
    assert "wrong kind of unit" in answer.text
    assert 'aria-invalid="true"' in answer.text


def test_text_is_escaped(anyone: TestClient) -> None:
    answer = anyone.get("/sums/pin-out", params={"first": "1:<script>alert(1)</script>", "second": "2:<b>"})
    assert answer.status_code == 200
    assert "<script>alert" not in answer.text
    assert anyone.get("/sums/nothing").status_code == 404
    assert anyone.get("/sums", follow_redirects=True).status_code == 200


def test_the_rules_page_states_clause_validity_and_origin(petra: object) -> None:
    client = petra.client  # type: ignore[attr-defined]
    page = client.get("/rules").text
    for words in ("BUS-120", "705.12(B)", "left to the local code", "from memory", "common practice", "AS/NZS 3000", "IEC 60364-5-52"):
        assert words in page


def test_a_question_that_is_being_typed_is_no_error(anyone: TestClient) -> None:
    asked = {"ambient": "30", "size": ""}
    whole = anyone.get("/sums/ampacity", params=asked)
    typed = anyone.get("/sums/ampacity", params=asked, headers={"HX-Request": "true"})
    assert (whole.status_code, typed.status_code) == (422, 200)
    assert '<p class="waits">Conductor size: this is needed' in typed.text


def test_a_sum_of_one_family_begins_under_its_book(anyone: TestClient) -> None:
    page = anyone.get("/sums/loop-limit", params={"device": "32"}).text
    assert "0.718 ohm" in page
    assert 'name="book" value="iec-60364"' in page
    refused = anyone.get("/sums/loop-limit", params={"device": "32", "book": "nec-2023"})
    assert refused.status_code == 422
    assert "IEC practice" in refused.text


def test_fields_carry_an_example_and_no_rule_is_praised_that_nobody_asked(anyone: TestClient) -> None:
    assert 'placeholder="such as 48 A"' in anyone.get("/sums/conductor").text
    assert "No rule objects" not in anyone.get("/sums/torque", params={"torque": "4 N m"}).text
    assert "No rule objects" in anyone.get("/sums/busbar", params={"main": "100", "busbar": "125", "source": "20"}).text


def test_exchanged_voltages_are_questioned(anyone: TestClient) -> None:
    asked = {"voc": "31", "vmp": "37", "coefficient": "-0.26", "vmp_coefficient": "-0.3", "coldest": "-10", "hottest_cell": "65"}
    page = anyone.get("/sums/string-range", params={**asked, "limit": "500", "window": "120"})
    assert page.status_code == 422
    assert "Were the two exchanged?" in page.text


FIRST: dict[str, dict[str, Any]] = {name: question for name, question, *_ in reversed(BY_HAND)}
ODD: list[Any] = [
    "", "0", "-1", "1e9", "1e-9", "999999999 kW", "nan", "inf", "1,250", "🦪", "<b>x</b>", "a" * 500, "13 AWG", "1/0", "1/0 mm2", "\x00", "-40 °C", "100 %", "0.5",
    True, None, [], [""], ["1/0 mm2"], [0, 0], {}, -0.0, 1e308, 5e-324, 10**40, "0 mm2", "2000 kcmil", "1-1", "1:1,1:1", "½ in", "50 mV", "3 ft 2 in",
]  # fmt: skip


@pytest.mark.parametrize("name", list(SUMS))
def test_whatever_is_asked_is_answered_or_refused_in_words(anyone: TestClient, name: str) -> None:
    asks, bad = FIRST[name], []
    for k, field in enumerate(SUMS[name].asks.model_fields):
        # A quarter of them in each field, another quarter in the next.
        for value in ODD[k % 4 :: 4] if field != "book" else ["nec-2023", "iec-60364", "bs-7671", "as-nzs-3000", "x"]:
            answer = anyone.post(f"/api/sums/{name}", content=json.dumps({**asks, field: value}))
            told = [answer.json().get("detail")] if answer.status_code >= 400 else [f["value"] for f in answer.json()["working"].values()]
            if answer.status_code >= 500 or not all(told if answer.status_code >= 400 else [isfinite(v) for v in told]):
                bad.append((field, value, answer.status_code, told))
    assert bad == []

"""Labels as files and on their page; a string's marks as an act of the crew."""

from __future__ import annotations

import pytest

from tests.web.conftest import Crew


@pytest.mark.parametrize(
    ("name", "kind", "begins"),
    [
        ("labels-strip-24.pdf", "application/pdf", b"%PDF"),
        ("labels-a4-10.pdf", "application/pdf", b"%PDF"),
        ("labels.csv", "text/csv; charset=utf-8", b"words,where,copies"),
    ],
)
def test_the_files_of_labels(ivo: Crew, name: str, kind: str, begins: bytes) -> None:
    answer = ivo.client.get(f"/jobs/{ivo.job}/download/{name}")
    assert (answer.status_code, answer.headers["content-type"]) == (200, kind)
    assert answer.content.startswith(begins)


@pytest.mark.parametrize("name", ["labels-.pdf", "labels-strip-7.pdf", "labels-strip-24.dxf"])
def test_there_is_no_tape_of_that_name(ivo: Crew, name: str) -> None:
    assert ivo.client.get(f"/jobs/{ivo.job}/download/{name}").status_code == 404


def test_live_checks_shows_each_label_and_what_is_too_narrow_for_it(ivo: Crew) -> None:
    page = ivo.get("live-checks")
    for words in ("Labels to print", "PHOTOVOLTAIC", "white letters on red", "letters at least", "Marks of strings and leads"):
        assert words in page
    narrow = page[page.index("9 mm strip</th>") :]
    assert "PV raceways, each 3 m" in narrow[: narrow.index("</tr>")]


def test_a_string_is_marked_before_its_live_end_is_landed(ivo: Crew) -> None:
    refused = ivo.post("records/torque/roof.pv1.pos.pv-pv1", tug="held")
    assert "String S1 marked at both ends" in refused.text
    assert ivo.post("records/label/string.S1", answer="yes").status_code < 400
    assert "String S1 marked at both ends" not in ivo.post("records/torque/roof.pv1.pos.pv-pv1", tug="held").text

"""What pages and files say of fitting: templates, what comes along, joints and ferrites beside the landings, notes where they matter."""

from __future__ import annotations

import re

import pytest

from tests.web.conftest import Crew


@pytest.mark.parametrize(
    ("name", "kind", "begins"),
    [
        ("template-inverter.pdf", "application/pdf", b"%PDF"),
        ("template-inverter.dxf", "image/vnd.dxf", b"  0"),
        ("torques-a6.pdf", "application/pdf", b"%PDF"),
        ("van-list.csv", "text/csv; charset=utf-8", b"group,item"),
        ("leads.csv", "text/csv; charset=utf-8", b"lead,from"),
    ],
)
def test_the_files_of_fitting(ivo: Crew, name: str, kind: str, begins: bytes) -> None:
    answer = ivo.client.get(f"/jobs/{ivo.job}/download/{name}")
    assert (answer.status_code, answer.headers["content-type"]) == (200, kind)
    assert answer.content.startswith(begins)
    assert f"{ivo.job}-{name}" in answer.headers["content-disposition"]


@pytest.mark.parametrize("name", ["template-roof.pdf", "template-nothing.dxf", "template-.pdf"])
def test_a_box_without_holes_has_no_template(ivo: Crew, name: str) -> None:
    answer = ivo.client.get(f"/jobs/{ivo.job}/download/{name}")
    assert answer.status_code == 404
    assert "hangs on no holes" in answer.text


def test_wire_tells_what_comes_along_and_what_is_done_beside_the_landings(ivo: Crew, petra: Crew) -> None:
    page = ivo.get("wire")
    for words in ("What comes along", "13 mm socket", "Hydraulic crimper, die marked 2/0 AWG", "bar behind its breaker", "blank the other"):
        assert words in page
    assert "no tool in calibration" not in page
    petra.edit("tools.TD-1.calibrated_to", "2026-01-31", kind="text")
    petra.edit("tools.TW-2.calibrated_to", "2026-01-31", kind="text")
    assert "no tool in calibration" in ivo.get("wire")


def test_a_factory_joint_is_typed_in_the_unit_that_is_chosen(ivo: Crew) -> None:
    slip = ivo.post("records/joint/bat-1.breaker-bar", reached="8", unit="lbf in", tool="TW-2")
    assert slip.status_code == 422
    assert "did you mean" in slip.text
    bad = ivo.post("records/joint/bat-1.breaker-bar", reached="8", unit="lbf in", tool="TW-2", sure="yes").text
    assert "0.90 N m is outside 7.20 to 8.80 N m" in bad
    for typed in (
        {"reached": "", "unit": "N m", "tool": "TW-2"},
        {"reached": "8", "unit": "N m", "tool": ""},
        {"reached": "8", "unit": "stone", "tool": "TW-2"},
    ):
        assert ivo.post("records/joint/bat-1.breaker-bar", **typed).status_code == 422
    page = ivo.post("records/joint/bat-1.breaker-bar", reached="71", unit="lbf in", tool="TW-2").text
    assert 'class="check good" id="joint-bat-1.breaker-bar"' in page


def test_notes_and_pointers_stand_at_the_act_where_they_matter(ivo: Crew) -> None:
    def notes(act: str) -> str:
        return str(ivo.client.get(f"/jobs/{ivo.job}/acts/{act}", headers={"HX-Request": "true"}).text)

    assert "Ships set to protocol 1" in notes("ritual/program.bat-1")
    assert "Mounting guide, page 14" in notes("ritual/program.bat-1")
    assert "The radio stick joins the network only" in notes("lead/network.inverter")
    assert "Installation manual, chapter 4" in notes("torque/inverter.battery.pos.bat-main")
    assert "Ships set to protocol" not in notes("torque/bat-1.battery.pos.bat-1")
    assert "The LOAD relay clicks twice" in notes("step/inverter-on")


def test_the_wall_tells_distances_from_hole_to_hole_and_tape_fractions(ivo: Crew) -> None:
    page = ivo.get("wall")
    assert "From hole to hole" in page
    assert "diagonal" in page
    assert "on a tape" not in page
    ivo.edit("preferences.units", "US", kind="text")
    inches = ivo.get("wall")
    assert "on a tape" in inches
    assert re.search(r"\d+ \d+/16 in", inches)

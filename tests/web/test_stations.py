"""Stations and edits: what is typed moves the plan, what is refused loses nothing."""

from __future__ import annotations

import json
import re

import pytest

from gumboot.catalogue import shelf
from gumboot.core.standing import STATION_IDS
from tests.web.conftest import Crew


@pytest.mark.parametrize("station", STATION_IDS)
@pytest.mark.parametrize("house", ["d1-saltmarsh", "d1-saltmarsh-mistakes"])
def test_every_station_of_both_houses(petra: Crew, station: str, house: str) -> None:
    page = petra.client.get(f"/jobs/{house}/{station}").text
    assert f'data-station="{station}"' in page
    assert " style=" not in page
    assert "<style" not in page
    assert re.search(r"\son[a-z]+=", page) is None
    assert "None" not in re.sub(r"<[^>]+>", " ", page)
    assert "licensed person" in page


@pytest.mark.parametrize("station", STATION_IDS)
def test_every_figure_on_a_page_opens_its_working(petra: Crew, station: str) -> None:
    page = petra.get(station)
    keys = set(re.findall(r'data-figure="([^"]+)"', page))
    for key in sorted(keys)[:40]:
        answer = petra.client.get(f"/jobs/{petra.job}/working", params={"figure": key})
        assert answer.status_code == 200, key


def test_working_shows_formula_numbers_and_clause(petra: Crew) -> None:
    panel = petra.client.get(f"/jobs/{petra.job}/working", params={"figure": "strings.PV1.cold_v"}).text
    for words in (
        "455.5 V",
        "n · V_oc · (1 + beta · (T_low − 25))",
        "11 · 37.6",
        "690.7(A)(1)",
        "Record low air temperature",
        "from memory",
    ):
        assert words in panel


def test_edit_redraws_the_station_as_a_fragment(petra: Crew) -> None:
    answer = petra.edit("strings.S1.modules", "13", station="strings")
    assert answer.status_code == 200
    assert answer.text.lstrip().startswith('<div id="bench"')
    assert "538.4 V" in answer.text
    assert "PV-COLD-VOC" in answer.text


def test_edit_without_script_comes_back_to_the_page(petra: Crew) -> None:
    answer = petra.post(
        "edit", fragment=False, path="strings.S1.modules", value="10", kind="number", base=petra.revision(), station="strings"
    )
    assert answer.status_code == 200
    assert answer.url.path.endswith("/strings")


@pytest.mark.parametrize(("typed", "metres"), [("2.5", 2.5), ("2,5 m", 2.5), ("250 cm", 2.5), ("10 ft", 3.048), ("120 in", 3.048)])
def test_quantities_as_people_type_them(petra: Crew, typed: str, metres: float) -> None:
    assert petra.edit("runs.bat-main.length_m", typed, unit="m").status_code == 200
    plan = petra.client.get(f"/api/jobs/{petra.job}/plan").json()
    assert plan["figures"]["in.runs.bat-main.length_m"]["value"] == pytest.approx(metres)


@pytest.mark.parametrize(("path", "typed", "unit", "words"), [
    ("runs.bat-main.length_m", "far", "m", "is not a number"),
    ("runs.bat-main.length_m", "3 kg", "m", "wrong kind of unit"),
    ("runs.bat-main.length_m", "3 blorps", "m", "no unit that is known"),
    ("runs.bat-main.length_m", "-3", "m", "must be above 0"),
    ("site.record_low_c", "200", "°C", "at most 30"),
    ("strings.S1.modules", "2.5", "", "whole number"),
    ("strings.S1.modules", "", "", "whole number"),
    ("loads.blower.surge_w", "5", "W", "at least running_w"),
])  # fmt: skip
def test_a_refused_value_stays_in_its_field_with_the_reason(petra: Crew, path: str, typed: str, unit: str, words: str) -> None:
    station = {"runs": "circuits", "site": "survey", "strings": "strings", "loads": "loads"}[path.split(".", maxsplit=1)[0]]
    before = petra.revision()
    answer = petra.edit(path, typed, unit=unit, station=station)
    assert answer.status_code == 422
    assert words in answer.text
    assert f'value="{typed}"' in answer.text
    assert petra.revision() == before


def test_an_empty_answer_becomes_a_gap(petra: Crew) -> None:
    page = petra.edit("site.record_low_c", "", unit="°C", station="survey").text
    assert "holds up" in page
    assert "Record low air temperature?" in petra.client.get(f"/jobs/{petra.job}/survey").text
    assert "The rulers wait" in petra.get("strings")


def test_us_units_come_first_after_the_switch(petra: Crew) -> None:
    assert "1.60" not in petra.edit("preferences.units", "US", kind="text").text
    assert "5.25" in petra.get("bank")
    assert petra.edit("runs.bat-main.length_m", "10", unit="m").status_code == 200
    plan = petra.client.get(f"/api/jobs/{petra.job}/plan").json()
    assert plan["figures"]["in.runs.bat-main.length_m"]["value"] == pytest.approx(3.048)


def test_a_conflict_shows_both_values_and_can_be_settled(petra: Crew, ivo: Crew) -> None:
    base = petra.revision()
    ivo.edit("runs.bat-main.length_m", "3", unit="m", base=base)
    answer = petra.edit("runs.bat-main.length_m", "5", unit="m", base=base, station="bank")
    assert answer.status_code == 409
    assert "Ivo Installer changed the same field" in answer.text
    assert "<b>3 m</b>" in answer.text
    assert "<b>5 m</b>" in answer.text
    settled = petra.edit("runs.bat-main.length_m", "5.0", base=petra.revision())
    assert settled.status_code == 200


def test_a_conflict_in_feet_is_settled_as_it_was_typed(petra: Crew, ivo: Crew) -> None:
    petra.edit("preferences.units", "US", kind="text")
    base = petra.revision()
    ivo.edit("runs.bat-main.length_m", "10 ft", base=base)
    answer = petra.edit("runs.bat-main.length_m", "20", base=base, station="bank")
    assert answer.status_code == 409
    assert "<b>10 ft</b>" in answer.text
    assert "Use mine: 20 ft" in answer.text
    sent = re.search(r'name="value" value="([^"]+)">\s*<button class="act">Use mine', answer.text)
    assert sent is not None
    assert petra.edit("runs.bat-main.length_m", sent.group(1), base=petra.revision()).status_code == 200
    kept = petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").json()
    assert next(run for run in kept["runs"] if run["id"] == "bat-main")["length_m"] == pytest.approx(20 * 0.3048)


def test_undo_and_redo(petra: Crew) -> None:
    petra.edit("strings.S1.modules", "13")
    assert "PV-COLD-VOC" not in petra.post("undo", station="strings").text
    assert "PV-COLD-VOC" in petra.post("redo", station="strings").text
    assert "nothing to redo" in petra.post("redo", station="strings").text


def test_rehearsal_shows_the_consequence(petra: Crew) -> None:
    page = petra.client.get(f"/jobs/{petra.job}/power-up?moves=bat-1,battery-switch").text
    assert "pre-charge first" in page
    assert "Rehearsal" in page
    assert petra.client.get(f"/jobs/{petra.job}/power-up?moves=nonsense").status_code == 200


def test_api_edit_and_its_problem_details(petra: Crew) -> None:
    head = {"X-CSRF-Token": petra.csrf}
    url = f"/api/jobs/{petra.job}"
    assert petra.client.patch(url, json={"path": "settings.reserve_pct", "value": 70, "base": 1}, headers=head).json() == {"revision": 2}
    wrong = petra.client.patch(url, json={"path": "settings.reserve_pct", "value": 170, "base": 2}, headers=head)
    assert (wrong.status_code, wrong.json()["errors"][0]["field"]) == (422, "settings.reserve_pct")
    clash = petra.client.patch(url, json={"path": "settings.reserve_pct", "value": 50, "base": 1}, headers=head)
    assert (clash.status_code, clash.json()["yours"], clash.json()["theirs"]) == (409, 50, 70.0)
    assert petra.client.patch(url, json={"path": "x.y", "value": 1, "base": 2}, headers=head).status_code == 404
    assert petra.client.patch(url, json={"path": "title"}, headers=head).headers["content-type"] == "application/problem+json"
    assert petra.client.patch(url, json={"path": "title", "value": "x", "base": 2}).status_code == 403


def test_api_plan_is_the_same_plan(petra: Crew) -> None:
    from gumboot.documents.report import plan_json
    from tests.helpers import plan_of

    plan = petra.client.get(f"/api/jobs/{petra.job}/plan").json()
    assert plan["figures"] == plan_json(plan_of({"preferences.units": "SI"}))["figures"]


def test_export_is_byte_stable(petra: Crew) -> None:
    from gumboot.core.plan.job_file import job_file, read_job_file

    first = petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").text
    found = read_job_file(json.loads(first))
    assert job_file(found.job, found.shelf({})) == first


def test_terminations_csv(petra: Crew) -> None:
    rows = petra.client.get(f"/jobs/{petra.job}/download/terminations.csv").text.splitlines()
    assert len(rows) == 55
    lug = next(r for r in rows if r.startswith("inverter.battery.pos"))
    assert ",11.00,97.4,8.11,yes" in lug


def test_a_load_is_added_and_removed(petra: Crew) -> None:
    page = petra.post("loads/add", title="Sump pump", running="0.8 kW", surge="2400", leg="L1", side="backed").text
    assert "2265 W running" in page
    assert "Sump pump" in page
    again = petra.post("loads/add", title="Sump pump", running="100", leg="L2", side="house")
    assert 'value="sump-pump-2"' in again.text
    removed = petra.post("loads/remove", load="sump-pump")
    assert "1465 W running" in removed.text
    assert "2265 W running" in petra.post("undo", station="loads").text
    assert petra.post("loads/remove", load="nothing").status_code == 404


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"running": "much"}, "is not a number"),
        ({"running": "800", "surge": "5"}, "at least running_w"),
        ({"title": " "}, "title"),
        ({"running": "3 m"}, "wrong kind"),
    ],
)
def test_a_bad_load_is_refused_and_stays_typed(petra: Crew, change: dict[str, str], words: str) -> None:
    answer = petra.post("loads/add", **{"title": "Sump pump", "running": "800", "surge": "", "leg": "L1", "side": "backed", **change})
    assert answer.status_code == 422
    assert words in answer.text
    assert petra.revision() == 1


def test_the_wall_says_what_goes_in_first_and_what_takes_two(petra: Crew) -> None:
    page = petra.get("wall")
    first = shelf()["plover-6s"].model_dump()["goes_in_first"]
    assert first
    assert all(f"{thing} go in before the box is on the wall" in page for thing in first)
    assert "bat-1: " in page
    assert "two people or a lift table" in page

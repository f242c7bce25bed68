"""The stations of the plan in the hand: a sheet for each thing, what is found and asked on one of them, a picture that is there."""

from __future__ import annotations

import re
from typing import Any

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.job.fields import field_at
from gumboot.core.standing import LEGS
from tests.helpers import plan_of
from tests.web.conftest import Crew

HOUSES = sorted(path.name.removesuffix(".gumboot.json") for path in demo_houses())


def sheets_at(crew: Crew, house: str) -> dict[str, list[dict[str, Any]]]:
    found: dict[str, list[dict[str, Any]]] = crew.client.get(f"/api/jobs/{house}/bag").json()["plan"]["stations"]
    return found


@pytest.mark.parametrize("house", HOUSES)
def test_every_station_of_the_plan_is_sheets_with_their_picture_and_every_finding_is_on_one(ivo: Crew, house: str) -> None:
    bag = ivo.client.get(f"/api/jobs/{house}/bag").json()
    stations, pictures = bag["plan"]["stations"], bag["pictures"]
    assert list(stations) == [station for station, _ in dict(LEGS)["Plan"]]
    plan = plan_of(name=house)
    for station, rows in stations.items():
        assert rows
        names = [row["id"] for row in rows]
        assert len(names) == len(set(names))
        html = " ".join(row["html"] for row in rows)
        for finding in plan.at(station):
            assert html.count(f"{finding.code} · ") >= 1, finding
        assert sum(row["html"].count('class="hand-finding') for row in rows) == len(plan.at(station))
        for row in rows:
            assert row["title"]
            if (seen := row["look"]) and seen["picture"]:
                picture = pictures[seen["picture"]]
                picture = pictures[picture["as"]] if "as" in picture else picture
                assert set(seen["at"]) <= set(picture["at"]), (station, row["id"], seen)
            assert "{" not in row["title"] + " ".join(field["words"] for field in row["fields"])
            for field in row["fields"]:
                assert field_at(plan.job, field["path"])


@pytest.mark.parametrize("house", HOUSES)
def test_what_can_be_seen_is_looked_at_in_its_place(ivo: Crew, house: str) -> None:
    plan, stations = plan_of(name=house), sheets_at(ivo, house)
    seen = {row["id"]: row["look"].get("at", []) for rows in stations.values() for row in rows}
    wanted = {
        *(f"sheet:loads:{load.id}" for load in plan.job.loads),
        *(f"sheet:strings:{s.id}" for s in plan.job.strings),
        *(f"sheet:bank:{unit.id}" for bank in plan.job.banks for unit in bank.units),
        *(f"sheet:circuits:{c.id}" for c in plan.circuits.all),
        *(f"sheet:wall:{box.id}" for wall in plan.walls for box in wall.boxes),
    }
    assert [name for name in wanted if not seen[name]] == []


def test_every_number_of_a_sheet_opens_its_working(ivo: Crew) -> None:
    rows = [row for station in sheets_at(ivo, "d1-saltmarsh").values() for row in station]
    facts = [fact for row in rows for fact in re.findall(r"<details>.*?</details>", row["html"], re.DOTALL)]
    assert len(facts) > 100
    # Each says where it comes from: a clause, a card, or a decision.
    assert [fact for fact in facts if not re.search(r"(clause|card|decided): ", fact)] == []
    weight = next(row for row in rows if row["id"] == "sheet:wall:inverter")["html"]
    assert "body.mass_kg" in weight
    against = next(row for row in rows if row["id"] == "sheet:bank:bank")["html"]
    assert "interrupting_a" in against


def test_an_open_question_stands_first_with_its_field_and_what_waits_for_it(petra: Crew) -> None:
    answered = sheets_at(petra, petra.job)
    head = {"X-CSRF-Token": petra.csrf}
    for base, path in ((1, "site.record_low_c"), (2, "runs.grid.length_m")):
        answer = petra.client.patch(f"/api/jobs/{petra.job}", json={"path": path, "value": None, "base": base}, headers=head)
        assert answer.status_code == 200
    asked = sheets_at(petra, petra.job)
    first = asked["survey"][0]
    assert (first["id"], first["mark"]) == ("sheet:survey:site.record_low_c", "open")
    assert [field["path"] for field in first["fields"]] == ["site.record_low_c"]
    assert "Holds up" in first["html"]
    # Its strings wait, and say so at the top; so does the run without a length.
    assert (asked["strings"][0]["title"], answered["strings"][0]["title"]) == ("Strings wait", "String S1")
    assert "sheet:circuits:grid" in [row["id"] for row in asked["circuits"] if row["mark"] == "open"]


def test_a_field_is_asked_as_its_model_declares_it(petra: Crew) -> None:
    rows = {row["id"]: row for station in sheets_at(petra, petra.job).values() for row in station}
    fields = {field["path"]: field for row in rows.values() for field in row["fields"]}
    assert (fields["site.record_low_c"]["unit"], fields["site.record_low_c"]["text"]) == ("°C", "-14")
    assert fields["loads.kettle.side"]["options"] == ["backed", "house"]
    assert "empty" not in fields["loads.kettle.side"]
    assert fields["runs.bat-main.installed_size"]["empty"] == "by the plan"
    assert "2/0 AWG" in fields["runs.bat-main.installed_size"]["options"]
    assert fields["site.backfed_fastened"]["options"] == ["yes", "no"]


def test_what_is_typed_on_a_phone_is_read_in_the_units_of_the_house(petra: Crew) -> None:
    url, head = f"/api/jobs/{petra.job}", {"X-CSRF-Token": petra.csrf}

    def decide(**body: Any) -> Any:
        return petra.client.patch(url, json={"base": petra.revision(), **body}, headers=head)

    assert decide(path="site.record_low_c", typed="14 F").json() == {"revision": 2}
    assert petra.client.get(f"/jobs/{petra.job}/document.json").json()["site"]["record_low_c"] == -10
    assert decide(path="site.record_low_c", typed="-11 C").status_code == 200
    assert decide(path="site.backfed_fastened", typed="no").status_code == 200
    assert petra.client.get(f"/jobs/{petra.job}/document.json").json()["site"]["backfed_fastened"] is False
    wrong = decide(path="site.record_low_c", typed="cold")
    assert (wrong.status_code, "cold" in wrong.json()["detail"]) == (422, True)
    assert "at most 100" in decide(path="settings.reserve_pct", typed="170").json()["detail"]
    # One of the two, and not both.
    assert decide(path="title", value="A", typed="B").status_code == 422
    assert decide(path="title").status_code == 422
    assert decide(path="site.nothing", typed="1").status_code == 404


def test_a_wall_is_asked_what_its_surface_has(ivo: Crew) -> None:
    def asked(house: str) -> set[str]:
        row = next(row for row in sheets_at(ivo, house)["wall"] if row["id"] == "sheet:wall:wall-wall")
        return {field["path"].rsplit(".", 1)[1] for field in row["fields"]}

    assert "stud_spacing_mm" in asked("d1-saltmarsh")
    assert "masonry" not in asked("d1-saltmarsh")
    assert "masonry" in asked("d3-lockkeeper")
    assert "stud_spacing_mm" not in asked("d3-lockkeeper")

"""The other demo houses built from nothing, with nothing but what the pages offer: every field must stand on a page."""

from __future__ import annotations

import html
import re
import uuid
from typing import Any

import pytest

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job, read_path
from gumboot.core.job.fields import field_at
from gumboot.core.job.names import slug
from gumboot.core.plan.derive import derive
from gumboot.core.plan.survey import ASKED, questions_of
from gumboot.core.plan.upkeep import completed
from gumboot.core.standing import STATION_IDS
from gumboot.core.study.compare import Decision, changed_fields
from gumboot.web import typed
from gumboot.web.lists import ADDERS
from tests.web.conftest import Crew
from tests.web.test_plan_pages import begun, document, on

FORM = re.compile(r'name="path" value="([^"]+)">\s*<input type="hidden" name="base" value="\d+">')


def renamed(job: Job) -> dict[str, Any]:
    """The house with the ids that its titles give when they are typed on a page."""
    data = job.model_dump(mode="json")
    faces: dict[str, str] = {}
    for rows in (data["loads"], data["faces"], data["walls"][0]["openings"], data["settings"]["tariff"]):
        taken: set[str] = set()
        for row in rows:
            new = slug(row["title"], taken)
            taken.add(new)
            if rows is data["faces"]:
                faces[row["id"]] = new
            row["id"] = new
    for face in data["faces"]:
        if face["width_mm"] is not None:
            face |= {"columns": 1, "rows": 1}  # a face with a size has its places from it
        for obstacle in face["obstacles"]:
            obstacle["id"] = slug(obstacle["title"], set())
    for string in data["strings"]:
        string["face"] = faces[string["face"]]
    return data


def offered(crew: Crew) -> dict[str, str]:
    """Every field on every page: its path with the station."""
    found: dict[str, str] = {}
    for station in STATION_IDS:
        for path in FORM.findall(crew.get(station)):
            found.setdefault(html.unescape(path), station)
    return found


def add(crew: Crew, path: str, row: dict[str, Any]) -> None:
    key = path if path in ADDERS else ".".join((path.split(".", maxsplit=1)[0], "*", path.rsplit(".", maxsplit=1)[-1]))
    fields = {}
    for asked in ADDERS[key].fields:
        value = row[asked.name]
        fields[f"item.{asked.name}"] = (
            ("yes" if value else "no")
            if asked.kind == "flag"
            else f"{value:.10g} {asked.unit.replace('°', '')}".strip()
            if isinstance(value, int | float)
            else str(value or "")
        )
    page = crew.get(
        {"faces": "strings", "strings": "strings", "walls": "wall", "settings": "settings", "banks": "bank", "modbus": "links"}.get(
            path.split(".", maxsplit=1)[0], "survey"
        )
        if path != "walls.wall.openings"
        else "survey"
    )
    assert f'name="path" value="{path}"' in page, f"no page adds to {path}"
    answer = crew.post("list/add", path=path, station="survey", **fields)
    assert answer.status_code == 200, (path, row, re.findall(r'class="problem"[^>]*>([^<]+)', answer.text))


@pytest.mark.parametrize(("kind", "house"), [("K1", "d2-schoolhouse"), ("K8", "d3-lockkeeper"), ("K6", "d4-lookout")])
def test_a_house_is_built_by_what_the_pages_offer(petra: Crew, kind: str, house: str) -> None:
    wanted = renamed(completed(demo_house(house), shelf()))
    crew = on(petra, begun(petra, title=f"Built {uuid.uuid4().hex[:6]}", kind=kind))
    # A house of which nothing is known yet is taken along too: its questions are sheets.
    survey = crew.client.get(f"/api/jobs/{crew.job}/bag").json()["plan"]["stations"]["survey"]
    assert {row["mark"] for row in survey[:3]} == {"open"}
    for load in wanted["loads"]:
        crew.post(
            "loads/add",
            title=load["title"],
            running=f"{load['running_w']:g}",
            surge=f"{load['surge_w']:g}",
            leg=load["leg"],
            side=load["side"],
        )
    for face in wanted["faces"]:
        add(crew, "faces", {**face, "width_mm": face["width_mm"] or 9000.0, "height_mm": face["height_mm"] or 4500.0})
        for obstacle in face["obstacles"]:
            add(crew, f"faces.{face['id']}.obstacles", obstacle)
    for string in wanted["strings"]:
        add(crew, "strings", string)
    for opening in wanted["walls"][0]["openings"]:
        add(crew, "walls.wall.openings", opening)
    for window in wanted["settings"]["tariff"]:
        add(crew, "settings.tariff", window)
    for device in wanted["modbus"]["devices"]:
        add(crew, "modbus.devices", device)
    if wanted["walls"][0]["board"]:
        add(crew, "walls.wall.board", wanted["walls"][0]["board"])
    # The wall is measured before a box is hung on it.
    named = ("id", "title", "story", "cards")
    # What a house of this kind is never asked (a grid's questions off the grid) is not part of building it.
    job = Job.model_validate({**wanted, "id": "x"})
    asked = {q.path for q in questions_of(job)}
    silent = {f"{'walls.wall' if section == 'wall' else section}.{field}" for section, field, *_ in ASKED} - asked
    lacking: list[Decision] = []
    for _ in range(3):
        rows = [d for d in changed_fields(document(crew), wanted) if d.path.split(".")[0] not in named and d.path not in silent]
        if not rows:
            lacking = []
            break
        fields = offered(crew)
        lacking = [d for d in rows if _path(d.path) not in fields and d.after not in (None, [], "") and "placements" not in d.path]
        for d in rows:
            path = _path(d.path)
            if path not in fields:
                continue
            value = _value(wanted, path) if path == "banks.bank.lead_as_made" else d.after
            text = typed.written(field_at(job, path), value)
            answer = crew.edit(path, text, station=fields[path])
            assert answer.status_code == 200, (path, text, re.findall(r'class="problem"[^>]*>([^<]+)', answer.text))
        hung = {p["id"] for p in document(crew)["walls"][0]["placements"]}
        for place in wanted["walls"][0]["placements"]:
            if place["id"] not in hung:
                add(crew, "walls.wall.placements", place)
    assert [d.path for d in lacking] == [], "fields of the house that no page offers"
    left = [d for d in changed_fields(document(crew), wanted) if d.path.split(".")[0] not in named and d.path not in silent]
    assert [(d.path, d.before, d.after) for d in left] == []
    built = Job.model_validate(document(crew))
    plan, model = derive(built, shelf()), derive(Job.model_validate({**wanted, "id": "x"}), shelf())
    assert plan.stops == ()
    assert plan.gaps == ()
    assert {k: f.value for k, f in plan.figures.items()} == {k: f.value for k, f in model.figures.items()}


def _path(path: str) -> str:
    return "banks.bank.lead_as_made" if path.startswith("banks.bank.lead_as_made") else path


def _value(data: Any, path: str) -> Any:
    return read_path(data, path)

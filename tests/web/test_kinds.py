"""Every house of every kind: all its pages, its working panels and its pack."""

from __future__ import annotations

import re
from urllib.parse import unquote

import pytest

from gumboot.catalogue import demo_houses
from gumboot.core.standing import STATION_IDS
from tests.web.conftest import Crew

HOUSES = [path.name.removesuffix(".gumboot.json") for path in demo_houses() if not path.name.startswith("d1-")]


@pytest.mark.parametrize("house", HOUSES)
def test_every_station_draws_without_gap_or_stop(petra: Crew, house: str) -> None:
    opened: set[str] = set()
    held = {act["id"] for act in petra.client.get(f"/api/jobs/{house}/acts").json()["acts"] if act["held_by"]}
    for station in STATION_IDS:
        answer = petra.client.get(f"/jobs/{house}/{station}")
        assert answer.status_code == 200, station
        page = answer.text
        assert f'data-station="{station}"' in page
        assert " style=" not in page
        # Nothing is offered that its gate holds back.
        offered = {unquote(act).replace("/", ":", 1) for act in re.findall(rf'action="/jobs/{house}/records/([^"]+)"', page)}
        assert not offered & held, station
        assert "None" not in re.sub(r"<[^>]+>", " ", page), station
        assert not re.search(r"(?<![\w-])(nan|NaN|inf)(?![\w-])", page), station
        for key in sorted(set(re.findall(r'data-figure="([^"]+)"', page)) - opened)[:2]:
            opened.add(key)
            assert petra.client.get(f"/jobs/{house}/working", params={"figure": key}).status_code == 200, key


@pytest.mark.parametrize("house", ["d2-schoolhouse", "d4-lookout", "k09-terrace"])
def test_the_pack_prints(petra: Crew, house: str) -> None:
    answer = petra.client.get(f"/jobs/{house}/download/pack.pdf")
    assert answer.status_code == 200
    assert answer.content.startswith(b"%PDF")


def test_the_book_and_its_words_stand_on_the_page(petra: Crew) -> None:
    page = petra.client.get("/jobs/d2-schoolhouse/circuits").text
    assert "AS/NZS 3000" in page
    assert "three phase 230/400 V" in page
    assert "125 %" not in page
    assert "Method of Grid feed" in page


def test_no_grid_no_grid_question(petra: Crew) -> None:
    page = petra.client.get("/jobs/d4-lookout/survey").text
    assert "Prospective fault current" not in page
    assert "earth electrode of the installation" in page


def test_new_answers_are_edited_on_the_pages(petra: Crew) -> None:
    for path, value, kind, unit, stored in (
        ("site.rapid_shutdown", "no", "flag", "", False),
        ("site.rapid_shutdown", "yes", "flag", "", True),
        ("runs.grid.raceway", "EMT", "choice", "", "EMT"),
        ("runs.grid.raceway", "", "choice", "", None),
        ("runs.grid.raceway_size", "1", "text", "", "1"),
        ("runs.pv-pv1.roof_height_mm", "1/2", "number", "mm", "refused"),
        ("runs.pv-pv1.roof_height_mm", "0.5 in", "number", "mm", 12.7),
        ("runs.grid.material", "gold", "choice", "", "refused"),
        ("runs.grid.sets", "9", "number", "", "refused"),
        ("string_fuse_a", "15 A", "number", "A", 15.0),
        ("pv_mode", "parallel", "choice", "", "parallel"),
        ("settings.equalise", "yes", "flag", "", True),
        ("walls.wall.habitable_behind", "yes", "flag", "", True),
    ):
        answer = petra.edit(path, value, kind=kind, unit=unit, station="circuits")
        if stored == "refused":
            assert answer.status_code == 422, path
        else:
            assert answer.status_code == 200, (path, answer.text[:300])
            job = petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").json()
            node = job
            for part in path.split("."):
                node = next(i for i in node if i["id"] == part) if isinstance(node, list) else node[part]
            assert node == stored, path


def test_a_no_becomes_a_stop_with_a_way_back(petra: Crew) -> None:
    page = petra.edit("site.rapid_shutdown", "no", kind="flag", station="survey").text
    assert "PV-SHUTDOWN" in petra.get("strings")
    assert "f-site-rapid_shutdown" in page


def test_every_station_opens_where_the_walls_alone_tell_the_air(petra: Crew) -> None:
    for path, value in (("walls.wall.air_low_c", "-5"), ("walls.wall.air_high_c", "31"), ("site.room_low_c", ""), ("site.room_high_c", "")):
        assert petra.edit(path, value, kind="number", unit="°C", station="wall").status_code == 200, path
    for station in STATION_IDS:
        assert petra.client.get(f"/jobs/{petra.job}/{station}").status_code == 200, station
    assert "in.walls.wall.air_low_c" in petra.client.get(f"/jobs/{petra.job}/bank").text

"""Places that are proposed on a page, and taken."""

from __future__ import annotations

import re
from collections.abc import Callable

from tests.web.conftest import Crew


def test_places_are_proposed_with_their_reasons_and_taken(petra: Crew) -> None:
    assert "Propose places" in petra.get("wall")
    part = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert "would hang elsewhere" in part
    assert "every carrying hole on a stud" in part
    figures = re.findall(r'data-figure="(placing\.[a-z]+)"', part)
    assert set(figures) == {"placing.before", "placing.after"}
    for key in figures:
        assert "Cable between the boxes" in petra.client.get(f"/jobs/{petra.job}/working", params={"figure": key}).text
    assert petra.post("wall/place").status_code == 200
    page = petra.get("wall")
    assert "Clear" in page
    again = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert "Nothing better was found" in again
    refused = petra.post("wall/place")
    assert refused.status_code == 422
    assert "Nothing better than what is planned" in refused.text


def test_what_stays_is_said_where_it_hangs(petra: Crew) -> None:
    petra.edit("walls.wall.placements.bat-3.pinned", "yes")
    part = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert "would hang elsewhere" in part
    assert "bat-3" not in part[: part.index("would hang elsewhere")]


def test_an_apprentice_looks_and_takes_nothing(crew: Callable[[str], Crew]) -> None:
    abel = crew("abel")
    assert abel.client.get(f"/jobs/{abel.job}/part/placing").status_code == 200
    assert abel.post("wall/place").status_code == 403


def test_a_house_without_a_measured_wall_is_told_what_it_waits_for(petra: Crew) -> None:
    petra.edit("walls.wall.width_mm", "")
    assert "Measure a wall" in petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert petra.post("wall/place").status_code == 422

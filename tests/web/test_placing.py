"""Places that are proposed on a page, and taken."""

from __future__ import annotations

import re
from collections.abc import Callable

from tests.web.conftest import Crew


def shown_in(part: str) -> str:
    """What the button of a proposal would take."""
    found = re.search(r'name="shown" value="([^"]+)"', part)
    assert found is not None
    return found[1]


def job_of(who: Crew) -> str:
    """The job as it stands, whole."""
    return str(who.client.get(f"/jobs/{who.job}/download/job.gumboot.json").text)


def test_places_are_proposed_with_their_reasons_and_taken(petra: Crew) -> None:
    assert "Propose places" in petra.get("wall")
    part = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert "would hang elsewhere" in part
    assert "every carrying hole on a stud" in part
    figures = re.findall(r'data-figure="(placing\.[a-z]+)"', part)
    assert set(figures) == {"placing.before", "placing.after"}
    for key in figures:
        assert "Cable between the boxes" in petra.client.get(f"/jobs/{petra.job}/working", params={"figure": key}).text
    assert petra.post("wall/place", shown=shown_in(part)).status_code == 200
    page = petra.get("wall")
    assert "Clear" in page
    again = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert "Nothing better was found" in again
    refused = petra.post("wall/place", shown=shown_in(part))
    assert refused.status_code == 422
    assert "Nothing better than what is planned" in refused.text


def test_only_the_places_that_were_shown_are_taken(petra: Crew) -> None:
    part = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    petra.edit("walls.wall.placements.bat-3.pinned", "yes")
    before = job_of(petra)
    refused = petra.post("wall/place", shown=shown_in(part))
    assert refused.status_code == 422
    assert "was changed since those places were shown" in refused.text
    assert job_of(petra) == before
    anew = petra.client.get(f"/jobs/{petra.job}/part/placing").text
    assert petra.post("wall/place", shown=shown_in(anew)).status_code == 200
    assert job_of(petra) != before


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

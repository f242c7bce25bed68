"""Several rooms in one house: each thing is judged by the air of the wall that it hangs on."""

from __future__ import annotations

from typing import Any

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.job.air import coldest_air, hottest_air
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.study.fit import fits


def two_rooms(*, cellar: tuple[float | None, float | None], hall: tuple[float | None, float | None] = (None, None)) -> dict[str, Any]:
    """The saltmarsh house with its batteries on a wall of the cellar; coldest and hottest air of the cellar, and of the other wall."""
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    first = document["walls"][0]
    batteries = [p for p in first["placements"] if p["id"].startswith("bat-")]
    assert batteries
    first["placements"] = [p for p in first["placements"] if not p["id"].startswith("bat-")]
    document["walls"].append({**first, "id": "cellar", "title": "Cellar", "placements": batteries})
    for wall, (low, high) in zip(document["walls"], (hall, cellar), strict=True):
        wall.update(air_low_c=low, air_high_c=high)
    return document


def plan_of(document: dict[str, Any]) -> Plan:
    return derive(Job.model_validate(document), shelf())


def found(plan: Plan, code: str) -> list[str]:
    return [f.field for f in plan.findings if f.code == code]


def test_batteries_in_a_cold_cellar_are_judged_by_its_air() -> None:
    """Charging from 0 °C; the site falls to what suits them."""
    assert found(plan_of(two_rooms(cellar=(0, None))), "BANK-COLD") == []
    cold = plan_of(two_rooms(cellar=(-0.1, None)))
    assert found(cold, "BANK-COLD") == ["walls.cellar.air_low_c"]
    assert cold.figures["bank.usable_cold"].value < plan_of(two_rooms(cellar=(15, None))).figures["bank.usable_cold"].value
    # The inverter hangs in the hall, and the hall says nothing of its own: the site's air is its own.
    assert found(cold, "SITE-COLD") == []


def test_a_warm_room_frees_what_stands_in_it_from_the_air_of_the_site() -> None:
    document = two_rooms(cellar=(5, 30))
    document["site"]["room_low_c"] = -39
    plan = plan_of(document)
    assert found(plan, "BANK-COLD") == []
    assert found(plan, "SITE-COLD") == ["site.room_low_c"]
    # With an answer for each wall the site's stands for nothing that hangs.
    document = two_rooms(cellar=(5, 30), hall=(3, 29))
    document["site"]["room_low_c"] = -39
    assert found(plan_of(document), "SITE-COLD") == []


def test_the_hottest_air_is_that_of_the_inverters_wall() -> None:
    most = plan_of(two_rooms(cellar=(None, None))).seats.inverter.ambient_max_c
    assert found(plan_of(two_rooms(cellar=(5, 60))), "SITE-HOT") == []
    assert found(plan_of(two_rooms(cellar=(5, 20), hall=(5, most))), "SITE-HOT") == []
    assert found(plan_of(two_rooms(cellar=(5, 20), hall=(5, most + 0.1))), "SITE-HOT") == ["walls.wall.air_high_c"]


def test_batteries_in_a_hot_room_are_judged_by_its_air() -> None:
    most = 50.0
    assert found(plan_of(two_rooms(cellar=(5, most))), "BANK-HOT") == []
    assert found(plan_of(two_rooms(cellar=(5, most + 0.1))), "BANK-HOT") == ["walls.cellar.air_high_c"]
    # The hall alone is hot: nothing is charged there.
    assert found(plan_of(two_rooms(cellar=(5, 20), hall=(5, most + 5))), "BANK-HOT") == []
    offered = next(
        row for row in fits(Job.model_validate(two_rooms(cellar=(5, most + 1))), shelf(), "battery") if row.card.id == "cobble-5"
    )
    assert "BANK-HOT" in offered.codes


def test_an_open_answer_of_the_site_stays_open_where_a_thing_hangs_without_one() -> None:
    document = two_rooms(cellar=(5, None))
    document["site"].update(room_low_c=None, room_high_c=None)
    job = Job.model_validate(document)
    assert coldest_air(job, ["bat-1"]) == (5, "walls.cellar.air_low_c")
    assert coldest_air(job, ["bat-1", "inverter"]) == (None, "site.room_low_c")
    assert hottest_air(job, ["bat-1"]) == (None, "site.room_high_c")
    # What hangs on no wall stands in the air of the site.
    assert coldest_air(job, ["nowhere"]) == (None, "site.room_low_c")
    document["site"]["room_low_c"] = 1.0
    job = Job.model_validate(document)
    assert coldest_air(job, ["bat-1", "nowhere"]) == (1.0, "site.room_low_c")
    assert coldest_air(job, ["bat-1", "bat-2"]) == (5, "walls.cellar.air_low_c")


def test_the_fit_list_asks_by_the_same_air() -> None:
    """A battery that is not charged below 0 °C fits the warm cellar of a cold site, and not the cold one of a warm site."""
    warm, cold = two_rooms(cellar=(5, 30)), two_rooms(cellar=(-5, 30))
    warm["site"]["room_low_c"] = -20
    good, refused = (
        next(row for row in fits(Job.model_validate(document), shelf(), "battery") if row.card.id == "cobble-5")
        for document in (warm, cold)
    )
    assert good.fits
    assert refused.codes == ("BANK-COLD",)


def test_air_that_is_told_the_wrong_way_round_is_a_stop() -> None:
    assert found(plan_of(two_rooms(cellar=(20, 20))), "SITE-SPAN") == []
    assert found(plan_of(two_rooms(cellar=(20.1, 20))), "SITE-SPAN") == ["walls.cellar.air_high_c"]
    site = two_rooms(cellar=(None, None))
    site["site"].update(room_low_c=30, room_high_c=10)
    assert found(plan_of(site), "SITE-SPAN") == ["site.room_high_c"]

"""The pages of houses whose inverters feed apart, and of houses with several boards."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.catalogue import shelf
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.standing import STATION_IDS
from gumboot.store import jobs, records
from tests.core.test_several_boards import barn, fed, two_switches
from tests.core.test_standing import everything
from tests.helpers import beside
from tests.web.conftest import Crew


def metered() -> dict[str, Any]:
    """Two parts with a set of CTs each, behind a supply that is large enough: nothing is measured under a plan that has a stop."""
    house = beside("d1-saltmarsh", "g01-cooperage", cts=True)[0]
    next(t for t in house["things"] if t["id"] == "main-board")["card"] = "house-board-200"
    return house | {"site": house["site"] | {"service_main_a": 90.0, "busbar_a": 200.0}}


HOUSES = {
    "islands": lambda: beside("d1-saltmarsh", "g01-cooperage")[0],
    "barn": lambda: barn("lights"),
    "switches": two_switches,
    "feeder": fed,
    "metered": metered,
}


def standing_in(engine: Engine, petra: Crew, name: str) -> Crew:
    job = Job.model_validate({**HOUSES[name](), "id": f"{petra.job}-{name}"})
    with Session(engine) as db:
        jobs.create_job(db, job, "demo")
        db.commit()
    return Crew(petra.client, job.id, petra.csrf)


@pytest.fixture
def apart(engine: Engine, petra: Crew) -> Crew:
    """Petra on a house of two islands."""
    return standing_in(engine, petra, "islands")


def document(crew: Crew) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(crew.client.get(f"/jobs/{crew.job}/download/job.gumboot.json").text)
    return found


@pytest.mark.parametrize("name", list(HOUSES))
def test_every_station_and_part_is_answered(engine: Engine, petra: Crew, name: str) -> None:
    crew = standing_in(engine, petra, name)
    for station in STATION_IDS:
        assert crew.client.get(f"/jobs/{crew.job}/{station}").status_code == 200, station
    for part in ("year", "picks", "layouts", "material"):
        assert crew.client.get(f"/jobs/{crew.job}/part/{part}").status_code == 200, part


def test_each_island_has_its_beams_its_hours_its_pick_and_its_year(apart: Crew) -> None:
    page = apart.client.get(f"/jobs/{apart.job}/loads").text
    for words in (
        "inverter: sub-board",
        "Inverter 1: sub-board-x",
        'data-figure="loads.running.L1"',
        'data-figure="loads.running.L1.of_inv-1-x"',
    ):
        assert words in page, words
    year = apart.client.get(f"/jobs/{apart.job}/part/year").text
    keys = set(re.findall(r'data-figure="([^"]+)"', year))
    assert {"year.pv", "island|inv-1-x|year.pv", "outage.field.3.6", "island|inv-1-x|outage.field.3.6"} <= keys
    # Whatever stands in the parts opens, and opens as the figure of its own island.
    picks = set(re.findall(r'data-figure="([^"]+)"', apart.client.get(f"/jobs/{apart.job}/part/picks").text))
    assert any(key.startswith("island|inv-1-x|") for key in picks)
    for key in sorted(keys | picks)[::40]:
        assert apart.client.get(f"/jobs/{apart.job}/working", params={"figure": key, "station": "loads"}).status_code == 200, key
    own = apart.client.get(f"/jobs/{apart.job}/working", params={"figure": "island|inv-1-x|year.pv", "station": "loads"}).text
    first = apart.client.get(f"/jobs/{apart.job}/working", params={"figure": "year.pv", "station": "loads"}).text
    assert re.findall(r"[\d\s]+ kWh", own)[:1] != re.findall(r"[\d\s]+ kWh", first)[:1]
    nobody = apart.client.get(f"/jobs/{apart.job}/working", params={"figure": "island|nobody|year.pv", "station": "loads"})
    assert nobody.status_code == 404


def test_the_pick_of_an_island_is_put_on_its_own_board(apart: Crew) -> None:
    before = {x["id"]: x for x in document(apart)["loads"]}
    assert apart.post("loads/pick", legs="free", island="inv-1-x").status_code == 200
    after = {x["id"]: x for x in document(apart)["loads"]}
    came = [x for x in after.values() if x["side"] == "backed" and before[x["id"]]["side"] == "house"]
    assert came
    assert {x["board"] for x in came} == {"sub-board-x"}
    # The other island keeps what it had.
    assert [x for x in after.values() if x["board"] == "" and x["side"] == "backed"] == [
        x for x in before.values() if x["board"] == "" and x["side"] == "backed"
    ]


def test_a_load_is_put_on_another_board_and_on_none_that_is_not_there(apart: Crew) -> None:
    assert "add-board" in apart.client.get(f"/jobs/{apart.job}/loads").text
    apart.post("loads/add", title="Kiln", running="900", leg="L1", side="backed", board="sub-board-x")
    assert next(x for x in document(apart)["loads"] if x["id"] == "kiln")["board"] == "sub-board-x"
    refused = apart.post("edit", path="loads.kiln.board", value="attic", base="2", station="loads")
    assert refused.status_code == 422
    assert "no backed-up board of this job" in refused.text
    moved = apart.post("edit", path="loads.kiln.board", value="", base="2", station="loads")
    assert moved.status_code == 200
    assert next(x for x in document(apart)["loads"] if x["id"] == "kiln")["board"] == ""


def test_an_inverter_with_a_board_of_its_own_is_added_and_its_board_taken_out(petra: Crew) -> None:
    added = petra.post("things/another", like="inverter", seen="1", own="board")
    assert added.status_code == 200
    things = {t["id"]: t for t in document(petra)["things"]}
    assert (things["inverter-2"]["feeds"], things["inverter-2"]["bank"], things["inverter-2"]["address"]) == ("sub-board-2", "bank-2", 0)
    assert things["inverter"]["address"] == 0
    twice = petra.post("things/another", like="inverter", seen="1", own="board")
    assert twice.status_code == 422
    for station in STATION_IDS:
        assert petra.client.get(f"/jobs/{petra.job}/{station}").status_code == 200, station
    petra.post("loads/add", title="Kiln", running="900", leg="L1", side="backed", board="sub-board-2")
    held = petra.post("things/fit", path="things.sub-board-2.card", value="")
    assert held.status_code == 422
    assert "things.inverter-2.feeds names" in held.text
    petra.post("things/fit", path="things.inverter-2.card", value="")
    assert "No inverter feeds sub-board-2" in petra.client.get(f"/jobs/{petra.job}/circuits").text
    petra.post("things/fit", path="things.sub-board-2.card", value="")
    left = document(petra)
    assert [t["id"] for t in left["things"] if t["seat"] == "board"] == ["main-board", "sub-board"]
    # What hung on the board that went is left to the grid until somebody says otherwise.
    kiln = next(x for x in left["loads"] if x["id"] == "kiln")
    assert (kiln["side"], kiln["board"]) == ("house", "")


def test_boards_and_switches_are_added_from_the_list(engine: Engine, petra: Crew) -> None:
    crew = standing_in(engine, petra, "switches")
    page = crew.client.get(f"/jobs/{crew.job}/survey").text
    for words in ("Add a board behind", "Add a main board behind", "Add another switch-a"):
        assert words in page, words
    assert crew.post("things/another-box", like="switch-a", seen="2").status_code == 200
    assert crew.post("things/another-box", like="switch-a", seen="2").status_code == 422
    assert crew.post("things/another-box", like="main-board", seen="1").status_code == 200
    assert crew.post("things/another-box", like="panel", seen="1").status_code == 404
    things = {t["id"]: t for t in document(crew)["things"]}
    assert (things["switch-a-2"]["fed_from"], things["switch-a-2"]["feeds"]) == ("panel", "sub-board-2")
    assert things["main-board-2"]["fed_from"] == "main-board"
    petra.post("things/fit", path="things.main-board.card", value="house-board-125")
    lone = petra.post("things/fit", path="things.transfer.card", value="siding-60")
    assert lone.status_code == 200
    assert petra.post("things/another-box", like="transfer", seen="1").status_code == 422


def test_an_island_that_is_gone_is_refused_and_another_s_rights_hold(apart: Crew, crew: Callable[[str], Crew]) -> None:
    before = document(apart)["loads"]
    for act in ("loads/pick", "loads/balance"):
        gone = apart.post(act, island="inverter-9")
        assert gone.status_code == 422
        assert "inverter-9 leads no island of this house any more" in gone.text
    assert document(apart)["loads"] == before
    for name in ("lena", "abel", "ivo"):
        other = crew(name)
        own = Crew(other.client, apart.job, other.csrf)
        refused = own.post("things/another-box", like="sub-board", seen="2")
        allowed = own.post("edit", path="title", value="Mine", base="1", station="survey")
        # Whoever may edit may add, and nobody else.
        assert (refused.status_code == 403) is (allowed.status_code == 403)


@pytest.mark.parametrize("field", ["bonded", "opposite_ends"])
def test_what_is_asked_of_a_main_board_behind_another_can_be_answered(engine: Engine, petra: Crew, field: str) -> None:
    crew = standing_in(engine, petra, "feeder")
    page = crew.client.get(f"/jobs/{crew.job}/survey").text
    asked = re.search(rf'<select id="f-things-annex-{field}".*?</select>', page, re.DOTALL)
    assert asked is not None
    assert {"yes", "no"} <= set(re.findall(r'<option value="(\w*)"', asked[0]))
    assert crew.edit(f"things.annex.{field}", "yes").status_code == 200
    assert next(t for t in document(crew)["things"] if t["id"] == "annex")[field] is True


SHOWN = {"before-CT1": 0, "before-CT2": 0, "l1-CT1": 1500, "l1-CT2": 0, "l2-CT1": 0, "l2-CT2": 600}
READ = {f"{name}-inv-1-x": f"{watts}" for name, watts in SHOWN.items()}


@pytest.fixture
def ivo(engine: Engine, petra: Crew, crew: Callable[[str], Crew]) -> Crew:
    """Ivo on a house of two parts with a set of CTs each."""
    job, other = standing_in(engine, petra, "metered").job, crew("ivo")
    return Crew(other.client, job, other.csrf)


def test_each_set_of_cts_is_shown_and_tested_by_itself(ivo: Crew) -> None:
    crew = ivo
    page = crew.client.get(f"/jobs/{crew.job}/sensing").text
    for words in ("CTs of inverter", "CTs of Inverter 1", "Meter test of Inverter 1", "Current transformers of Inverter 1 on the service"):
        assert words in page, words
    for field in ("meter-cts-CT1-leg", "meter-x-cts-CT1-leg"):
        assert f'id="f-sensing-meters-{field}"' in page, field
    assert page.count("Not yet: nothing flows through the cores before") == 2
    early = crew.post("records/ct/test-inv-1-x", **READ)
    assert early.status_code == 422
    assert "Close the grid breaker of Inverter 1" in early.text
    assert crew.post("records/ct/test-nobody", **READ).status_code == 404


def test_a_reading_that_cannot_be_read_is_named_beside_its_own_set(engine: Engine, ivo: Crew) -> None:
    crew, plan = ivo, derive(Job.model_validate(metered()), shelf())
    with Session(engine) as db:
        for n, each in enumerate(r for r in everything(plan, datetime.now(UTC) - timedelta(hours=1)) if not r.act.startswith("meter:")):
            made = each.model_copy(update={"id": f"all-{n:04}-{crew.job[-20:]}"})
            records.add_record(db, crew.job, records.Sent(made.id, made.kind, made.act, {}, "Ivo"), made)
        db.commit()
    refused = crew.post("records/ct/test-inv-1-x", **{**READ, "l2-CT2-inv-1-x": "blank"})
    assert refused.status_code == 422
    assert 'id="problem-l2-CT2-inv-1-x"' in refused.text
    said = crew.post("records/ct/test-inv-1-x", **READ)
    assert said.status_code == 200
    assert said.text.count("The meter tells the truth.") == 1
    assert "CT1 changed by 1500 W: right." in said.text


def test_a_set_wired_to_a_follower_is_wired_to_its_leader_on_the_page(engine: Engine, petra: Crew) -> None:
    crew = standing_in(engine, petra, "metered")
    assert crew.edit("sensing.meters.meter-x.inverter", "inv-2-x").status_code == 200
    page = crew.client.get(f"/jobs/{crew.job}/sensing").text
    assert "Inverter 1 leads the group" in page or "inv-1-x leads the group" in page
    asked = re.search(r'<select id="f-sensing-meters-meter-x-inverter".*?</select>', page, re.DOTALL)
    assert asked is not None
    assert set(re.findall(r'<option value="([\w-]+)"', asked[0])) == {"inverter", "inv-1-x", "inv-2-x"}
    assert crew.edit("sensing.meters.meter-x.inverter", "inv-1-x").status_code == 200
    assert "leads the group and reads" not in crew.client.get(f"/jobs/{crew.job}/sensing").text


def test_a_set_is_taken_out_and_another_fitted(engine: Engine, petra: Crew) -> None:
    crew = standing_in(engine, petra, "metered")
    assert crew.post("list/remove", path="sensing.meters", item="meter-x", station="sensing").status_code == 200
    page = crew.client.get(f"/jobs/{crew.job}/sensing").text
    assert "Inverter 1 takes the grid in and has inputs for CTs" in page
    assert "Fit another set" in page
    # What the caution names as its field is on the page: its link leads there.
    assert 'data-cure="sensing.meters"' in page
    assert 'id="f-sensing-meters"' in page
    added = crew.post("list/add", **{"path": "sensing.meters", "station": "sensing", "item.inverter": "inv-1-x"})
    assert added.status_code == 200
    for reader, words in (("inv-1-x", "inv-1-x has a set of CTs already"), ("inv-9", "no inverter &#39;inv-9&#39; any more")):
        twice = crew.post("list/add", **{"path": "sensing.meters", "station": "sensing", "item.inverter": reader})
        assert twice.status_code == 422
        assert words in twice.text
    meters = document(crew)["sensing"]["meters"]
    assert [(m["inverter"], m["card"], m["cts"]) for m in meters][1:] == [("inv-1-x", None, [])]
    assert "Which current transformers are fitted, Inverter 1?" in crew.client.get(f"/jobs/{crew.job}/survey").text
    path = f"sensing.meters.{meters[1]['id']}.card"
    assert crew.edit(path, meters[0]["card"]).status_code == 200
    assert [c["channel"] for c in document(crew)["sensing"]["meters"][1]["cts"]] == ["CT1", "CT2"]
    # The last one stays: a job has one.
    for item in (meters[1]["id"], "meter"):
        left = crew.post("list/remove", path="sensing.meters", item=item, station="sensing")
    assert left.status_code == 422
    assert len(document(crew)["sensing"]["meters"]) == 1

"""The pages of a house whose inverters hang on banks of their own."""

from __future__ import annotations

import json

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.core.job import Job
from gumboot.core.standing import STATION_IDS
from gumboot.store import jobs
from tests.core.test_plates import strings_of_blocks
from tests.helpers import bank_each
from tests.web.conftest import Crew


@pytest.fixture
def cooperage(engine: Engine, petra: Crew) -> Crew:
    """Petra on a job of two banks."""
    job = Job.model_validate({**bank_each(), "id": f"{petra.job}-b"})
    with Session(engine) as db:
        jobs.create_job(db, job, "demo")
        db.commit()
    return Crew(petra.client, job.id, petra.csrf)


@pytest.mark.parametrize(
    ("station", "says"),
    [
        ("bank", ("bank-2", "Main leads of inv-2", "Usable at the cells", "Room to grow")),
        ("links", ("Battery lead, bank-2", "at Inverter 2", "banks.bank-2.inverter_protocol")),
        ("settings", ("Charge limit, bank-2", "Absorb, bank-2")),
        ("prove", ("Voltage of bat-3", "Largest difference between battery voltages, bank-2")),
        ("power-up", ("Switch on bat-3, the leader", "the battery&#39;s, bank-2")),
        ("live-checks", ("State of charge at inverter and battery, bank-2",)),
        ("survey", ("busbar-2",)),
        *((station, ()) for station in STATION_IDS),
    ],
)
def test_every_station_shows_each_bank(cooperage: Crew, station: str, says: tuple[str, ...]) -> None:
    page = cooperage.client.get(f"/jobs/{cooperage.job}/{station}")
    assert page.status_code == 200
    for words in says:
        assert words in page.text, words


def test_a_battery_is_added_to_the_bank_that_is_named_and_its_spread_cannot_be_typed(cooperage: Crew, ivo: Crew) -> None:
    added = cooperage.post("list/add", path="banks.bank-2.units")
    assert added.status_code == 200
    document = json.loads(cooperage.client.get(f"/jobs/{cooperage.job}/download/job.gumboot.json").text)
    assert [len(bank["units"]) for bank in document["banks"]] == [2, 3]
    own = Crew(ivo.client, cooperage.job, ivo.csrf)
    assert own.post("records/measurement/pack-bat-3", value="52.1").status_code == 200
    assert own.post("records/measurement/pack-spread-bank-2", value="0.1").status_code == 404


def test_a_layout_is_taken_for_both_inverters_and_each_string_shows_its_own_volts(cooperage: Crew) -> None:
    lays = "PV1:south:10:1:0,PV2:south:10:1:0,PV1 inv-2:west:8:1:0"
    assert cooperage.post("strings/take", layout=lays).status_code == 200
    document = json.loads(cooperage.client.get(f"/jobs/{cooperage.job}/download/job.gumboot.json").text)
    assert [(s["tracker"], s["inverter"], s["modules"]) for s in document["strings"]] == [
        ("PV1", "inv-1", 10),
        ("PV2", "inv-1", 10),
        ("PV1", "inv-2", 8),
    ]
    page = cooperage.client.get(f"/jobs/{cooperage.job}/strings").text
    rows = [row.strip() for row in page.split("<tr>") if row.strip().startswith('<th scope="row">')]
    assert ["414.1 V" in row for row in rows if "S1<" in row[:30]] == [True]
    # Eight in series of 37.6 V, 39 K below 25 °C at 0.26 %/K.
    assert [f"{8 * 37.6 * (1 + 0.0026 * 39):.1f} V" in row for row in rows if "W1<" in row[:30]] == [True]
    part = cooperage.client.get(f"/jobs/{cooperage.job}/part/layouts").text
    assert 'name="n.PV1 inv-2"' in part
    assert cooperage.post("strings/take", layout="PV9:south:10:1:0").status_code == 422


def test_an_inverter_with_a_bank_of_its_own_is_added_and_taken_out_with_it(petra: Crew) -> None:
    with_one = petra.client.get(f"/jobs/{petra.job}/survey").text
    assert "bank of its own" not in with_one, "its maker does not let a group have several"
    petra.post("things/fit", path="things.inverter.card", value="plover-6p")
    page = petra.client.get(f"/jobs/{petra.job}/survey").text
    assert "Add one with a bank of its own" in page
    added = petra.post("things/another", like="inverter", seen="1", own="bank")
    assert added.status_code == 200
    job = json.loads(petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").text)
    assert [(bank["id"], len(bank["units"])) for bank in job["banks"]] == [("bank", 3), ("bank-2", 3)]
    assert [unit["dip_address"] for unit in job["banks"][1]["units"]] == [1, 2, 3]
    assert {t["id"]: t["bank"] for t in job["things"] if t["seat"] in ("inverter", "busbar")} == {
        "inverter": "bank",
        "inverter-2": "bank-2",
        "busbar": "bank",
        "busbar-2": "bank-2",
    }
    for station in STATION_IDS:
        assert petra.client.get(f"/jobs/{petra.job}/{station}").status_code == 200, station
    leading = petra.post("things/fit", path="things.inverter.card", value="")
    assert leading.status_code == 422
    assert "inverter leads inverter-2: take those out first" in leading.text
    petra.edit("things.inverter-2.bank", "bank")
    idle = petra.client.get(f"/jobs/{petra.job}/part/fits", params={"path": "banks.bank-2.card"}).text
    assert "Choose none" in idle
    assert "Choose none" not in petra.client.get(f"/jobs/{petra.job}/part/fits", params={"path": "banks.bank.card"}).text
    kept = petra.post("things/fit", path="banks.bank.card", value="")
    assert "inverter, inverter-2 hang on it" in kept.text
    petra.post("things/fit", path="banks.bank-2.card", value="")
    job = json.loads(petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").text)
    assert [bank["id"] for bank in job["banks"]] == ["bank"]
    petra.post("undo", station="survey")
    petra.post("undo", station="survey")
    petra.post("things/fit", path="things.inverter-2.card", value="")
    job = json.loads(petra.client.get(f"/jobs/{petra.job}/download/job.gumboot.json").text)
    assert [bank["id"] for bank in job["banks"]] == ["bank"]
    assert [t["id"] for t in job["things"] if t["seat"] == "busbar"] == ["busbar"]


def test_a_string_is_added_on_the_inverter_that_is_named_and_a_face_has_its_module_from_the_list(cooperage: Crew) -> None:
    assert "add-strings-inverter" in cooperage.client.get(f"/jobs/{cooperage.job}/strings").text
    typed = {"item.id": "W3", "item.inverter": "inv-2", "item.tracker": "PV1", "item.face": "west", "item.modules": "6"}
    cooperage.post("list/add", path="strings", station="strings", **typed)
    offered = cooperage.client.get(f"/jobs/{cooperage.job}/part/fits", params={"path": "faces.west.module"}).text
    assert "mica-330" in offered
    chosen = cooperage.post("edit", path="faces.west.module", value="mica-330", base="2", station="survey")
    assert chosen.status_code == 200
    job = json.loads(cooperage.client.get(f"/jobs/{cooperage.job}/download/job.gumboot.json").text)
    assert [s["inverter"] for s in job["strings"] if s["id"] == "W3"] == ["inv-2"]
    assert {f["id"]: f["module"] for f in job["faces"]}["west"] == "mica-330"
    assert "mica-330" in job["cards"]
    cooperage.post("edit", path="faces.west.module", value="", base="3", station="survey")
    job = json.loads(cooperage.client.get(f"/jobs/{cooperage.job}/download/job.gumboot.json").text)
    assert {f["id"]: f["module"] for f in job["faces"]}["west"] is None


def test_no_other_inverter_of_the_house_becomes_the_leader_over_the_api_either(cooperage: Crew) -> None:
    def sent(path: str, value: object) -> tuple[int, str]:
        head = {"X-CSRF-Token": cooperage.csrf}
        base = cooperage.client.get(f"/api/jobs/{cooperage.job}/revision").json()["revision"]
        answer = cooperage.client.patch(f"/api/jobs/{cooperage.job}", json={"path": path, "value": value, "base": base}, headers=head)
        return answer.status_code, answer.text

    things = json.loads(cooperage.client.get(f"/jobs/{cooperage.job}/download/job.gumboot.json").text)["things"]
    leader, follower = (t["id"] for t in things if t["seat"] == "inverter")
    without = [t for t in things if leader not in (t["id"], t.get("inverter"))]
    for changed in (without, list(reversed(things))):
        status, said = sent("things", changed)
        assert status == 422
        assert f"taken for that of {follower}. Leave {leader} the first inverter" in said
    assert cooperage.client.get(f"/api/jobs/{cooperage.job}/revision").json()["revision"] == 1
    # Whatever is no inverter may stand anywhere.
    rest = [t for t in things if t["seat"] != "inverter"]
    assert sent("things", [*rest, *(t for t in things if t["seat"] == "inverter")])[0] == 200


def test_strings_of_blocks_on_every_page(engine: Engine, petra: Crew) -> None:
    job = Job.model_validate({**strings_of_blocks(fuse_a=None), "id": f"{petra.job}-s"})
    with Session(engine) as db:
        jobs.create_job(db, job, "demo")
        db.commit()
    crew = Crew(petra.client, job.id, petra.csrf)
    pages = {station: crew.client.get(f"/jobs/{crew.job}/{station}") for station in STATION_IDS}
    assert [station for station, page in pages.items() if page.status_code != 200] == []
    for words in ("Strings side by side", "Fuse of each string", "8 × bat-9"):
        assert words in pages["bank"].text, words
    assert "fuse of the string of bat-9" in pages["power-up"].text
    # A fuse is no breaker: the rehearsal calls it by its name alone.
    assert "bat-9 breaker" not in pages["power-up"].text
    assert crew.edit("banks.bank.string_fuse_a", "150 A", kind="number", unit="A", station="bank").status_code == 200

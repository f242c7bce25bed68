"""The pages of a house whose inverters hang on banks of their own."""

from __future__ import annotations

import json

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from gumboot.core.job import Job
from gumboot.core.standing import STATION_IDS
from gumboot.store import jobs
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

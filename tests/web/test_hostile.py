"""Whatever is typed into whatever field, the answer is an answer: no 500, nothing lost."""

from __future__ import annotations

from typing import Any

import pytest

from gumboot.core.job import leaves
from gumboot.core.standing import STATION_IDS
from tests.helpers import edited
from tests.web.conftest import Crew

ODD = [
    "",
    "0",
    "-1",
    "1e9",
    "999999999",
    "nan",
    "inf",
    "1,250",
    "🦪",
    "<b>x</b>",
    "true",
    "[]",
    "' or 1=1 --",
    "a" * 500,
    "13 AWG",
    "nowhere",
    "slate-410",
    "\x00",
]


def _fields() -> list[tuple[str, Any]]:
    """Every field of the cottage with its value; of many things of one kind (its loads, its runs) the first."""
    found = dict[tuple[str, str], tuple[str, Any]]()
    for path, value in leaves(edited({}).model_dump(mode="json")):
        found.setdefault((path.partition(".")[0], path.rpartition(".")[2]), (path, value))
    return list(found.values())


@pytest.mark.parametrize("part", range(2))
def test_odd_values_in_every_field(petra: Crew, part: int) -> None:
    """Each answer is the station as it now stands; another station is asked for now and then beside it."""
    bad = []
    for n, (path, value) in list(enumerate(_fields()))[part::2]:
        kind = "flag" if isinstance(value, bool) else "number" if isinstance(value, (int, float)) or value is None else "text"
        answer = petra.edit(path, ODD[n % len(ODD)], kind=kind)
        if answer.status_code >= 500 or (n % 12 == part and petra.client.get(f"/jobs/{petra.job}/strings").status_code != 200):
            bad.append((path, ODD[n % len(ODD)], answer.status_code))
    assert bad == []


@pytest.mark.parametrize(("path", "value"), [
    ("runs.grid.installed_size", "13 AWG"), ("runs.grid.installed_earth", "banana"), ("banks.bank.card", "none"), ("banks.bank.card", "slate-410"), ("things.inverter.card", "larder-8"),
    ("things.sub-board.card", "trough-300"), ("banks.bank.units", None), ("banks.bank.units", []), ("loads", [1, 2]), ("walls.wall.board", "x"), ("site", None), ("tools", {}),
])  # fmt: skip
def test_values_no_plan_follows_from_are_refused(petra: Crew, path: str, value: Any) -> None:
    answer = petra.client.patch(
        f"/api/jobs/{petra.job}", json={"path": path, "value": value, "base": 1}, headers={"X-CSRF-Token": petra.csrf}
    )
    assert answer.status_code == 422
    assert petra.revision() == 1


def test_a_fourth_battery_without_a_terminal_is_refused_by_name(petra: Crew) -> None:
    unit = {"id": "bat-4", "dip_address": 4, "terminator": True, "protocol": 3}
    run = {"id": "bat-4", "length_m": 1.2, "ambient_c": 40}
    head = {"X-CSRF-Token": petra.csrf}
    assert petra.client.patch(f"/api/jobs/{petra.job}", json={"path": "runs.+", "value": run, "base": 1}, headers=head).status_code == 200
    answer = petra.client.patch(f"/api/jobs/{petra.job}", json={"path": "banks.bank.units.+", "value": unit, "base": 2}, headers=head)
    assert answer.status_code == 422
    assert "Trough 300 DC busbar box has no terminal BATTERIES bat-4 +" in answer.json()["detail"]


def test_a_battery_may_not_be_named_like_a_place(petra: Crew) -> None:
    answer = petra.client.patch(
        f"/api/jobs/{petra.job}",
        json={"path": "banks.bank.units.bat-1.id", "value": "inverter", "base": 1},
        headers={"X-CSRF-Token": petra.csrf},
    )
    assert answer.status_code == 422


def test_an_unstorable_character_is_refused_kindly(petra: Crew, ivo: Crew) -> None:
    assert petra.edit("site.utility_approval", "a\x00b", kind="text").status_code == 422
    assert ivo.post("records/setting/charge_a", value="a\x00b").status_code == 422
    assert petra.client.post("/sign-in", data={"name": "a\x00b", "password": "x"}).status_code == 422


@pytest.mark.parametrize("typed", ["5,200", "1,000 A"])
def test_a_comma_that_could_be_thousands_is_refused(petra: Crew, typed: str) -> None:
    answer = petra.edit("site.grid_fault_a", typed, unit="A", station="survey")
    assert answer.status_code == 422
    assert "without the comma" in answer.text


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("strings", []),
        ("loads", []),
        ("sensing.meters.meter.cts", []),
        ("settings.tariff", []),
        ("walls.wall.placements", []),
        ("walls.wall.board", None),
        ("faces", []),
        ("runs", []),
        ("tools", []),
        ("banks.bank.units.-bat-2", None),
        ("banks.bank.lead_as_made", []),
    ],
)
def test_every_station_of_a_bare_job(petra: Crew, path: str, value: Any) -> None:
    answer = petra.client.patch(
        f"/api/jobs/{petra.job}", json={"path": path, "value": value, "base": 1}, headers={"X-CSRF-Token": petra.csrf}
    )
    assert answer.status_code == 200
    for station in STATION_IDS:
        assert petra.client.get(f"/jobs/{petra.job}/{station}").status_code == 200, station
    assert petra.client.get(f"/api/jobs/{petra.job}/bag").status_code == 200
    if path in ("strings", "loads", "runs"):
        assert petra.client.get(f"/jobs/{petra.job}/download/pack.pdf").status_code == 200


@pytest.mark.parametrize("base", [0, -3, 99])
def test_an_edit_of_a_revision_that_is_not_there_says_so(petra: Crew, base: int) -> None:
    head = {"X-CSRF-Token": petra.csrf}
    body = {"path": "runs.grid.length_m", "value": 9.5, "base": base}
    answer = petra.client.patch(f"/api/jobs/{petra.job}", json=body, headers=head)
    assert answer.status_code == 422
    assert f"Revision {base} of this job is not there; the newest is 1." in answer.json()["detail"]
    typed = petra.post("edit", path="runs.grid.length_m", value="9.5", base=str(base), station="circuits")
    assert typed.status_code == 422
    assert petra.revision() == 1

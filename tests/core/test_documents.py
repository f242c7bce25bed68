"""Documents of every format that was ever shipped are read, mean what they meant, and keep the names that records know."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.core.job import Job
from gumboot.core.job.fitting import another, fit, has
from gumboot.core.job.patch import BadPath
from gumboot.core.job.upgrade import upgraded
from gumboot.core.plan.derive import derive
from gumboot.documents.tables import job_json

HERE = Path(__file__).parents[1] / "documents"
OLD = sorted((HERE / "job-1").glob("*.gumboot.json"))
SUBJECTS: dict[str, dict[str, list[str]]] = json.loads((HERE / "job-1" / "subjects.json").read_text())


def name_of(path: Path) -> str:
    return path.name.removesuffix(".gumboot.json")


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_a_house_of_format_1_is_read_as_the_house_of_today(path: Path) -> None:
    assert Job.model_validate_json(path.read_text()) == demo_house(name_of(path))


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_records_of_format_1_still_find_their_subjects(path: Path) -> None:
    plan = derive(Job.model_validate_json(path.read_text()), shelf())
    known = SUBJECTS[name_of(path)]
    assert known["terminations"] == [t.id for t in plan.terminations]
    assert known["checks"] == [c.id for c in plan.all_checks()]
    assert known["steps"] == [s.id for s in plan.power_up.steps]
    assert known["settings"] == [row.key for row in plan.settings.sheet]


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_written_read_and_written_again_is_byte_for_byte_the_same(path: Path) -> None:
    once = job_json(Job.model_validate_json(path.read_text()))
    assert job_json(Job.model_validate_json(once)) == once
    assert upgraded(json.loads(once)) == json.loads(once)


def test_an_unknown_format_is_refused_by_name() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    with pytest.raises(ValidationError, match=r"gumboot\.job/2"):
        Job.model_validate({**document, "format": "gumboot.job/9"})


def test_the_oldest_documents_say_no_ct_and_no_grid() -> None:
    old = json.loads((HERE / "job-1" / "d4-lookout.gumboot.json").read_text())
    job = Job.model_validate(old)
    assert [m.card for m in job.sensing.meters] == [None]
    assert not has(job.model_dump(), "main-board")


def things(**of: dict[str, Any]) -> dict[str, Any]:
    """Saltmarsh with some fields of its things changed."""
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    for thing in document["things"]:
        thing.update(of.get(thing["id"].replace("-", "_"), {}))
    return document


@pytest.mark.parametrize(
    ("changed", "says"),
    [
        ({"inverter": {"bank": "cellar"}}, "things.inverter.bank names 'cellar', which is no bank of this job; it has bank"),
        ({"inverter": {"board": "roof"}}, "things.inverter.board names 'roof', which is no board or transfer equipment"),
        ({"inverter": {"feeds": "bank"}}, "things.inverter.feeds names 'bank'"),
        ({"switch_fuse": {"inverter": "busbar"}}, "things.switch-fuse.inverter names 'busbar', which is no inverter of this job"),
        ({"busbar": {"bank": "x"}}, "things.busbar.bank names 'x'"),
        ({"roof": {"inverter": "sub-board"}}, "which is no inverter or PV inverter of this job"),
        ({"sub_board": {"feeds": "sub-board"}}, "things.sub-board.feeds leads back to itself"),
        ({"sub_board": {"feeds": "main-board"}, "main_board": {"feeds": "sub-board"}}, "leads back to itself"),
        ({"roof": {"id": "inverter"}}, "two entries share one id"),
        ({"roof": {"id": "bat-1"}}, "two entries share one id"),
    ],
)
def test_a_name_that_leads_nowhere_is_refused(changed: dict[str, dict[str, Any]], says: str) -> None:
    with pytest.raises(ValidationError) as refused:
        Job.model_validate(things(**changed))
    assert says in str(refused.value)


def test_the_last_inverter_stays() -> None:
    document = things()
    fit(document, "inverter", None)
    with pytest.raises(ValidationError, match="at least one inverter"):
        Job.model_validate(document)


def test_a_thing_that_goes_takes_its_own_and_what_fed_it_feeds_on() -> None:
    document = demo_house("k05-homestead").model_dump(mode="json")
    fit(document, "transfer", None)
    job = Job.model_validate(document)
    assert next(t for t in job.things if t.seat == "inverter").feeds == "sub-board"
    fit(document, "transfer", "x")
    assert next(t for t in document["things"] if t["seat"] == "inverter")["feeds"] == "transfer"
    assert next(t for t in document["things"] if t["seat"] == "transfer")["feeds"] == "sub-board"
    fit(document, "main-board", None)
    assert all(t.get("board") is None for t in document["things"])
    fit(document, "main-board", "y")
    assert {t["id"]: t["board"] for t in document["things"] if t["seat"] in ("inverter", "transfer")} == {
        "inverter": "main-board",
        "transfer": "main-board",
    }
    with pytest.raises(BadPath):
        fit(document, "cellar", "z")


def test_another_inverter_comes_with_what_the_first_has_of_its_own() -> None:
    document = things()
    assert another(document, "inverter") == "inverter-2"
    assert another(document, "inverter-2") == "inverter-3"
    job = Job.model_validate(document)
    units = [t for t in job.things if t.seat == "inverter"]
    assert [(u.address, u.terminator, u.phase) for u in units] == [(1, True, None), (2, False, None), (3, False, None)]
    assert [t.inverter for t in job.things if t.seat == "switch-fuse"] == ["inverter", "inverter-2", "inverter-3"]
    plan = derive(job, shelf())
    assert [c for c in plan.house.by_id if c.startswith("grid-")] == ["grid-inverter-2", "grid-inverter-3"]
    with pytest.raises(BadPath):
        another(document, "bank")

"""Documents of every format that was ever shipped are read, mean what they meant, and keep the names that records know."""

from __future__ import annotations

import json
from datetime import datetime
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from gumboot.catalogue import demo_house, shelf
from gumboot.catalogue.shipped import digest, faults, listed
from gumboot.core.card import parse_card
from gumboot.core.card.upgrade import upgraded as card_upgraded
from gumboot.core.errors import WrongCard
from gumboot.core.job import Job
from gumboot.core.job.demand import Demand
from gumboot.core.job.fitting import another, fit, has
from gumboot.core.job.modbus import Modbus
from gumboot.core.job.patch import BadPath
from gumboot.core.job.site import Site
from gumboot.core.job.upgrade import upgraded
from gumboot.core.plan.derive import derive
from gumboot.core.plan.job_file import JobFile, job_file, read_job_file, renamed
from gumboot.core.plan.upkeep import chosen, completed
from gumboot.core.record import OldRow, typed
from gumboot.core.standing import stand

HERE = Path(__file__).parents[1] / "documents"
OLD = sorted((HERE / "job-1").glob("*.gumboot.json"))
SUBJECTS: dict[str, dict[str, list[str]]] = json.loads((HERE / "job-1" / "subjects.json").read_text())


def name_of(path: Path) -> str:
    return path.name.removesuffix(".gumboot.json")


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_a_house_of_format_1_is_read_as_the_house_of_today(path: Path) -> None:
    # What the house asks of its supply, and what hangs on a Modbus line, was not asked then; its meters were not named.
    today = demo_house(name_of(path))
    tools = [tool for tool in today.tools if tool.kind == "torque tool"]
    assert Job.model_validate_json(path.read_text()) == today.model_copy(
        update={"demand": Demand(), "modbus": Modbus(), "tools": tools, "site": unasked(today)}
    )


# What nobody asked of a place then: the rapid-shutdown loop, demand response.
ASKED_SINCE = ("shutdown_loop_m", "shutdown_core", "initiator_at", "network_address", "demand_response")


def unasked(today: Job) -> Site:
    """A place as it was told before."""
    return today.site.model_copy(update={name: Site.model_fields[name].default for name in ASKED_SINCE})


# Lines that the sheet had not then: how a charge ends, and what lead-acid wants.
SINCE = {"absorb_minutes", "tail_a", "shift_mv_k", "equalise", "equalise_v", "equalise_minutes", "equalise_days"}


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_records_of_format_1_still_find_their_subjects(path: Path) -> None:
    plan = derive(Job.model_validate_json(path.read_text()), shelf())
    known = SUBJECTS[name_of(path)]
    assert known["terminations"] == [t.id for t in plan.terminations]
    # Serial numbers are written down one by one now; insulation and the meter are looked at with PV on as well.
    checks = [c.id for c in plan.all_checks() if not c.id.startswith(("isolation", "isolated", "meter-", "electrode"))]
    assert [name for name in known["checks"] if name != "serials"] == checks
    # A generator is proved before the grid now; its record finds its step all the same.
    assert sorted(known["steps"]) == sorted(s.id for s in plan.power_up.steps)
    assert known["settings"] == [row.key for row in plan.settings.sheet if row.key not in SINCE]


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_written_read_and_written_again_is_byte_for_byte_the_same(path: Path) -> None:
    once = Job.model_validate_json(path.read_text()).model_dump_json()
    assert Job.model_validate_json(once).model_dump_json() == once
    assert upgraded(json.loads(once)) == json.loads(once)


OF_2 = sorted((HERE / "job-2").glob("*.json"))


@pytest.mark.parametrize("path", OF_2, ids=name_of)
def test_a_house_of_format_2_is_read_as_the_house_of_today(path: Path) -> None:
    """It knew of an electrode only whether it is a rod alone."""
    old = json.loads(path.read_text())
    assert old["format"] == "gumboot.job/2"
    house = demo_house(name_of(path))
    today = {**house.model_dump(mode="json"), "site": unasked(house).model_dump(mode="json")}
    alone = old["site"].get("rod_only", True)
    assert json.loads(Job.model_validate(old).model_dump_json()) == {
        **today,
        "demand": Demand().model_dump(mode="json"),
        "modbus": Modbus().model_dump(mode="json"),
        "tools": [tool for tool in today["tools"] if tool["kind"] == "torque tool"],
        "site": {**today["site"], "electrode": "rod, pipe or plate" if alone else "water pipe or steel"},
    }


def test_an_unknown_format_is_refused_by_name() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    with pytest.raises(ValidationError, match=r"gumboot\.job/3"):
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


OLD_CARDS = sorted((HERE / "card-1").glob("*.json"))


@pytest.mark.parametrize("path", OLD_CARDS, ids=lambda p: p.stem)
def test_a_card_of_format_1_is_read_as_the_card_of_today(path: Path) -> None:
    old = json.loads(path.read_text())
    assert old["format"] == "gumboot.card/1"
    card = parse_card(old)
    assert digest(card) == listed()[card.id, card.revision]
    assert card_upgraded(card.model_dump(mode="json")) == card.model_dump(mode="json")


def test_every_kind_of_card_is_kept_in_format_1_and_an_unknown_format_is_refused() -> None:
    since = {"line-device", "screw"}
    assert {json.loads(path.read_text())["kind"] for path in OLD_CARDS} == {card.kind for card in shelf().values()} - since
    with pytest.raises(ValidationError, match=r"gumboot\.card/2"):
        parse_card({**shelf()["cobble-5"].model_dump(mode="json"), "format": "gumboot.card/9"})


def test_a_shipped_card_changes_only_with_a_new_revision() -> None:
    assert faults(shelf(), listed()) == []
    cobble = shelf()["cobble-5"]
    changed = {"cobble-5": cobble.model_copy(update={"energy_wh": 5000.0})}
    assert faults(changed, listed()) == [
        f"cobble-5 revision {cobble.revision} was shipped with other content: give it revision {cobble.revision + 1}"
    ]
    newer = {"cobble-5": cobble.model_copy(update={"energy_wh": 5000.0, "revision": cobble.revision + 1})}
    assert faults(newer, listed()) == [f"cobble-5 revision {cobble.revision + 1} is not listed: run scripts/ship_cards.py"]


def carried(name: str = "d1-saltmarsh", **changes: Any) -> dict[str, Any]:
    """The file of a house as one reads it, some fields of its battery card changed."""
    cards = {**shelf(), "cobble-5": shelf()["cobble-5"].model_copy(update=changes)} if changes else shelf()
    found: dict[str, Any] = json.loads(job_file(completed(demo_house(name), cards), cards))
    return found


@pytest.mark.parametrize("path", OLD, ids=name_of)
def test_the_file_of_a_job_derives_the_same_without_a_catalogue(path: Path) -> None:
    job = completed(demo_house(name_of(path)), shelf())
    text = job_file(job, shelf())
    found = read_job_file(json.loads(text))
    assert found.job == job
    assert job_file(found.job, found.shelf({})) == text
    alone, here = derive(found.job, found.shelf({})), derive(job, shelf())
    assert alone.figures == here.figures
    assert alone.findings == here.findings


def test_a_card_carried_stands_before_the_one_here() -> None:
    found = read_job_file(carried(energy_wh=4000.0))
    plan = derive(found.job, found.shelf(shelf()))
    assert plan.figures["card.cobble-5.energy_wh"].value == 4000


def test_a_file_without_cards_is_read_as_ever() -> None:
    document = demo_house("d1-saltmarsh").model_dump(mode="json")
    assert read_job_file(document) == JobFile(demo_house("d1-saltmarsh"), {})


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"carries": "x"}, "is a list of the cards that the job names"),
        ({"carries": [{}]}, "card 1, "),
        ({"carries": [{"id": "q", "kind": "battery"}]}, "card q, "),
        ({"carries": [7]}, "card 1"),
        ({"cards": {"cobble-5": 9}}, f"has revision {shelf()['cobble-5'].revision} of cobble-5; the job is not planned with it"),
        (
            {"carries": [{**shelf()["mast-10"].model_dump(mode="json")}]},
            f"has revision {shelf()['mast-10'].revision} of mast-10; the job is not planned with it",
        ),
    ],
)
def test_a_bad_card_in_a_file_is_named(change: dict[str, Any], says: str) -> None:
    with pytest.raises(WrongCard) as refused:
        read_job_file({**carried(), **change})
    assert says in str(refused.value)


def test_a_card_under_another_name_plans_the_same() -> None:
    found = read_job_file(carried())
    for card in list(found.cards):
        found = renamed(found, card, f"{card}-2")
    assert all(card.endswith("-2") for card in chosen(found.job))
    plan, before = derive(found.job, found.shelf({})), derive(demo_house("d1-saltmarsh"), shelf())
    assert len(plan.figures) == len(before.figures)
    assert [f.code for f in plan.findings] == [f.code for f in before.findings]


def test_real_records_of_format_1_say_of_the_job_what_they_said() -> None:
    """Rows as that version wrote them: torques, a bad reading and its clearance, links, settings, one agreed, steps, the meter test."""
    kept = json.loads((HERE / "records-1" / "d1-saltmarsh.json").read_text())
    rows = [OldRow(**{**row, "at": datetime.fromisoformat(row["at"])}) for row in kept["records"]]
    assert {row.kind for row in rows} == {
        "torque",
        "recheck",
        "measurement",
        "done",
        "setting",
        "ct",
        "link",
        "hold-cleared",
        "setting-agreed",
    }
    job = Job.model_validate_json((HERE / "job-1" / "d1-saltmarsh.gumboot.json").read_text())
    plan = derive(job.model_copy(update={"demand": demo_house("d1-saltmarsh").demand}), shelf())
    standing, says = stand(plan, [typed(row) for row in rows], datetime.fromisoformat(kept["now"])), kept["says"]
    for part in ("torques", "checks", "steps"):
        said = {
            key: judged.good for key, judged in getattr(standing, part).items() if not key.startswith(("meter-", "isolated", "electrode"))
        }
        assert said == {key: good for key, good in says[part].items() if key != "serials"}, part
    assert {key: [left.same, left.agreed is not None] for key, left in standing.settings.items() if key not in SINCE} == says["settings"]
    # Programming is done unit by unit now, and every lead is rung out: of the old tasks one stands, the rest is in the history.
    assert sorted(standing.links_done) == ["off"]
    assert {"cycle", "lead", "off", "program"} == {r.name for r in standing.records if r.act.startswith("ritual:")}
    since = (
        "settings as left",
        "holes",
        "boxes",
        "labels",
        "serial numbers",
        "firmware",
        "live checks",
        "link tasks",
        "CT",
        "initiator",
        "factory joints",
        "entries",
        "walls in which",
        "backing boards",
        "unpacked",
    )
    assert [line for line in standing.missing if not any(words in line for words in since)] == says["missing"]
    # Two lines of the sheet are new, and boxes, covers, labels and numbers are acts now: hand-over lacks more.
    now = {key: [s.state, s.word] for key, s in standing.stations.items()}
    assert [now.pop(key)[0] for key in ("settings", "hand-over", "wire", "live-checks", "links", "sensing")] == [
        *("part", "open", "part", "part", "part", "part")
    ]
    assert now == {key: said for key, said in says["stations"].items() if key in now}

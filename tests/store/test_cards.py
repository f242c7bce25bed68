"""Cards with their revisions: kept, counted, pinned, never changed."""

from __future__ import annotations

import json
import uuid
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from gumboot.catalogue import shelf
from gumboot.core.card import parse_card
from gumboot.core.errors import WrongCard
from gumboot.core.job import Job
from gumboot.core.plan.derive import derive
from gumboot.core.plan.job_file import JobFile, job_file, read_job_file
from gumboot.core.plan.upkeep import completed
from gumboot.store import cards
from tests.helpers import edited

OLD = Path(__file__).parent.parent / "documents" / "card-1"


def own(**changes: Any) -> dict[str, Any]:
    return {**shelf()["cobble-5"].model_dump(mode="json"), "id": f"own-{uuid.uuid4().hex[:6]}", "title": "Own battery", **changes}


def test_the_catalogue_is_kept_once(db: Session) -> None:
    cards.sync_catalogue(db)
    cards.sync_catalogue(db)
    assert len(cards.revisions(db, "cobble-5")) == 1
    own_card = shelf()["cobble-5"]
    assert cards.revision_of(db, "cobble-5", own_card.revision) == own_card


def test_each_saving_is_the_next_revision_and_the_same_adds_nothing(db: Session) -> None:
    document = own()
    first = cards.save_company_card(db, document, "Petra")
    assert (first.id, first.revision) == (document["id"], 1)
    assert cards.save_company_card(db, document, "Petra").revision == 1
    second = cards.save_company_card(db, {**document, "energy_wh": 6000}, "Ivo")
    assert second.revision == 2
    assert [r.author for r in cards.revisions(db, document["id"])] == ["Ivo", "Petra"]
    assert cards.whole_shelf(db)[document["id"]].revision == 2


def test_a_card_of_the_catalogue_is_not_overwritten(db: Session) -> None:
    with pytest.raises(cards.CardTaken):
        cards.save_company_card(db, own(id="cobble-5"), "Petra")


def test_a_bad_card_names_its_fields_and_is_not_kept(db: Session) -> None:
    document = own(energy_wh="much", chemistry="coal")
    with pytest.raises(ValidationError) as refused:
        cards.save_company_card(db, document, "Petra")
    assert {e["loc"][-1] for e in refused.value.errors()} == {"energy_wh", "chemistry"}
    assert cards.revisions(db, document["id"]) == []


def test_a_job_keeps_the_revision_it_was_planned_with(db: Session) -> None:
    document = own()
    cards.save_company_card(db, document, "Petra")
    job = edited({"banks.bank.card": document["id"]})
    job = completed(job, cards.shelf_for(db, job))
    assert job.cards[document["id"]] == 1
    before = derive(job, cards.shelf_for(db, job)).banks[0].supply.usable.value
    cards.save_company_card(db, {**document, "energy_wh": 8000}, "Petra")
    assert derive(job, cards.shelf_for(db, job)).banks[0].supply.usable.value == before
    late = cards.behind(db, job, cards.whole_shelf(db))
    assert [(old.revision, new.revision) for old, new in late.values()] == [(1, 2)]
    moved = job.model_copy(update={"cards": {**job.cards, document["id"]: 2}})
    assert derive(moved, cards.shelf_for(db, moved)).banks[0].supply.usable.value == pytest.approx(before * 8000 / 5120)
    assert cards.behind(db, moved, cards.whole_shelf(db)) == {}


def test_the_database_lets_no_revision_be_changed(engine: Engine) -> None:
    with Session(engine) as db:
        cards.sync_catalogue(db)
        db.commit()
        for statement in ("update cards set author = 'x'", "delete from cards"):
            with pytest.raises(DBAPIError, match="permission denied"):
                db.execute(text(statement))
            db.rollback()


def test_an_earlier_database_is_migrated_and_keeps_its_jobs(owner: Engine) -> None:
    """A database of the first version, with a job in it, gets the cards table and loses nothing."""
    from alembic import command
    from sqlalchemy import create_engine

    from gumboot.store.engine import _config, migrate
    from gumboot.store.jobs import create_job, edit, load

    name = f"older_{uuid.uuid4().hex[:8]}"
    root = create_engine(owner.url.set(database="postgres"), isolation_level="AUTOCOMMIT")
    with root.connect() as connection:
        connection.execute(text(f"create database {name}"))
    url = owner.url.set(database=name)
    older = None
    try:
        command.upgrade(_config(url), "0001")
        older = create_engine(url)
        document = edited({}).model_dump(mode="json")
        # As it was written before these fields were known.
        for field in ("consumption", "cards"):
            document.pop(field)
        for field in ("latitude_deg", "climate", "clearness", "air_c"):
            document["site"].pop(field)
        for face in document["faces"]:
            for field in ("width_mm", "ridge_mm", "obstacles", "orientation"):
                face.pop(field)
        for load_row in document["loads"]:
            load_row.pop("priority")
        with Session(older) as db:
            create_job(db, edited({}), "petra")
            db.execute(text("update revisions set document = cast(:d as jsonb)"), {"d": __import__("json").dumps(document)})
            db.commit()
        migrate(url)
        with Session(older) as db:
            assert load(db, "d1-saltmarsh").job.loads[0].priority == 2
            revision = edit(db, "d1-saltmarsh", 1, "faces.south.width_mm", 7000.0, "petra")
            assert revision.job.faces[0].width_mm == 7000.0
            revision = edit(db, "d1-saltmarsh", 2, "site.latitude_deg", 44.0, "petra")
            assert revision.job.site.latitude_deg == 44.0
            assert db.execute(text("select count(*) from cards")).scalar() == 0
    finally:
        if older is not None:
            older.dispose()
        with root.connect() as connection:
            connection.execute(text(f"drop database if exists {name} with (force)"))
        root.dispose()


def test_a_revision_that_is_not_kept_is_named_and_no_other_is_taken(db: Session) -> None:
    job = edited({}).model_copy(update={"cards": {"cobble-5": 7}})
    with pytest.raises(WrongCard, match="revision 7 of the card 'cobble-5'"):
        cards.shelf_for(db, job)


def brought(energy_wh: float, card_id: str, revision: int = 1) -> JobFile:
    """A job's file with a battery card of its own."""
    card = shelf()["cobble-5"].model_copy(update={"id": card_id, "revision": revision, "energy_wh": energy_wh})
    job = edited({"banks.bank.card": card_id})
    return read_job_file(json.loads(job_file(completed(job, {**shelf(), card_id: card}), {**shelf(), card_id: card})))


def planned_energy(db: Session, job: Job) -> float:
    return derive(job, cards.shelf_for(db, job)).figures[f"card.{job.banks[0].card}.energy_wh"].value


def test_a_card_that_comes_with_a_job_is_kept_for_it_and_offered_to_none(db: Session) -> None:
    name = f"own-{uuid.uuid4().hex[:6]}"
    job = cards.take_in(db, brought(4000.0, name, 3), "Petra")
    assert (job.banks[0].card, job.cards[name]) == (name, 3)
    assert planned_energy(db, job) == 4000
    assert name not in cards.whole_shelf(db)
    assert cards.take_in(db, brought(4000.0, name, 3), "Ivo") == job
    assert [r.author for r in cards.revisions(db, name)] == ["Petra"]


def test_another_card_of_the_same_name_gets_a_name_that_is_free(db: Session) -> None:
    name = f"own-{uuid.uuid4().hex[:6]}"
    cards.save_company_card(db, own(id=name, energy_wh=6000.0), "Petra")
    job = cards.take_in(db, brought(4000.0, name), "Ivo")
    assert job.banks[0].card == f"{name}-2"
    assert planned_energy(db, job) == 4000
    assert cards.take_in(db, brought(4500.0, name, 2), "Ivo").banks[0].card == f"{name}-3"
    assert cards.whole_shelf(db)[name].revision == 1


def test_the_catalogue_is_not_overruled_by_a_file(db: Session) -> None:
    cards.sync_catalogue(db)
    for revision in (1, 2, 9):
        job = cards.take_in(db, brought(4000.0, "cobble-5", revision), "Ivo")
        assert job.banks[0].card.startswith("cobble-5-")
        assert planned_energy(db, job) == 4000
    assert cards.whole_shelf(db)["cobble-5"] == shelf()["cobble-5"]


def test_an_old_revision_of_the_catalogue_is_taken_in_as_it_was_shipped(db: Session) -> None:
    """A job planned before an upgrade comes to an installation that never had the card of then."""
    cards.sync_catalogue(db)
    then = parse_card(json.loads((OLD / "cobble-5.json").read_text()))
    assert then.revision < shelf()["cobble-5"].revision
    with_then = {**shelf(), "cobble-5": then}
    file = read_job_file(json.loads(job_file(completed(edited({}), with_then), with_then)))
    assert cards.take_in(db, file, "Ivo").banks[0].card == "cobble-5"
    assert cards.revision_of(db, "cobble-5", then.revision) == then


def test_the_companys_own_card_counts_on_from_what_a_file_brought(db: Session) -> None:
    name = f"own-{uuid.uuid4().hex[:6]}"
    cards.take_in(db, brought(4000.0, name, 3), "Petra")
    assert cards.save_company_card(db, own(id=name), "Ivo").revision == 4

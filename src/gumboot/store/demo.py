"""Loads the demo accounts and houses; running it again changes nothing."""

from __future__ import annotations

from sqlalchemy import Engine, delete, select, text
from sqlalchemy.orm import Session

from gumboot.catalogue import demo_house, demo_houses, shelf
from gumboot.core.plan.upkeep import completed
from gumboot.store.accounts import add_user
from gumboot.store.jobs import create_job
from gumboot.store.models import CardNoteRow, JobRow, RecordLink, RecordRow, RevisionRow

DEMO_PASSWORD = "low-tide-42"
DEMO_USERS = (
    ("petra", "Petra Planner", "planner"),
    ("ivo", "Ivo Installer", "installer"),
    ("lena", "Lena Licence", "licence holder"),
    ("abel", "Abel Apprentice", "apprentice"),
)


def load_demo(db: Session) -> None:
    """Add what is missing of the demo."""
    for name, display, role in DEMO_USERS:
        add_user(db, name, display, role, DEMO_PASSWORD)
    for path in demo_houses():
        job = demo_house(path.name.removesuffix(".gumboot.json"))
        if db.get(JobRow, job.id) is None:
            create_job(db, completed(job, shelf()), "demo", demo=True)
    db.commit()


def drop_demo(owner: Engine) -> None:
    """Remove the demo houses with their records; only the schema's owner can lift the guard, for the length of this act."""
    with Session(owner) as db:
        ids = list(db.scalars(select(JobRow.id).where(JobRow.demo)))
        told = select(RecordRow.id).where(RecordRow.job_id.in_(ids))
        for table, gone in (
            ("card_notes", delete(CardNoteRow).where(CardNoteRow.record_id.in_(told))),
            ("record_links", delete(RecordLink).where(RecordLink.job_id.in_(ids))),
            ("records", delete(RecordRow).where(RecordRow.job_id.in_(ids))),
        ):
            db.execute(text(f"alter table {table} disable trigger {table}_append_only"))
            db.execute(gone)
            db.execute(text(f"alter table {table} enable trigger {table}_append_only"))
        db.execute(delete(RevisionRow).where(RevisionRow.job_id.in_(ids)))
        db.execute(delete(JobRow).where(JobRow.id.in_(ids)))
        db.commit()

"""``take-records``: a file of records, or a tester's table, taken in under somebody's name by the same rule as on the pages."""

from __future__ import annotations

import argparse
import functools
from collections.abc import Callable
from pathlib import Path
from typing import cast

from sqlalchemy.orm import Session

from gumboot.cli.people import owner_session
from gumboot.cli.trouble import Trouble
from gumboot.core.errors import GumbootError
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.record import Role
from gumboot.core.recording import Person
from gumboot.core.recording.files import Site
from gumboot.store import accounts, cards, jobs, records, taking


def _person(db: Session, name: str) -> Person:
    user = next((user for user in accounts.users(db) if user.name == name.strip().lower() and not user.disabled), None)
    if user is None:
        raise Trouble(f"There is no account {name} that is on. Remedy: ./gumboot user list shows them.")
    return Person(user.name, user.display, cast("Role", user.role))


def _earlier(db: Session, job_id: str) -> Callable[[int], Plan | None]:
    """The plan of each earlier revision of a job, derived once; None for one that cannot be had."""

    @functools.cache
    def planned(number: int) -> Plan | None:
        try:
            job = jobs.load(db, job_id, number).job
            return derive(job, cards.shelf_for(db, job))
        except (jobs.NoSuchJob, jobs.Unreadable, GumbootError):
            return None

    return planned


def run(args: argparse.Namespace) -> int:
    """Print of each line what became of it; 1 where one was refused."""
    path = Path(args.file)
    try:
        content = path.read_bytes()
    except OSError as failure:
        raise Trouble(f"{path} cannot be read: {failure.strerror}. Remedy: name a .jsonl or .csv file.") from None
    with owner_session() as db:
        if args.job not in jobs.ids(db):
            raise Trouble(f"There is no job {args.job}. Remedy: ./gumboot check-records lists them all.")
        person = _person(db, args.by)
        now = records.hold(db, args.job)
        revision = jobs.load(db, args.job)
        plan = derive(revision.job, cards.shelf_for(db, revision.job))
        seen = Site(plan, records.read_records(db, args.job), revision.number, _earlier(db, args.job))
        try:
            taken = taking.take_file(db, args.job, seen, taking.File(path.name, content, args.zone), person, now)
        except taking.BadFile as bad:
            raise Trouble(str(bad)) from None
        for row in taken:
            print(f"line {row.number}: {row.outcome}{f', {row.text}' if row.text else ''}")
    return 1 if any(row.outcome == "refused" for row in taken) else 0

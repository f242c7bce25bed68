"""The station Hand over, and files of records that are taken in there."""

from __future__ import annotations

from typing import cast

from fastapi import UploadFile
from starlette.responses import Response

from gumboot.core.record import Role
from gumboot.core.recording import Person as Doer
from gumboot.core.recording.files import Site
from gumboot.store import records, taking
from gumboot.web.rendering import bench, plan_under, render_bench
from gumboot.web.security import Author, Db, Text
from gumboot.web.stations.opening import opened

ROUTER = opened("hand-over")


@ROUTER.post("/records-file")
def take_file(job_id: str, db: Db, person: Author, file: UploadFile, zone: Text = "") -> Response:
    """Take in a file of records; the page says of each line what became of it."""
    now = records.hold(db, job_id)
    view = bench(db, person, job_id, "hand-over")
    current = view.revision.number
    seen = Site(view.plan, view.records, current, lambda number: plan_under(db, job_id, number, current))
    doer = Doer(person.name, person.display, cast("Role", person.role))
    sent = taking.File(file.filename or "", file.file.read(taking.MOST_BYTES + 1), zone)
    try:
        taken = taking.take_file(db, job_id, seen, sent, doer, now)
    except taking.BadFile as bad:
        return render_bench(bench(db, person, job_id, "hand-over", problems={"records-file": str(bad)}), fragment=False, status=422)
    return render_bench(bench(db, person, job_id, "hand-over", taken=taken), fragment=False)

"""Records out of a file: each line is judged as if it were recorded here."""

from __future__ import annotations

from typing import cast
from zoneinfo import ZoneInfo

from fastapi import APIRouter, UploadFile
from starlette.responses import Response

from gumboot.core.record import Role
from gumboot.core.recording import Doing, Person, said
from gumboot.core.recording.files import Line, Taken, read_lines, read_table, take_in
from gumboot.store import records
from gumboot.web.rendering import bench, render_bench
from gumboot.web.security import Author, Db, Text
from gumboot.web.view import Bench

ROUTER = APIRouter()
MOST_BYTES = 4_000_000


class BadFile(Exception):
    """The file cannot be read: what to do."""


def _text(file: UploadFile) -> str:
    content = file.file.read(MOST_BYTES + 1)
    if not content:
        raise BadFile("Choose a file; this one is empty.")
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file is larger than {MOST_BYTES // 1_000_000} MB: send it in parts.")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadFile("The file is no text in UTF-8: save it as CSV, or as JSON Lines.") from None


def _zone(name: str) -> ZoneInfo | None:
    """The time zone that a browser names; None where it names none that there is."""
    try:
        return ZoneInfo(name)
    except (ValueError, OSError, KeyError):
        return None


def _lines(view: Bench, file: UploadFile, every: dict[str, object], zone: str) -> list[Line]:
    text, name = _text(file), (file.filename or "").lower()
    found = read_lines(text) if name.endswith(".jsonl") else read_table(text, view.standing.acts, every, _zone(zone))
    if not found:
        raise BadFile("The file holds no line.")
    return found


@ROUTER.post("/jobs/{job_id}/records-file")
def take_file(job_id: str, db: Db, person: Author, file: UploadFile, zone: Text = "") -> Response:
    """Take in a file of records; the page says of each line what became of it."""
    now = records.hold(db, job_id)
    view = bench(db, person, job_id, "hand-over")
    number = view.revision.number
    every = said("", "", now, Doing(person.name, person.display, person.role, number))
    try:
        lines = _lines(view, file, every, zone)
    except BadFile as bad:
        return render_bench(bench(db, person, job_id, "hand-over", problems={"records-file": str(bad)}), fragment=False, status=422)
    who = Person(person.name, person.display, cast("Role", person.role))
    taken: list[Taken] = sorted(take_in(view.plan, view.records, lines, who, (now, number)), key=lambda t: t.number)
    for row in taken:
        if row.record is not None:
            sent = records.Sent(row.record.id, row.record.kind, row.record.act, {"file": "taken in"}, row.record.by)
            records.add_record(db, job_id, sent, row.record)
    db.flush()
    return render_bench(bench(db, person, job_id, "hand-over", taken=taken), fragment=False)

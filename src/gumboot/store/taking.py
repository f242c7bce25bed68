"""Records out of a file: each line is judged as if it were recorded here, and what is kept is added."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from typing import NamedTuple
from zoneinfo import ZoneInfo

from sqlalchemy.orm import Session

from gumboot.core.recording import Doing, Person, said
from gumboot.core.recording.files import Line, Site, Taken, read_lines, read_table, take_in
from gumboot.core.standing import stand
from gumboot.store import records

MOST_BYTES = 4_000_000


class BadFile(Exception):
    """The file cannot be read: what to do."""


class File(NamedTuple):
    """A file as it comes in: its name tells what it holds; ``zone`` is that of the clock whose times stand in it without an offset."""

    name: str
    content: bytes
    zone: str = ""


def _text(content: bytes) -> str:
    if not content:
        raise BadFile("Choose a file; this one is empty.")
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file is larger than {MOST_BYTES // 1_000_000} MB: send it in parts.")
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise BadFile("The file is no text in UTF-8: save it as CSV, or as JSON Lines.") from None


def _zone(name: str) -> ZoneInfo | None:
    """A time zone by its name; None for one that is none."""
    try:
        return ZoneInfo(name)
    except (ValueError, OSError, KeyError):
        return None


def _of_this_house(line: Line, there: Mapping[str, str]) -> Line:
    """A line, without its record where that stands at another house."""
    if line.record is None or line.record.id not in there:
        return line
    return Line(line.number, None, f"this record stands at {there[line.record.id]}: the file is of that house")


def take_file(db: Session, job_id: str, seen: Site, file: File, person: Person, now: datetime) -> list[Taken]:
    """What became of each line, in the order of the file; the job's records are held since ``now``. Raises BadFile."""
    text = _text(file.content)
    if file.name.lower().endswith(".jsonl"):
        lines = read_lines(text)
    else:
        every = said("", "", now, Doing(person.name, person.display, person.role, seen.revision))
        lines = read_table(text, stand(seen.plan, seen.records, now, seen.revision).acts, every, _zone(file.zone))
    if not lines:
        raise BadFile("The file holds no line.")
    there = records.elsewhere(db, job_id, [line.record.id for line in lines if line.record is not None])
    taken = sorted(take_in(seen, [_of_this_house(line, there) for line in lines], person, now), key=lambda row: row.number)
    for row in taken:
        if row.record is not None:
            sent = records.Sent(row.record.id, row.record.kind, row.record.act, {"file": "taken in"}, row.record.by)
            records.add_record(db, job_id, sent, row.record)
    db.flush()
    return taken

"""Records out of files: lines that Gumboot wrote, its own table, and the table of a tester."""

from __future__ import annotations

import csv
import io
import json
import uuid
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import UTC, datetime, tzinfo
from typing import Any, NamedTuple

from pydantic import ValidationError

from gumboot.core.acts import Act, Acts
from gumboot.core.errors import BadUnit
from gumboot.core.plan.derive import Plan
from gumboot.core.reading import parse, read_shown
from gumboot.core.record import FORMAT, AnyRecord, Reading, SignOff, as_sent, parse_record
from gumboot.core.recording.may import Person, may_record
from gumboot.core.standing import stand

MOST_LINES = 5000
# How a tester's table may head the columns that are read, first match wins.
HEADS: Mapping[str, tuple[str, ...]] = {
    "act": ("act", "check", "test", "name", "circuit"),
    "value": ("value", "reading", "result", "measured"),
    "unit": ("unit", "units"),
    "at": ("at", "time", "timestamp", "date", "datetime"),
    "cell": ("cell_c", "cell temperature", "cell"),
}


class Line(NamedTuple):
    """One line of a file: its number and the record that it holds, or why it holds none."""

    number: int
    record: AnyRecord | None
    text: str = ""


class Taken(NamedTuple):
    """What became of a line: kept, stood already, or refused, with the words."""

    number: int
    outcome: str
    text: str
    record: AnyRecord | None = None


def lines_of(records: Sequence[AnyRecord]) -> str:
    """Records as JSON Lines, names sorted: writing what was read gives the same bytes."""
    rows = [json.dumps(r.model_dump(mode="json"), sort_keys=True, ensure_ascii=False) for r in records]
    return "".join(f"{row}\n" for row in rows)


def _parsed(number: int, document: Mapping[str, Any]) -> Line:
    try:
        return Line(number, parse_record({**document, "format": document.get("format", FORMAT)}))
    except ValidationError as bad:
        first = bad.errors()[0]
        return Line(number, None, f"{'.'.join(map(str, first['loc'][1:] or first['loc'])) or 'the line'}: {first['msg']}")


def read_lines(text: str) -> list[Line]:
    """JSON Lines as ``lines_of`` writes them."""
    found = []
    for number, row in enumerate(text.splitlines()[:MOST_LINES], start=1):
        if not row.strip():
            continue
        try:
            document = json.loads(row)
        except ValueError as bad:
            found.append(Line(number, None, f"no JSON: {bad}"))
            continue
        found.append(_parsed(number, document) if isinstance(document, dict) else Line(number, None, "no record: an object is wanted"))
    return found


def _named(row: Mapping[str, str], what: str) -> str:
    heads = {str(head).strip().casefold(): value for head, value in row.items() if head}
    return next((str(heads[h] or "").strip() for h in HEADS[what] if h in heads), "")


def _act_called(acts: Acts, name: str) -> Act | None:
    """The act of a check by its id, by its name among checks, or by its title, whatever its case."""
    if name in acts:
        return acts[name]
    if (found := acts.get(f"check:{name}")) is not None:
        return found
    alike = [a for a in acts.values() if a.id.startswith("check:") and a.title.casefold() == name.casefold()]
    return alike[0] if len(alike) == 1 else None


def _moment(text: str, now: datetime, zone: tzinfo | None) -> datetime | None:
    """A time of day as a tester writes it, read by the clock of where it was made; None where nobody knows which that is."""
    if not text:
        return now
    at = datetime.fromisoformat(text.replace("/", "-"))
    if at.tzinfo is None and zone is None:
        return None
    return at if at.tzinfo else at.replace(tzinfo=zone)


def _tested(number: int, row: Mapping[str, str], acts: Acts, said: Mapping[str, Any], zone: tzinfo | None) -> Line:
    """One row of a tester."""
    name, value = _named(row, "act"), _named(row, "value")
    act = _act_called(acts, name)
    if act is None:
        return Line(number, None, f"'{name}' is no check of this house: name it as Prove does, or by its id")
    try:
        at = _moment(_named(row, "at"), said["done_at"], zone)
    except ValueError:
        return Line(number, None, f"'{_named(row, 'at')}' is no time: write 2026-11-27 14:30")
    if at is None:
        return Line(number, None, f"'{_named(row, 'at')}' does not say by which clock: write its offset, 2026-11-27 14:30+01:00")
    try:
        shown = read_shown(f"{value} {_named(row, 'unit')}".strip(), act.band.unit)
        cell = parse(_named(row, "cell"), "°C") if _named(row, "cell") else None
    except BadUnit as bad:
        return Line(number, None, str(bad))
    seed = f"{act.id} {at.astimezone(UTC).isoformat()} {value} {said['doer']}"
    made = {**said, "id": str(uuid.uuid5(uuid.NAMESPACE_OID, seed)), "act": act.id, "done_at": at}
    return Line(number, Reading(**made, value=shown.value, over=shown.over, typed=value[:64], unit=act.band.unit, cell_c=cell))


def read_table(text: str, acts: Acts, said: Mapping[str, Any], zone: tzinfo | None = None) -> list[Line]:
    """A table: that of records as Gumboot writes it, or a tester's, whose heads tell act, value, unit and time.

    ``said`` is what every record of a tester's rows says: doer, revision, and the time of those that tell none. ``zone`` is that of the
    clock whose times stand without an offset.
    """
    found = []
    for number, row in enumerate(csv.DictReader(io.StringIO(text)), start=2):
        if number > MOST_LINES:
            break
        if row.get("kind") and row.get("id"):
            found.append(_own(number, row))
        else:
            found.append(_tested(number, row, acts, said, zone))
    return found


def _own(number: int, row: Mapping[str, str]) -> Line:
    try:
        more = json.loads(row.get("value") or "{}")
    except ValueError as bad:
        return Line(number, None, f"value: no JSON: {bad}")
    named = {"id": row.get("id"), "done_at": row.get("at"), "by": row.get("by"), "role": row.get("role")}
    return _parsed(number, {**more, **named, "kind": row.get("kind"), "act": row.get("act"), "corrects": row.get("corrects") or None})


class Site(NamedTuple):
    """What a file is judged under: the plan of a revision, the records that there are, and the plan of each earlier revision."""

    plan: Plan
    records: Sequence[AnyRecord]
    revision: int
    earlier: Callable[[int], Plan | None] = lambda _: None

    def under(self, record: AnyRecord) -> Plan | None:
        """The plan that a record was made under, where that is an earlier one."""
        made = record.revision
        return self.earlier(made) if made is not None and made < self.revision else None


def take_in(site: Site, lines: Sequence[Line], person: Person, now: datetime) -> Iterator[Taken]:
    """Each line of a file judged by the rule of recording, in the order in which it was done.

    What stands already is not taken twice; what is kept is given back to be added.
    """
    plan, revision = site.plan, site.revision
    standing, known = stand(plan, site.records, now, revision), {r.id: r for r in site.records}
    yield from (Taken(line.number, "refused", line.text) for line in lines if line.record is None)
    held = [(line.number, line.record) for line in lines if line.record is not None]
    for number, record in sorted(held, key=lambda pair: pair[1].done_at):
        if record.id in known:
            same = as_sent(known[record.id]) == as_sent(record)
            yield Taken(number, "stood already" if same else "refused", "" if same else "a record of this id says something else")
            continue
        if isinstance(record, SignOff):
            yield Taken(number, "refused", "a signature is given where what it stands for is seen, on Hand-over")
            continue
        verdict = may_record(plan, standing, record, person, now, under=site.under(record))
        if verdict.record is None:
            yield Taken(number, "refused", verdict.text)
            continue
        known[record.id] = verdict.record
        standing = stand(plan, [*known.values()], now, revision)
        yield Taken(number, "kept", "; ".join(verdict.record.defects), verdict.record)

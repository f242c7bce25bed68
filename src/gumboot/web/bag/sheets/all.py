"""The sheets of every station of the plan, with what is found against each and what it still asks; what is to mend stands first."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from typing import Any

from gumboot.core.finding import Finding, Gap
from gumboot.core.job import BadPath
from gumboot.drawing.svg import Canvas
from gumboot.web.bag.pictures import Look
from gumboot.web.bag.sheets import bank, circuits, loads, strings, survey, wall
from gumboot.web.bag.sheets.parts import Field, Sheet, shown
from gumboot.web.deciding import EDITORS
from gumboot.web.rendering import ENVIRONMENT
from gumboot.web.view import Bench

STATIONS: dict[str, Callable[[Bench], Iterator[Sheet]]] = {
    "survey": survey.sheets,
    "loads": loads.sheets,
    "strings": strings.sheets,
    "bank": bank.sheets,
    "circuits": circuits.sheets,
    "wall": wall.sheets,
}


def _of_finding(b: Bench, n: int, finding: Finding) -> Sheet:
    """A finding that speaks of no sheet has one of its own."""
    field = (Field(finding.field, b.field(finding.field).name),) if finding.field and _may_be_typed(b, finding.field) else ()
    place = finding.where[:1].upper() + finding.where[1:]
    says = finding.text.replace("mm2", "mm²")
    return Sheet(f"finding-{finding.key}-{n}", place or finding.code, says, fields=field, findings=(finding,))


def _of_gap(b: Bench, gap: Gap) -> Sheet:
    """So has a question that is asked on none."""
    fields = (Field(gap.path, b.field(gap.path).name),) if _may_be_typed(b, gap.path) else ()
    see = "" if fields else "Entered at the bench."
    return Sheet(f"question-{gap.path}", gap.question, "", see, fields=fields, gaps=(gap,), is_open=True)


def _may_be_typed(b: Bench, path: str) -> bool:
    try:
        return b.has(path) and bool(b.field(path).kind)
    except BadPath:
        return False


def told(b: Bench, station: str) -> list[Sheet]:
    """The sheets of a station: each finding and each question on the first that it speaks of, else on one of its own."""
    found = list(STATIONS[station](b))
    against, asked, own = dict[int, list[Finding]](), dict[int, list[Gap]](), list[Sheet]()
    for n, finding in enumerate(b.plan.at(station)):
        at = next((k for k, sheet in enumerate(found) if sheet.about(finding)), None)
        if at is None:
            own.append(_of_finding(b, n, finding))
        else:
            against.setdefault(at, []).append(finding)
    for gap in (gap for gap in b.plan.gaps if gap.station == station):
        at = next((k for k, sheet in enumerate(found) if sheet.asks(gap)), None)
        if at is None:
            own.append(_of_gap(b, gap))
        else:
            asked.setdefault(at, []).append(gap)
    whole = [*own, *(sheet.told(against.get(k, ()), asked.get(k, ())) for k, sheet in enumerate(found))]
    return sorted(whole, key=lambda sheet: sheet.rank)


def _look(sheet: Sheet, drawn: Mapping[str, Canvas]) -> dict[str, Any]:
    """Where a sheet looks, as data: the first of its pictures that is drawn and has its place."""
    for picture, at in sheet.looks:
        places = [name for name in at if picture in drawn and name in drawn[picture].anchors]
        if picture in drawn and (places or not at):
            return Look(picture, tuple(places)).carried()
    return {}


def _carried(b: Bench, station: str, sheet: Sheet, drawn: Mapping[str, Canvas]) -> dict[str, Any]:
    return {
        "id": f"sheet:{station}:{sheet.name}",
        "title": sheet.title,
        "says": sheet.says,
        "group": sheet.group,
        "mark": sheet.mark,
        "cautions": sum(f.level == "caution" for f in sheet.findings),
        "html": ENVIRONMENT.get_template("bag/sheet.html").render(b=b, s=sheet),
        "look": _look(sheet, drawn),
        "fields": [shown(b, field) for field in sheet.fields],
    }


def sheets_of(b: Bench, drawn: Mapping[str, Canvas]) -> dict[str, Any]:
    """The stations of the plan for a phone: their sheets in order, and who may decide."""
    return {
        "editors": list(EDITORS),
        "stations": {station: [_carried(b, station, sheet, drawn) for sheet in told(b, station)] for station in STATIONS},
    }

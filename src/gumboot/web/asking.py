"""A quick sum as people type it: units as they are written, sizes as they are said, every refusal with the field it speaks of."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError
from pydantic.fields import FieldInfo

from gumboot.core.errors import BadUnit, GumbootError
from gumboot.core.rulebook.books import book
from gumboot.core.sizes import read_size
from gumboot.core.sums import Sum
from gumboot.core.sums.ask import Answer, Ask, BadInput
from gumboot.documents.report import figure_json, finding_json
from gumboot.drawing.show import figure_text
from gumboot.web.quantities import parse

_TIMES = re.compile(r"^\s*(\d{1,3})\s*[x×]\s*(\S.*)$")
_LIST = re.compile(r"[;\n]+|,\s+")


class BadQuestion(BadInput):
    """A text that is no answer to what a quick sum asks."""


def _extra(info: FieldInfo) -> Mapping[str, Any]:
    return info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}


MOST_IN_LIST = 100


def _sizes(parts: list[str], family: str) -> list[str]:
    found: list[str] = []
    if len(parts) > MOST_IN_LIST:
        raise BadUnit(f"{len(parts)} entries; at most {MOST_IN_LIST} are taken. Write 4 x 10 AWG for four alike.")
    for part in parts:
        match = _TIMES.match(part)
        times, text = (int(match.group(1)), match.group(2)) if match else (1, part)
        found += [read_size(text, family)] * times
    return found


def _typed(value: Any, kind: str, unit: str, family: str, per_volt: float | None = None) -> Any:
    if kind == "quantities":
        rows = value if isinstance(value, list | tuple) else [part for part in _LIST.split(str(value)) if part.strip()]
        return [parse(row, unit) if isinstance(row, str) else row for row in rows]
    if kind == "sizes":
        return _sizes(
            [str(v) for v in value] if isinstance(value, list | tuple) else [p for p in _LIST.split(str(value)) if p.strip()], family
        )
    if not isinstance(value, str):
        return value
    if kind == "quantity":
        return parse(value, unit, per_volt=per_volt)
    if kind == "count":
        number = parse(value, "")
        return int(number) if number.is_integer() else number
    if kind == "size":
        return read_size(value, family)
    lowered = value.strip().lower()
    if kind == "choice" and lowered in ("yes", "no", "true", "false"):
        return lowered in ("yes", "true")
    return int(value) if kind == "choice" and value.strip().isdecimal() and len(value.strip()) < 6 else value.strip()


def _said(row: Mapping[str, Any]) -> str:
    kind, context = row["type"], row.get("ctx") or {}
    if kind == "missing":
        return "this is needed. Give a value."
    if kind == "extra_forbidden":
        return "this sum asks for no such thing. Take it out."
    if kind == "literal_error":
        return f"choose one of {context.get('expected', '')}."
    if kind in ("greater_than", "greater_than_equal", "less_than", "less_than_equal"):
        (relation, bound), *_ = context.items()
        return f"this must be {({'gt': 'above', 'ge': 'at least', 'lt': 'below', 'le': 'at most'})[relation]} {bound:g}."
    return str(row["msg"]) + "."


def read_question(entry: Sum, raw: Mapping[str, Any]) -> Ask:
    """The question from what was typed or sent. Raises BadQuestion that names the field and the remedy."""
    fields = entry.asks.model_fields
    book_id = str(raw.get("book") or "nec-2023")
    try:
        family = book(book_id).family
    except GumbootError as refused:
        raise BadQuestion("book", "Rule book", str(refused)) from None
    document: dict[str, Any] = {}
    # What a coefficient in mV/K is a share of is read first.
    for name, value in sorted(raw.items(), key=lambda item: "coefficient" in item[0]):
        if value is None or (isinstance(value, str) and not value.strip()):
            continue
        info = fields.get(name)
        if info is None:
            raise BadQuestion(name, name, f"this sum asks for no such thing. It asks for {', '.join(fields)}.")
        extra = _extra(info)
        try:
            document[name] = _typed(
                value, str(extra.get("kind", "")), str(extra.get("unit", "")), family, document.get(str(extra.get("of", "")))
            )
        except GumbootError as refused:
            raise BadQuestion(name, info.title or name, str(refused)) from None
    try:
        return entry.asks.model_validate(document)
    except ValidationError as refused:
        row = refused.errors()[0]
        name = str(row["loc"][0]) if row["loc"] else ""
        title = (fields[name].title if name in fields else None) or name
        raise BadQuestion(name, title, _said(row)) from None


def answer_json(entry: Sum, answer: Answer) -> dict[str, Any]:
    """An answer as plain data: the figure, its text, the whole working, findings, lines."""
    return {
        "sum": entry.name,
        "title": entry.title,
        "answer": figure_text(answer.figure),
        "figure": {"key": answer.figure.key, **figure_json(answer.figure)},
        "working": {f.key: figure_json(f) for f in answer.figures},
        "findings": [finding_json(f) for f in answer.findings],
        "lines": list(answer.lines),
    }

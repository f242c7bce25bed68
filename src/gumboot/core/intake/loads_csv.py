"""Loads from a CSV file: one circuit a line."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import isfinite
from typing import Any

from pydantic import ValidationError

from gumboot.core.job.model import Load
from gumboot.core.job.names import slug

COLUMNS = (
    "id",
    "title",
    "running_w",
    "surge_w",
    "leg",
    "side",
    "duty",
    "from_hour",
    "to_hour",
    "starts_with",
    "priority",
    "movable",
    "board",
)
NEEDED = ("title", "running_w")
MOST_LINES, MOST_BYTES = 500, 400_000


@dataclass(frozen=True)
class BadLine:
    """A line that cannot be used: its number in the file, and what to do about it."""

    line: int
    text: str


@dataclass(frozen=True)
class LoadsRead:
    """Loads that could be read and lines that could not."""

    loads: tuple[Load, ...]
    bad: tuple[BadLine, ...]


def dialect(text: str) -> str:
    """The separator of a table: the first of semicolon, tab, comma that its first line holds."""
    first = text.lstrip("\ufeff").split("\n", 1)[0]
    return next((mark for mark in (";", "\t", ",") if mark in first), ",")


def rows_of(text: str, separator: str) -> list[list[str]]:
    """Cells of a table, whatever ends its lines. A quote that is never closed takes the rest into one cell, which is then refused."""
    plain = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n").replace("\0", "")
    try:
        return list(csv.reader(io.StringIO(plain), delimiter=separator))
    except csv.Error:
        return [line.split(separator) for line in plain.split("\n")]


def data_lines(lines: list[list[str]], most: int, bad: list[BadLine]) -> Iterator[tuple[int, list[str]]]:
    """Lines below the header that hold anything, with their number in the file; what is beyond the most is named in ``bad``."""
    for n, cells in enumerate(lines[1:], start=2):
        if not any(c.strip() for c in cells):
            continue
        if n > most + 1:
            bad.append(BadLine(n, f"Only the first {most} lines are read."))
            return
        yield n, cells


def number(text: str, separator: str) -> float:
    """A number with a point, or with a decimal comma where the comma is not the separator. Raises ValueError."""
    cleaned = text.strip().replace("\u202f", "").replace(" ", "").replace("−", "-")
    if separator != ",":
        cleaned = cleaned.replace(",", ".")
    value = float(cleaned)
    if not isfinite(value):
        raise ValueError(text)
    return value


SIGNS = ("=", "+", "-", "@")


def _guarded(text: str) -> str:
    """Text that no spreadsheet reads as a formula."""
    return f"'{text}" if text.startswith(SIGNS) else text


def _unguarded(text: str) -> str:
    return text[1:] if text[:1] == "'" and text[1:].startswith(SIGNS) else text


def _row(row: dict[str, str], separator: str, taken: set[str], legs: Sequence[str]) -> Load:
    data: dict[str, Any] = {}
    for key, value in row.items():
        if value.strip() == "":
            continue
        if key in ("running_w", "surge_w", "duty"):
            try:
                data[key] = number(value, separator)
            except ValueError:
                raise ValueError(f"{key} '{value}' is not a number") from None
        elif key in ("from_hour", "to_hour", "priority"):
            try:
                data[key] = int(number(value, separator))
            except ValueError:
                raise ValueError(f"{key} '{value}' is not a whole number") from None
        elif key == "movable":
            if value.strip().lower() not in ("yes", "no", "true", "false", "1", "0"):
                raise ValueError(f"movable '{value}' is neither yes nor no")
            data[key] = value.strip().lower() in ("yes", "true", "1")
        else:
            data[key] = _unguarded(value.strip())
    for key in NEEDED:
        if key not in data:
            raise ValueError(f"{key} is empty")
    data.setdefault("surge_w", data["running_w"])
    data.setdefault("leg", legs[0])
    data.setdefault("side", "house")
    data.setdefault("id", slug(data["title"], taken))
    if data["id"] in taken:
        raise ValueError(f"id '{data['id']}' is already on this job")
    return Load.model_validate(data)


def read_loads(text: str, taken: set[str], legs: Sequence[str]) -> LoadsRead:
    """Loads of a CSV with a header line. ``taken`` are ids already used; ``legs`` those of the inverter, the first the default.

    Columns are title and running_w, and any of the others; separators comma, semicolon or tab. Lines that are wrong are named, and
    the right ones are given all the same: the caller decides whether to take them.
    """
    separator = dialect(text)
    lines = rows_of(text, separator)
    if not lines or not any(c.strip() for c in lines[0]):
        return LoadsRead((), (BadLine(1, "The file is empty. Begin with a line of column names: title, running_w."),))
    header = [c.strip().lower() for c in lines[0]]
    unknown = [c for c in header if c not in COLUMNS]
    lacking = [c for c in NEEDED if c not in header]
    if unknown or lacking:
        said = ([f"unknown columns {', '.join(unknown)}"] if unknown else []) + (
            [f"missing columns {', '.join(lacking)}"] if lacking else []
        )
        return LoadsRead((), (BadLine(1, f"{'; '.join(said).capitalize()}. Known are {', '.join(COLUMNS)}."),))
    loads: list[Load] = []
    bad: list[BadLine] = []
    used = set(taken)
    for n, cells in data_lines(lines, MOST_LINES, bad):
        if len(cells) > len(header):
            bad.append(BadLine(n, f"{len(cells)} cells under {len(header)} column names. Put text with a separator in quotes."))
            continue
        try:
            load = _row(dict(zip(header, cells, strict=False)), separator, used, legs)
        except ValidationError as refused:
            row = refused.errors()[0]
            where = ".".join(str(p) for p in row["loc"])
            bad.append(BadLine(n, f"{where + ': ' if where else ''}{row['msg'].removeprefix('Value error, ')}."))
            continue
        except ValueError as refused:
            bad.append(BadLine(n, f"{str(refused).capitalize()}."))
            continue
        loads.append(load)
        used.add(load.id)
    return LoadsRead(tuple(loads), tuple(bad))


def loads_csv(loads: Sequence[Load]) -> str:
    """The loads as CSV, as read_loads reads it: export, import, export is byte-stable."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(COLUMNS)
    for load in loads:
        row = load.model_dump()
        write.writerow(
            [
                ("yes" if row[c] else "no")
                if c == "movable"
                else f"{row[c]:g}"
                if isinstance(row[c], float)
                else _guarded(row[c])
                if isinstance(row[c], str)
                else row[c]
                for c in COLUMNS
            ]
        )
    return out.getvalue()

"""Reads the rule-book tables once, at import. The only file reader of the core."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from gumboot.core.errors import BadFigure

HERE = Path(__file__).parent


@dataclass(frozen=True, slots=True)
class Source:
    """Where a value or a rule comes from, and how well we know it."""

    key: str
    area: str
    work: str
    edition: str
    clause: str
    known: str
    title: str
    formula: str
    valid: str
    left: str

    @property
    def citation(self) -> str:
        """Work, edition and clause as a person cites them."""
        return " ".join(part for part in (self.work, self.edition, self.clause) if part)


def read_table(relative_path: str) -> list[dict[str, str]]:
    """Rows of one table; the header carries the units."""
    with (HERE / relative_path).open(newline="", encoding="utf-8") as handle:
        return list(csv.DictReader(handle))


@lru_cache(maxsize=1)
def sources() -> dict[str, Source]:
    """The register of sources by key."""
    return {row["key"]: Source(**row) for row in read_table("sources.csv")}


def source(key: str) -> Source:
    """One source; raises BadFigure for a key that the register lacks."""
    try:
        return sources()[key]
    except KeyError:
        raise BadFigure(f"no source '{key}' in the register") from None

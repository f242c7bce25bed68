"""The mistakes of the trade, numbered for good: what each is, the acts that guard against it, and what no rule can say yet."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Mistake:
    """One mistake. ``acts`` are what is done on site against it, ``tests`` the test of that, ``beyond`` what is not expressed yet."""

    id: str
    mistake: str
    acts: str
    tests: str
    beyond: str


def _load() -> tuple[Mistake, ...]:
    with (Path(__file__).parent / "mistakes.csv").open(newline="", encoding="utf-8") as handle:
        return tuple(Mistake(**row) for row in csv.DictReader(handle))


MISTAKES = _load()

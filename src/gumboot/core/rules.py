"""The register of rules: every finding code with its level, station, source and what it guards against."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from pathlib import Path
from typing import cast

from gumboot.core.finding import Level


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule as the reference lists it. ``source_iec`` is empty for a rule that only North American practice has."""

    code: str
    level: Level
    station: str
    mistake: str
    source: str
    source_iec: str
    holds: str
    valid: str
    left: str

    def source_for(self, family: str) -> str:
        """Source key under a code family."""
        return self.source_iec if family == "iec" and self.source_iec else self.source


def _load() -> dict[str, Rule]:
    with (Path(__file__).parent / "rules.csv").open(newline="", encoding="utf-8") as handle:
        return {row["code"]: Rule(level=cast(Level, row.pop("level")), **row) for row in csv.DictReader(handle)}


RULES: dict[str, Rule] = _load()

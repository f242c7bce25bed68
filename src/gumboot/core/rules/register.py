"""The register of rules: every finding code with its level, station, source and what it guards against, and the rule itself.

A rule is a pure function of frozen facts. It is registered once, under a code of the register, when its module is imported: a code
that the register lacks, or one that has its rule already, ends the import. Whoever needs the answer asks the rule; nobody else judges.
"""

from __future__ import annotations

import csv
import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path
from typing import Generic, TypeVar, cast

from gumboot.core.errors import BadRule
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding, Level


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
Code = StrEnum("Code", {code.replace("-", "_"): code for code in RULES})  # type: ignore[misc]


@dataclass(frozen=True, slots=True)
class Breach:
    """What a rule says when it does not hold. ``level`` and ``source`` stand in for the register's where this case has its own.

    A ``field`` that begins with a dot lies within the part of the job that is asked about, such as one of several walls.
    """

    where: str
    text: str
    act: str
    found: Figure | None = None
    limit: Figure | None = None
    field: str = ""
    level: Level | None = None
    source: str = ""


F = TypeVar("F")


@dataclass(frozen=True, slots=True)
class Asked(Generic[F]):
    """A rule that can be asked: called with its facts it gives the breach, or nothing where it holds."""

    code: Code
    judge: Callable[[F], Breach | None]

    def __call__(self, facts: F) -> Breach | None:
        """The breach, or None."""
        return self.judge(facts)

    @property
    def entry(self) -> Rule:
        """Its row of the register."""
        return RULES[self.code]

    def finding(self, breach: Breach, family: str, station: str = "", within: str = "") -> Finding:
        """A breach as the finding of a plan or of a reading: with level, station and clause of the register where it has none of its own.

        ``within`` is the path of the part of the job that was asked about.
        """
        entry = self.entry
        return Finding(
            code=entry.code,
            level=breach.level or entry.level,
            station=station or entry.station,
            where=breach.where,
            text=breach.text,
            act=breach.act,
            source=breach.source or entry.source_for(family),
            found=breach.found,
            limit=breach.limit,
            field=within + breach.field if breach.field.startswith(".") else breach.field,
        )


ASKED: dict[str, Asked[object]] = {}


def rule(code: str) -> Callable[[Callable[[F], Breach | None]], Asked[F]]:
    """Register a function as the rule of a code. Raises BadRule for an unknown code, and for a second rule of one code."""
    if code not in RULES:
        raise BadRule(f"the register has no rule {code}")

    def registered(judge: Callable[[F], Breach | None]) -> Asked[F]:
        if code in ASKED:
            raise BadRule(f"{code} has its rule already, in {ASKED[code].judge.__module__}")
        made = Asked(Code(code), judge)
        ASKED[code] = cast("Asked[object]", made)
        return made

    return registered


def all_rules() -> dict[str, Asked[object]]:
    """Every rule by its code, whatever module it stands in."""
    package = importlib.import_module("gumboot.core.rules")
    for module in pkgutil.iter_modules(package.__path__):
        importlib.import_module(f"gumboot.core.rules.{module.name}")
    return dict(ASKED)

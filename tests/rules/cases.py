"""How a rule is tried: facts at its limit, facts just beyond, and everything that its breach says."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from gumboot.core.figure import Figure
from gumboot.core.rules import Asked, Breach


def f(name: str, value: float, unit: str = "A") -> Figure:
    """A figure that can be told from others by its key."""
    return Figure(name, name, name, value, unit, source="arith")


@dataclass(frozen=True)
class Case:
    """One way in which a rule is broken.

    ``facts`` sit at the limit; ``beyond`` are the fields that go just beyond it. ``where``, ``found``, ``limit``, ``field``, ``level``
    are what the breach must name (figures by key); ``says`` and ``act`` stand whole or in part in its words.
    """

    rule: Asked[Any]
    facts: Any
    beyond: dict[str, Any]
    where: str
    says: str
    act: str
    found: str = ""
    limit: str = ""
    field: str = ""
    level: str = ""
    source: str = ""


def prove(case: Case) -> None:
    """The rule holds at the limit; just beyond it says all that it should."""
    assert case.rule(case.facts) is None, "it does not hold at its limit"
    breach: Breach | None = case.rule(case.facts.but(**case.beyond))
    assert breach is not None, "it holds beyond its limit"
    assert case.says in breach.text, breach.text
    assert case.act in breach.act, breach.act
    assert (breach.where, breach.field, breach.level or "", breach.source) == (case.where, case.field, case.level, case.source)
    assert (breach.found.key if breach.found else "") == case.found
    assert (breach.limit.key if breach.limit else "") == case.limit

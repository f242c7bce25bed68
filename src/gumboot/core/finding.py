"""Findings and gaps: what a rule says of this job, and what it cannot say yet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.values import Values

Level = Literal["stop", "caution", "note"]


class Finding(Values):
    """A rule's verdict at one place of the job.

    ``where`` names the thing (a tracker, a circuit, a hole); ``field`` is the path of the
    decision that cures it, where one does. ``act`` says what to do in plain words.
    """

    code: str
    level: Level
    station: str
    where: str
    text: str
    act: str
    source: str
    found: Figure | None = None
    limit: Figure | None = None
    field: str = ""

    @property
    def key(self) -> str:
        """Stable identity: the rule and the place it speaks of."""
        return f"{self.code}@{self.where}"


@dataclass(frozen=True, slots=True)
class Gap:
    """A required answer that nobody has given, and what waits for it."""

    path: str
    station: str
    question: str
    holds_up: str

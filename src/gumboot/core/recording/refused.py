"""Why something is no record: the field, and what to do."""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.acts import Act
from gumboot.core.plan.derive import Plan
from gumboot.core.standing import Standing


class Refused(NamedTuple):
    """Why a record is none: the field and, in words, what to do."""

    field: str
    text: str


Answered = Refused | None


class At(NamedTuple):
    """What a record is looked at under."""

    plan: Plan
    standing: Standing
    act: Act

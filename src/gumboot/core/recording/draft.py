"""What was typed or tapped, on its way to be a record."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from gumboot.core.acts import Act
from gumboot.core.errors import BadUnit
from gumboot.core.plan.derive import Plan
from gumboot.core.reading import parse
from gumboot.core.recording.refused import Refused
from gumboot.core.standing import Standing


class Draft(NamedTuple):
    """What is on its way to be a record: the act, the plan and standing it is made under, what was typed, and what every record says.

    ``system`` is the system of units that the page shows, ``said`` id, act, time, doer and revision; ``under`` the plan of an earlier
    revision, where it was made under one.
    """

    plan: Plan
    standing: Standing
    act: Act
    typed: Mapping[str, str]
    system: str
    said: Mapping[str, Any]
    under: Plan | None = None

    def text(self, field: str) -> str:
        """What was typed into a field, without the space around it."""
        return self.typed.get(field, "").strip()


class BadDraft(Exception):
    """What was typed is no record: the field and the words."""

    def __init__(self, field: str, text: str) -> None:
        super().__init__(text)
        self.refused = Refused(field, text)


def quantity_of(d: Draft, field: str, unit: str, name: str) -> float:
    """What was typed into a field, in a unit. Raises BadDraft, by the field's name where it has one."""
    try:
        return parse(d.typed.get(field, ""), unit)
    except BadUnit as refused:
        raise BadDraft(field, f"{name}: {refused}" if name else str(refused)) from None

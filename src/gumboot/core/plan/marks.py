"""What is marked at both its ends: every string and every lead. Strings that were exchanged are found by their marks alone."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.job.roof import String
from gumboot.core.plan.leads.parts import Lead
from gumboot.core.plan.strings.parts import StringsPlan

POLES = ("+", "−")


class Mark(NamedTuple):
    """One mark: what it is on, where it goes, and its words."""

    thing: str
    where: str
    text: str


def string_marks(strings: Sequence[String], plan: StringsPlan | None) -> tuple[Mark, ...]:
    """Both conductors of every string, at the roof and at the input that it comes down to.

    Where somebody wrote no label, a string is called by its name.
    """
    found = []
    for string in strings:
        hangs = plan.of(string.id) if plan is not None else None
        ends = (("at the roof", string.label_top), (f"at {hangs.name if hangs else string.tracker}", string.label_bottom))
        found += [Mark(string.id, f"String {string.id} {where}", f"{label or string.id} {pole}") for where, label in ends for pole in POLES]
    return tuple(found)


def numbers_of(leads: Sequence[Lead]) -> dict[str, str]:
    """What each lead is called on its marks, on the drawing and in the list: L1, L2 in the order in which they are made."""
    return {lead.id: f"L{n}" for n, lead in enumerate(leads, start=1)}


def lead_marks(leads: Sequence[Lead]) -> tuple[Mark, ...]:
    """Both ends of every lead that is a cable."""
    numbers = numbers_of(leads)
    return tuple(
        Mark(lead.id, f"{numbers[lead.id]} at {end.title}{f', {end.socket}' if end.socket else ''}", f"{numbers[lead.id]} {lead.title}")
        for lead in leads
        if not lead.is_air
        for end in lead.ends
    )


def marks_of(strings: Sequence[String], plan: StringsPlan | None, leads: Sequence[Lead]) -> tuple[Mark, ...]:
    """Every mark of a house, strings first."""
    return (*string_marks(strings, plan), *lead_marks(leads))

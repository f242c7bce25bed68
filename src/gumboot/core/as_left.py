"""Is a setting as it was left in the device the one that the sheet asks for? Compared as quantities, times and choices, not as text."""

from __future__ import annotations

import re
from datetime import datetime, timedelta

from gumboot.core.errors import BadUnit
from gumboot.core.plan.settings import Setting
from gumboot.core.reading import parse

_TIME = re.compile(r"\b([01]?\d|2[0-3])[:.h]([0-5]\d)\b\s*(am|pm)?", re.IGNORECASE)
_DIGITS = re.compile(r"\d+(?:[.,](\d+))?")
CLOCK_MINUTES = 10
# Two numbers that differ by no more than this share of them are the same one.
SAME = 1e-6


def words_of(text: str) -> frozenset[str]:
    """The words and numbers of a text, whatever their case, order and punctuation."""
    return frozenset(re.findall(r"[0-9]+|[^\W\d_]+", text.lower())) - {"v", "the", "to", "is", "set"}


def _quantity(row: Setting, typed: str) -> bool:
    asked = row.amount
    try:
        left = parse(typed, asked.unit)
    except BadUnit:
        return False
    if row.unsigned and left * asked.value < 0:
        left = -left
    shown = _DIGITS.search(typed)
    # Half of the last digit that the display shows, in the unit that was typed.
    last = 0.5 * 10.0 ** -len(shown.group(1) or "") if shown else 0.0
    bare = typed.strip()[-1:].isdigit() or typed.strip().endswith(asked.unit)
    most = row.share * abs(asked.value)
    allowed = min(last, most) if bare else most
    return abs(left - asked.value) <= max(allowed, SAME * max(1.0, abs(asked.value))) + 1e-9


def _time(typed: str, at: datetime, utc_offset_h: float | None) -> bool:
    """A clock that was read: right when it shows local time, summer time allowed."""
    found = _TIME.search(typed)
    if found is None:
        return bool(words_of(typed) & {"local", "yes", "done", "right"})
    if utc_offset_h is None:
        return True
    hour = int(found.group(1)) % 12 + (12 if (found.group(3) or "").lower() == "pm" else 0) if found.group(3) else int(found.group(1))
    local = at + timedelta(hours=utc_offset_h)
    off = (hour * 60 + int(found.group(2)) - local.hour * 60 - local.minute) % 1440
    return any(min((off - summer) % 1440, (summer - off) % 1440) <= CLOCK_MINUTES for summer in (0, 60))


def _choice(row: Setting, typed: str) -> bool:
    said, asked = words_of(typed), words_of(row.text)
    if not said:
        return False
    if said == asked or any(said == words_of(other) for other in row.also):
        return True
    number = row.text.split(" ", maxsplit=1)[0]
    if number.isdecimal():
        # A numbered choice is told by its number, or by its whole name; a number within the name is not its number.
        return said == asked - {number} or (number in said and said <= asked)
    if all(word.isdecimal() for word in said):
        return False  # a voltage alone names no supply
    fits = {choice for choice in {row.text, *row.choices} if said <= words_of(choice)}
    exact = {choice for choice in fits if said == words_of(choice)}
    return (exact or fits) == {row.text}


def as_asked(row: Setting, typed: str, at: datetime, utc_offset_h: float | None = None) -> bool:
    """Whether what the device shows, read at a moment, is what a line of the sheet asks for."""
    if row.figure is not None:
        return _quantity(row, typed)
    return _time(typed, at, utc_offset_h) if row.time else _choice(row, typed)


def is_safer(row: Setting, typed: str) -> bool:
    """Whether what was left instead lies on the careful side of what is asked."""
    if row.figure is None or not row.safer:
        return False
    try:
        left = parse(typed, row.figure.unit)
    except BadUnit:
        return False
    size, asked = (abs(left), abs(row.figure.value)) if row.unsigned else (left, row.figure.value)
    return 0 <= size < asked if row.safer == "lower" else size > asked

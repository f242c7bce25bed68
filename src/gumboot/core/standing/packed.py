"""Which lines of a load are in the van?"""

from __future__ import annotations

from gumboot.core.acts import Act
from gumboot.core.record import AnyRecord, Packed

# So many lines are told by their words, the rest by its number.
SHORT = 3


def unpacked(act: Act, record: AnyRecord | None) -> tuple[str, ...]:
    """The lines of a load that are not in the van."""
    there = set(record.packed) if isinstance(record, Packed) else set()
    return tuple(line for line in act.band.lines if line not in there)


def missing_words(act: Act, record: AnyRecord) -> str:
    """What is not in, in words; empty where all is."""
    left = unpacked(act, record)
    more = f" and {len(left) - SHORT} more" if len(left) > SHORT else ""
    return f"not in the van: {'; '.join(left[:SHORT])}{more}" if left else ""

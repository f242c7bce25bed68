"""Records of drilling: how far the holes came out beside their marks."""

from __future__ import annotations

from gumboot.core.errors import BadUnit
from gumboot.core.reading import parse
from gumboot.core.record import Drilled
from gumboot.core.recording.draft import BadDraft, Draft
from gumboot.core.recording.inputs import LENGTH_UNITS

# Beyond this a box hangs elsewhere, and the plan has to say where.
MOST_MM = 500.0


def _off(d: Draft, field: str, words: str) -> float:
    """How far a hole came out, mm, in the unit that was chosen; nothing typed is nothing off."""
    said, unit = d.text(field), d.typed.get("unit", "mm")
    if not said:
        return 0.0
    try:
        off = parse(said if any(letter.isalpha() for letter in said) else f"{said} {unit if unit in LENGTH_UNITS else 'mm'}", "mm")
    except BadUnit as refused:
        raise BadDraft(field, f"{words}: {refused}") from None
    if abs(off) > MOST_MM:
        raise BadDraft(field, f"{words}: {off:g} mm is another place. Move the box in the plan, and mark it anew.")
    return off


def draft_drilled(d: Draft) -> Drilled:
    """How far the worst hole came out right of its mark and above it. Raises BadDraft."""
    return Drilled(**d.said, right_mm=_off(d, "right", "Right of its mark"), up_mm=_off(d, "up", "Above its mark"))

"""Records of linking, read and judged: the numbers of a display, and where each core of a lead beeped."""

from __future__ import annotations

from gumboot.core.record import ReadBack, Rung
from gumboot.core.recording.draft import BadDraft, Draft
from gumboot.core.recording.inputs import HEARD, inputs_of
from gumboot.core.recording.refused import Answered, At, Refused
from gumboot.core.sim.ringing import NONE, PLUG, SCREEN, SEVERAL

MOST_SHOWN = 9999


def read_back(at: At, record: ReadBack) -> Answered:
    """Every number that is asked for, and none beside."""
    wanted = at.act.band.wants
    if set(record.shown) != set(wanted):
        return Refused("value", f"Type what the display shows: {' and '.join(wanted)}.")
    if any(not 0 <= shown <= MOST_SHOWN for shown in record.shown.values()):
        return Refused("value", f"A display shows a whole number from 0 to {MOST_SHOWN}.")
    return None


def rung(at: At, record: Rung) -> Answered:
    """Every core once, each at a pin that there is."""
    lead = at.plan.leads.of(at.act.name)
    if lead is None:
        return Refused("value", "That lead is not part of this plan.")
    pins = {str(wire.first) for wire in lead.wires}
    if set(record.heard) != pins:
        return Refused("value", f"Say of every core where it beeped: {', '.join(sorted(pins, key=int))}.")
    at_other = {NONE, SCREEN, SEVERAL, *(pin.pin for pin in lead.ends[1].pins), *range(1, PLUG + 1)}
    if any(heard not in at_other for heard in record.heard.values()):
        return Refused("value", f"{lead.ends[1].title} has no such pin.")
    return None


def _whole(d: Draft, field: str) -> int:
    """A whole number as it was typed."""
    said = d.text(field)
    if not said.isascii() or not said.isdecimal() or len(said) > 4:
        raise BadDraft(field, f"{field.capitalize()}: write the number that the display shows, such as 2.")
    return int(said)


def draft_read_back(d: Draft) -> ReadBack:
    """What a display shows, as it was typed. Raises BadDraft."""
    return ReadBack(**d.said, shown={name: _whole(d, name) for name in d.act.band.wants})


def draft_rung(d: Draft) -> Rung:
    """Where each core beeped; a pin by its number, else a word. Raises BadDraft."""
    heard = {}
    for asked in inputs_of(d.plan, d.standing, d.act):
        said = d.text(asked.name)
        if said not in asked.choices:
            raise BadDraft(asked.name, f"{asked.words[:1].upper()}{asked.words[1:]}: choose {', '.join(asked.choices)}.")
        heard[asked.name.removeprefix("pin-")] = HEARD[said] if said in HEARD else int(said)
    return Rung(**d.said, heard=heard)

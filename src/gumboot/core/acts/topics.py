"""To which part of the work an act belongs, as the notes of cards and their manuals name it."""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.acts.act import Act, Kind
from gumboot.core.card.fitting_up import Topic

# Which parts of a card's notes and of its manual belong to an act.
TOPICS: Mapping[Kind, tuple[Topic, ...]] = {
    **dict.fromkeys((Kind.UNPACK, Kind.INSIDE, Kind.MARKED, Kind.HOLE, Kind.LIFT, Kind.FIXED), ("wall",)),
    **dict.fromkeys((Kind.TORQUE, Kind.RECHECK, Kind.JOINT, Kind.FERRITE, Kind.BRIDGED, Kind.ENTRIES), ("landing",)),
    **dict.fromkeys((Kind.RITUAL, Kind.READ_BACK), ("programming",)),
    **dict.fromkeys((Kind.LEAD, Kind.RING, Kind.BRIDGE), ("links",)),
    **dict.fromkeys((Kind.CORE, Kind.METER), ("sensing",)),
    **dict.fromkeys((Kind.STEP, Kind.OFF), ("power-up",)),
    Kind.COVER: ("cover",),
    Kind.SETTING: ("settings",),
}


def topics_of(act: Act) -> tuple[Topic, ...]:
    """The topics of an act, the nearest first; none where no part of a card speaks of such acts."""
    return TOPICS.get(act.kind, ())

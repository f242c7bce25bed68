"""What pages say of acts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from gumboot.core.acts import Act, Kind
from gumboot.core.record import AnyRecord
from gumboot.core.standing.holds import told
from gumboot.core.standing.stations import COUNTS
from gumboot.web.view import Bench

# How the fields of an act are marked on its page, by the word that its id begins with.
MARKS = {"clear": "check", "ritual": "link"}


def act_mark(act: Act) -> str:
    """How a page marks the row and the field of an act."""
    word, _, name = act.id.partition(":")
    return "sign-off" if word == "sign-off" else f"{MARKS.get(word, word)}-{name}"


def last_of(view: Bench, act: Act) -> AnyRecord | None:
    """The record that stands of an act."""
    return view.standing.last.get(act.id)


def held_by(view: Bench, act: Act) -> tuple[str, ...]:
    """What holds an act back, in words."""
    return told(view.plan, act, view.standing.gates.held_by(act.id))


def acts_at(view: Bench, kinds: Sequence[str]) -> list[Act]:
    """The acts of these kinds at the station of the page; of the way back those that have something to take back."""
    rows = [act for act in view.standing.acts.of(view.station) if act.kind in kinds]
    return [a for a in rows if a.kind is not Kind.OFF or any(view.standing.stands[i].holds for i in a.undoes)]


def count_of(view: Bench, acts: Sequence[Act]) -> str:
    """How many of them are done; nothing of those that nobody waits for."""
    asked = [act for act in acts if not act.is_optional]
    done = sum(view.standing.stands[act.id].state in COUNTS for act in asked)
    return f"{done} of {len(asked)}" if asked else ""


def only_promised(view: Bench) -> bool:
    """Whether nothing but what comes a day later is missing."""
    missing = view.standing.missing
    return bool(missing) and all("24 h check" in line for line in missing)


WORDS: dict[str, Any] = {
    "act_mark": act_mark,
    "last_of": last_of,
    "held_by": held_by,
    "acts_at": acts_at,
    "count_of": count_of,
    "only_promised": only_promised,
}

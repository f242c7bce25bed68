"""What pages say of acts."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple

from gumboot.core.acts import Act, Kind, Stands, State, ident
from gumboot.core.job.model import ToolItem
from gumboot.core.plan.settings import Setting
from gumboot.core.record import (
    Agreement,
    Answer,
    AnyRecord,
    CardNote,
    Clearance,
    CouldNot,
    Drilled,
    Landing,
    Left,
    MeterReading,
    Packed,
    Photo,
    ReadBack,
    Reading,
    Rung,
    SetAside,
    SignOff,
    Switching,
    TakenBack,
    Words,
)
from gumboot.core.recording import Input, against, could_not_inputs, inputs_of
from gumboot.core.recording.inputs import HEARD
from gumboot.core.recording.may import BACK_WITHIN, LATE
from gumboot.core.standing.history import title_of, wrong_with
from gumboot.core.standing.holds import told
from gumboot.core.standing.stations import COUNTS
from gumboot.web.card_notes import cards_at, notes_of
from gumboot.web.view import Bench

# How the fields of an act are marked on its page, by the word that its id begins with.
MARKS = {"clear": "check", "ritual": "link"}


def act_mark(act: Act) -> str:
    """How a page marks the row and the field of an act."""
    word, _, name = act.id.partition(":")
    return "sign-off" if act.id == "sign-off:job" else f"{MARKS.get(word, word)}-{name}"


def heard_words(heard: int) -> str:
    """Where a core beeped: a pin, or a word."""
    return next((word for word, number in HEARD.items() if number == heard), str(heard))


def rung_words(record: Rung) -> str:
    """A ringing-out, core by core."""
    return ", ".join(f"{pin} at {heard_words(heard)}" for pin, heard in record.heard.items())


def drilled_words(view: Bench, record: Drilled) -> str:
    """How far holes came out beside their marks."""
    sides = ((record.right_mm, "right of", "left of"), (record.up_mm, "above", "below"))
    off = [f"{view.quantity(abs(mm), 'mm')} {more if mm > 0 else less} its mark" for mm, more, less in sides if mm]
    return f"the worst {' and '.join(off)}" if off else "as marked"


def _switched(run: Switching) -> str:
    """What the channels showed with some loads on."""
    on, shown = (
        [leg for leg, watts in run.loads.items() if watts],
        ", ".join(f"{channel} {watts:g} W" for channel, watts in run.after.items()),
    )
    return f"{' and '.join(on)} on: {shown}" if on else shown


def _displays(view: Bench, shown: Sequence[float], unit: str, at: Sequence[datetime] | None) -> str:
    """What each display showed, and when it was read."""
    if not at:
        return " and ".join(view.quantity(value, unit) for value in shown)
    told = (f"{view.quantity(value, unit)} at {when.astimezone(UTC):%H:%M:%S}" for value, when in zip(shown, at, strict=True))
    return f"{' and '.join(told)} UTC"


def last_of(view: Bench, act: Act) -> AnyRecord | None:
    """The record that stands of an act."""
    return view.standing.last.get(act.id)


def stands_there(view: Bench, act: Act, asked: Input) -> str:
    """What stands in the field of an answer: what was typed and refused, else what is on record, else what it begins with."""
    if view.refused == act.id:
        return view.typed.get(asked.name, "")
    record = last_of(view, act)
    if asked.takes == "tool":
        tool = getattr(record, "tool", None)
        return tool.id if tool is not None and not isinstance(record, Landing) else ""
    match record:
        case Reading() if record.shown is not None:
            shown = dict(zip(("value", "second"), record.shown, strict=True))
            return f"{shown[asked.name]:g}" if asked.name in shown else ""
        case Reading() if asked.name == "value":
            return record.typed or ("OL" if record.value is None else f"{record.value:g}")
        case Answer() if asked.sends:
            return "yes" if record.yes else "no"
        case Words() if asked.name == "text":
            return record.text
        case ReadBack():
            return str(record.shown.get(asked.name, ""))
        case Rung() if asked.name.removeprefix("pin-") in record.heard:
            return heard_words(record.heard[asked.name.removeprefix("pin-")])
        case Drilled():
            return f"{record.right_mm if asked.name == 'right' else record.up_mm:g}"
        case Left() if asked.name in ("value", "reason"):
            return record.as_left if asked.name == "value" else record.reason
        case _:
            return asked.stands


def tool_words(act: Act, tool: ToolItem) -> str:
    """A tool as it is chosen, with what speaks against it for this act; of a torque tool the day to which it is calibrated."""
    today = datetime.now(UTC).date()
    until = f"cal. to {tool.calibrated_to}" if act.is_torqued and tool.calibrated_to >= today.isoformat() else ""
    return ", ".join(words for words in (tool.title, until, *against(act, tool, today)) if words)


def held_by(view: Bench, act: Act) -> tuple[str, ...]:
    """What holds an act back, in words."""
    return told(view.plan, act, view.standing.gates.held_by(act.id))


def may_do(view: Bench, act: Act) -> bool:
    """Whether who is signed in does such acts."""
    return view.who.role in act.who


def looks_on(view: Bench) -> bool:
    """Whether who is signed in does none of the acts of the station."""
    acts = [act for act in view.standing.acts.of(view.station) if not act.is_derived and act.kind is not Kind.SIGN_OFF]
    return bool(acts) and not any(may_do(view, act) for act in acts)


def acts_at(view: Bench, kinds: Sequence[str]) -> list[Act]:
    """The acts of these kinds at the station of the page; of the way back what has something to take back, or could not be done."""
    rows = [act for act in view.standing.acts.of(view.station) if act.kind in kinds]
    stands = view.standing.stands
    return [a for a in rows if a.kind is not Kind.OFF or stands[a.id].state is State.FAILED or any(stands[i].holds for i in a.undoes)]


def next_of(view: Bench) -> Act | None:
    """The first act of the station that is open, that nothing holds, and that somebody waits for."""
    stands, gates = view.standing.stands, view.standing.gates
    asked = (act for act in view.standing.acts.of(view.station) if not act.is_optional and not act.is_derived)
    return next((act for act in asked if stands[act.id].state is State.OPEN and not gates.held_by(act.id)), None)


def count_of(view: Bench, acts: Sequence[Act]) -> str:
    """How many of them are done; nothing of those that nobody waits for."""
    asked = [act for act in acts if not act.is_optional]
    done = sum(view.standing.stands[act.id].state in COUNTS for act in asked)
    return f"{done} of {len(asked)}" if asked else ""


class Told(NamedTuple):
    """A record as the history tells it. ``gone`` says why it counts no more; ``late`` that it came in long after it was done."""

    record: AnyRecord
    title: str
    words: str
    wrong: str
    expected: str
    gone: str
    late: bool
    can_go_back: bool


def said_by(view: Bench, record: AnyRecord) -> str:
    """What a record says, in words."""
    match record:
        case Landing() if not record.act.startswith("torque:"):
            tool = f" by {record.tool.title or record.tool.id}" if record.tool else ""
            return f"{view.quantity(record.reached_nm, 'N m') if record.reached_nm is not None else 'no torque'}{tool}"
        case Landing():
            torque = view.quantity(record.reached_nm, "N m") if record.reached_nm is not None else "no torque"
            tool = f" by {record.tool.title or record.tool.id}" if record.tool else ""
            return f"{torque}{tool}, {'held the tug' if record.tug else 'moved at the tug'}"
        case Reading():
            if record.shown is not None:
                return _displays(view, record.shown, record.unit, record.shown_at)
            return view.quantity(record.value, record.unit) if record.value is not None else "beyond the range"
        case Answer():
            return "yes" if record.yes else "no"
        case Words():
            return record.text
        case ReadBack():
            return ", ".join(f"{name} {shown}" for name, shown in record.shown.items())
        case Rung():
            return rung_words(record)
        case Drilled():
            return drilled_words(view, record)
        case Packed():
            return f"{len(record.packed)} lines in"
        case Left():
            return f"left at {record.as_left}"
        case Agreement():
            return f"agreed to {record.as_left}, asked was {record.asked}"
        case MeterReading():
            return "; ".join(_switched(run) for run in record.switched)
        case Clearance():
            return "hold cleared"
        case CouldNot():
            return record.what
        case Photo():
            return "picture"
        case CardNote():
            return f"for the next crew: {record.text}"
        case TakenBack():
            return "taken back"
        case SetAside():
            return f"set aside: {record.said}"
        case SignOff():
            return f"signed, licence {record.licence}"
        case _:
            return "done"


def between(view: Bench, unit: str, low: float | None, high: float | None) -> str:
    """A band in words: between two ends, at least, at most; nothing where neither end is given."""
    least, most = (view.quantity(end, unit) if end is not None else "" for end in (low, high))
    if least and most:
        return f"{least} to {most}"
    return f"at least {least}" if least else f"at most {most}" if most else ""


def _expected(view: Bench, record: AnyRecord) -> str:
    stood = record.stood
    if stood is None or (stood.low is None and stood.high is None):
        return stood.words if stood is not None else ""
    return between(view, stood.unit, stood.low, stood.high)


def can_take_back(view: Bench, record: AnyRecord) -> bool:
    """Whether a slip may still be taken back: by its doer, within the minute."""
    mine = record.doer == view.who.name and not isinstance(record, (TakenBack, SetAside))
    return mine and datetime.now(UTC) - record.done_at <= BACK_WITHIN


def to_agree(view: Bench, row: Setting) -> str:
    """The record of a setting that waits for the agreement of who is signed in; nothing where it waits for none, or for another's."""
    stands = view.standing.settings[row.key]
    differs = stands.record is not None and bool(stands.reason) and not stands.same and not stands.agreed
    asked = differs and bool(row.guards) and view.who.role == "licence holder"
    return stands.record.id if asked and stands.record is not None else ""


def history_of(view: Bench, act_id: str) -> list[Told]:
    """Everything that was ever recorded of an act, what clears or agrees to it among it, the newest first."""
    word, _, name = act_id.partition(":")
    names = {act_id, ident("clear", name)} if word == "check" else {act_id}
    records = view.standing.records
    back = {r.of: "taken back" for r in records if isinstance(r, TakenBack)}
    gone = {r.corrects: "replaced since" for r in records if r.corrects} | back
    found = []
    for record in sorted((r for r in records if r.act in names), key=lambda r: r.done_at, reverse=True):
        late = record.received_at is not None and record.received_at - record.done_at > LATE
        can = record.id not in gone and can_take_back(view, record)
        wrong = wrong_with(view.plan, record, [r for r in records if r.done_at < record.done_at])
        title = title_of(view.standing.acts, record)
        found.append(Told(record, title, said_by(view, record), wrong, _expected(view, record), gone.get(record.id, ""), late, can))
    return found


def state_word(stands: Stands) -> str:
    """How an act stands, in a word."""
    return {"open": "Open", "good": "Good", "failed": "Failed", "cleared": "Cleared", "lapsed": "True no more", "used": "Used up"}[
        stands.state
    ]


def band_text(view: Bench, act: Act) -> str:
    """What an act must show, in words."""
    band = act.band
    ends = [end.value if end is not None else None for end in (band.low, band.high)]
    if words := between(view, band.unit, *ends):
        return words
    return view.quantity(band.expected.value, band.unit) if band.expected is not None else band.words or " or ".join(band.choices)


def facts_of(view: Bench, act: Act) -> list[tuple[str, str]]:
    """What is to be known of an act before it is done, by what it is."""
    told = [
        ("prepare", act.prepare),
        ("see", act.see),
        ("mind", act.caution),
        ("band", band_text(view, act)),
        ("guards", act.guards),
        ("done by", " or ".join(act.who)),
        ("holds", act.lasts.words),
    ]
    return [(term, words) for term, words in told if words]


def figure_of(act: Act) -> str:
    """The figure whose working stands beside an act: what it must show; nothing where that is no figure."""
    figure = act.band.expected or act.band.low or act.band.high
    return figure.key if figure is not None else ""


WORDS: dict[str, Any] = {
    "act_mark": act_mark,
    "last_of": last_of,
    "stands_there": stands_there,
    "inputs_of": inputs_of,
    "could_not_inputs": could_not_inputs,
    "held_by": held_by,
    "tool_words": tool_words,
    "may_do": may_do,
    "looks_on": looks_on,
    "acts_at": acts_at,
    "next_of": next_of,
    "count_of": count_of,
    "can_take_back": can_take_back,
    "said_by": said_by,
    "history_of": history_of,
    "state_word": state_word,
    "facts_of": facts_of,
    "notes_of": notes_of,
    "cards_at": cards_at,
}

"""The one rule of recording."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Literal, NamedTuple

from gumboot.core.acts import Act, Trouble
from gumboot.core.acts import acts as acts_of
from gumboot.core.plan.derive import Plan
from gumboot.core.record import ADDED, Agreement, AnyRecord, CardNote, Clearance, Photo, Reading, Role, SetAside, Stood, TakenBack
from gumboot.core.recording.contents import LEAST_REASON, content_of
from gumboot.core.recording.draft import Draft
from gumboot.core.recording.drafts import agrees, drafted
from gumboot.core.recording.plausible import asked_about, same_number
from gumboot.core.recording.refused import Refused
from gumboot.core.standing import Standing, stand
from gumboot.core.standing.history import wrong_with
from gumboot.core.standing.holds import told

# A record that is older than this as it comes in was made without signal, or lay somewhere: it is kept, whatever it is.
LATE = timedelta(seconds=90)
# How far ahead of the server a device's clock may be after its offset is taken off.
AHEAD = timedelta(minutes=2)
LONGEST_KEPT = timedelta(days=90)
# A slip is taken back from the history within a minute.
BACK_WITHIN = timedelta(seconds=60)


class Person(NamedTuple):
    """Who records: account, name as shown, role."""

    name: str
    display: str
    role: Role


class Verdict(NamedTuple):
    """What becomes of a record: kept as ``record``, refused or asked about, with the field and the words.

    A record that is kept carries what was expected as it was made, and its defects.
    """

    outcome: Literal["kept", "refused", "forbidden", "unknown", "asked"]
    record: AnyRecord | None = None
    field: str = ""
    text: str = ""

    @property
    def is_kept(self) -> bool:
        """Whether it is kept."""
        return self.outcome == "kept"


def _may_do(act: Act, person: Person, *, agrees: bool) -> str:
    """Whether somebody's role does such an act; to a setting that guards life, licence or grid the licence holder agrees."""
    may = ("licence holder",) if agrees else act.who
    return "" if person.role in may else f"{act.title}: a person with the role {' or '.join(may)} does this; you are {person.role}."


def _who(act: Act, record: AnyRecord, person: Person) -> str:
    if record.doer != person.name:
        return f"This was done by {record.doer or 'somebody else'}, and {person.name} is signed in."
    return _may_do(act, person, agrees=isinstance(record, Agreement))


def _when(act: Act, standing: Standing, record: AnyRecord, now: datetime) -> str:
    if record.done_at > now + AHEAD:
        return "It is dated in the future: set the clock of this device."
    if now - record.done_at > LONGEST_KEPT:
        return f"It is older than {LONGEST_KEPT.days} days."
    if act.hours_after:
        first = standing.last.get(act.needs[0])
        if first is None or record.done_at < first.done_at + timedelta(hours=act.hours_after):
            return f"The {act.hours_after:g} hours are not over yet." if act.hours_after < 48 else "The year is not over yet."
    return ""


def _back(record: TakenBack, standing: Standing, now: datetime) -> str:
    """Whether a slip may still be taken back, and by whom."""
    slip = next((r for r in standing.records if r.id == record.of), None)
    if slip is None or slip.act != record.act:
        return "There is no such record to take back."
    if slip.doer != record.doer:
        return "Who made a record takes it back."
    if isinstance(slip, TakenBack):
        return "That is itself a taking back: record the act again."
    if record.done_at < slip.done_at:
        return "It is dated before what it takes back."
    # By the clock of the server too: a time that a device names does not stretch the minute.
    here = slip.received_at is not None and now - slip.received_at > BACK_WITHIN + LATE
    late = here or record.done_at - slip.done_at > BACK_WITHIN
    return "The minute is over: record it again, with the reason." if late else ""


def stood_for(plan: Plan, act: Act, record: AnyRecord) -> Stood:
    """What is expected of an act under the conditions of a record."""
    band, check = act.band, next((c for c in plan.all_checks() if f"check:{c.id}" == act.id), None)
    moved = check.moved_by(record.cell_c) if check is not None and isinstance(record, Reading) else 1.0
    low, high, expected = (None if f is None else f.value * moved for f in (band.low, band.high, band.expected))
    lasts, title = act.lasts, act.title[:200]
    return Stood(
        title=title,
        unit=band.unit,
        low=low,
        high=high,
        expected=expected,
        words=band.words[:500],
        rests=lasts.rests[:500],
        cards=lasts.cards,
    )


def _made_under(plan: Plan, act: Act, under: Plan | None) -> Plan:
    """The plan that a record was made under, where that one has the act."""
    return under if under is not None and act.id in acts_of(under) else plan


def _judged(plan: Plan, standing: Standing, record: AnyRecord) -> AnyRecord:
    """A record with what was wrong as it was made: whatever becomes of the plan, that stays with it."""
    wrong = wrong_with(plan, record, standing.records)[:2000]
    return record.model_copy(update={"stood": record.stood and record.stood.model_copy(update={"wrong": wrong})})


def _kept(record: AnyRecord, person: Person, standing: Standing, **more: object) -> AnyRecord:
    """A record as it is kept: what the server knows better is never taken from who sends it, such as which record it takes the place of."""
    revisions = [r for r in (record.revision, standing.revision) if r is not None]
    known = {"revision": min(revisions, default=None), "role": person.role, "by": person.display}
    said = {"clock_ahead_s": record.clock_ahead_s, "knew": record.knew}
    return record.model_copy(update={**ADDED, **said, **known, **more})


def _question(standing: Standing, act: Act, record: AnyRecord) -> str:
    """What a value asks before it is kept; who clears a reading is asked again what its doer was asked."""
    if isinstance(record, Clearance):
        reading = standing.checks[act.name].record
        return asked_about(standing.acts[f"check:{act.name}"], reading) if reading is not None else ""
    return same_number(standing, act, record) or asked_about(act, record)


def _troubles(plan: Plan, standing: Standing, act: Act, record: AnyRecord, *, late: bool) -> tuple[Trouble, ...]:
    """What held the act back when it was done: of one that comes in late, by what was on record of the time before."""
    if isinstance(record, Photo):
        return ()  # a picture shows what is there, whatever may be done
    if not late:
        return standing.gates.held_by(act.id)
    before = [r for r in standing.records if r.done_at <= record.done_at]
    return stand(plan, before, record.done_at).gates.held_by(act.id)


def _aside(record: SetAside, person: Person, standing: Standing, now: datetime) -> Verdict:
    """What was refused is set aside by who did it, whether there is such an act or not: it stands for nothing."""
    if record.doer != person.name:
        return Verdict("forbidden", text="Who did it sets it aside.")
    if record.done_at > now + AHEAD or now - record.done_at > LONGEST_KEPT:
        return Verdict("refused", field="done_at", text=f"Its time is in the future, or older than {LONGEST_KEPT.days} days.")
    if len(record.reason.strip()) < LEAST_REASON:
        return Verdict("refused", field="reason", text=f"Say why it is set aside, in at least {LEAST_REASON} characters.")
    return Verdict("kept", _kept(record, person, standing))


def _noted(plan: Plan, record: CardNote, person: Person, now: datetime) -> Verdict:
    """A note for the next crew: anybody's who is signed in, of a card that the house has; nothing holds it, and it opens nothing."""
    if record.doer != person.name:
        return Verdict("forbidden", text="Who wrote it sends it.")
    if record.done_at > now + AHEAD or now - record.done_at > LONGEST_KEPT:
        return Verdict("refused", field="done_at", text=f"Its time is in the future, or older than {LONGEST_KEPT.days} days.")
    if record.card not in {card.id for card in plan.house.cards.values()}:
        return Verdict("refused", field="card", text=f"This house has no card '{record.card}'. Choose the thing that the note is about.")
    return Verdict("kept")


def may_record(
    plan: Plan, standing: Standing, record: AnyRecord, person: Person, now: datetime, *, sure: bool = False, under: Plan | None = None
) -> Verdict:
    """Whether a record is kept. ``sure`` is given with what was asked about, ``under`` where it was made under an earlier revision's plan.

    An act whose gate is closed is refused while it is done; one that comes in late, from a phone without signal, was done already: it is
    kept with its defect, and opens nothing.
    """
    if isinstance(record, SetAside):
        return _aside(record, person, standing, now)
    if isinstance(record, CardNote):
        verdict = _noted(plan, record, person, now)
        return Verdict("kept", _kept(record, person, standing)) if verdict.is_kept else verdict
    act = standing.acts.get(record.act)
    if act is None or act.is_derived:
        return Verdict("unknown", text="That is no act of this plan any more.")
    if refused := _who(act, record, person):
        return Verdict("forbidden", text=refused)
    if refused := _when(act, standing, record, now):
        return Verdict("refused", field="done_at", text=refused)
    if isinstance(record, TakenBack):
        refused = _back(record, standing, now)
        return Verdict("refused", field="of", text=refused) if refused else Verdict("kept", _kept(record, person, standing))
    if wrong := content_of(plan, standing, act, record):
        return Verdict("refused", field=wrong.field, text=wrong.text)
    defects: tuple[str, ...] = ()
    late = now - record.done_at > LATE
    troubles = _troubles(plan, standing, act, record, late=late)
    if held := told(plan, act, troubles):
        if not late:
            return Verdict("refused", field="gate", text=f"Held by {held[0]}. {troubles[0].opens}")
        defects = (f"out of order: {held[0]}"[:500],)
    if not sure and (question := _question(standing, act, record)):
        return Verdict("asked", field="value", text=question)
    then = _made_under(plan, act, under)
    # Who records now has what stands before them, unless their phone says what it knew.
    last = standing.last.get(act.id)
    knew = record.knew if late or record.knew is not None else (last.id if last is not None else "")
    kept = _kept(record, person, standing, stood=stood_for(then, acts_of(then)[act.id], record), defects=defects, knew=knew)
    return Verdict("kept", _judged(then, standing, kept))


def receive(draft: Draft, person: Person, now: datetime, *, sure: bool = False) -> Verdict:
    """What becomes of what somebody typed or tapped: who may not is told so before anything is said of what was typed."""
    if refused := _may_do(draft.act, person, agrees=agrees(draft)):
        return Verdict("forbidden", text=refused)
    record = drafted(draft)
    if isinstance(record, Refused):
        return Verdict("refused", field=record.field, text=record.text)
    return may_record(draft.plan, draft.standing, record, person, now, sure=sure, under=draft.under)

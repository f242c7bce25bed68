"""What each kind of record must say to be one."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from gumboot.core.acts import Act, Kind
from gumboot.core.plan.derive import Plan
from gumboot.core.record import (
    Agreement,
    Answer,
    AnyRecord,
    Clearance,
    CouldNot,
    Done,
    Drilled,
    Landing,
    Left,
    MeterReading,
    Packed,
    Photo,
    ReadBack,
    Reading,
    Rung,
    SignOff,
    TakenBack,
    ToolUsed,
    Words,
)
from gumboot.core.recording.linked import read_back, rung
from gumboot.core.recording.refused import Answered, At, Refused
from gumboot.core.rules.landings import NO_TORQUE
from gumboot.core.standing import Standing, asked_text, read_in

LEAST_REASON = 10
LEAST_LICENCE = 3
# As the questions of the plan take them.
COLDEST_CELL, HOTTEST_CELL, LEAST_FACTOR = -40, 90, 0.2
# More than any house draws.
MOST_WATTS = 1e6


def _reason(record: AnyRecord, words: str) -> Answered:
    short = len(record.reason.strip()) < LEAST_REASON
    return Refused("reason", f"{words} in at least {LEAST_REASON} characters.") if short else None


def _tool(at: At, used: ToolUsed) -> Answered:
    """A tool is one of the job's, and is calibrated no longer than the job says."""
    known = next((tool for tool in at.plan.job.tools if tool.id == used.id), None)
    if known is None:
        return Refused("tool", f"Tool: {used.title or used.id or 'that'} is no tool of this job. Add it on Wire, then choose it.")
    if (used.calibrated_to or "") > known.calibrated_to:
        return Refused(
            "tool", f"Tool: the calibration of {known.title} ends {known.calibrated_to} in this job. Put that right on Wire first."
        )
    return None


def _landing(at: At, record: Landing) -> Answered:
    term = at.plan.termination(at.act.name)
    if term is not None and term.tightened_by == "unknown":
        return Refused("reached", f"{NO_TORQUE.capitalize()}.")
    if at.act.band.expected is None:
        return None
    if record.reached_nm is None:
        return Refused("reached", "Torque reached: give a value above 0 N m and below 500 N m.")
    if record.tool is None or not record.tool.id:
        return Refused("tool", "Tool: choose the torque tool that you used.")
    if refused := _tool(at, record.tool):
        return refused
    low, high = record.tool.low, record.tool.high
    if (low is not None and record.reached_nm < low) or (high is not None and record.reached_nm > high):
        span = f"{low if low is not None else 0:g} to {high:g} N m" if high is not None else f"from {low:g} N m"
        return Refused("tool", f"Tool: {record.tool.title or record.tool.id} reads {span}; {record.reached_nm:.4g} N m is outside that.")
    return None


def _instrument(at: At, record: Reading) -> Answered:
    """An instrument is one of the job's, and on no more than it is rated for."""
    if record.tool is None:
        return None
    if refused := _tool(at, record.tool):
        return refused
    known = next(tool for tool in at.plan.job.tools if tool.id == record.tool.id)
    value = record.value if at.act.band.unit == "V" else None
    if value is None or known.rated_v is None or abs(value) <= known.rated_v:
        return None
    return Refused(
        "tool",
        f"Instrument: {known.title} is rated for {known.rated_v:g} V, and {abs(value):g} V is above that. Take its leads off; use one that is rated for it.",
    )


def _reading(at: At, record: Reading) -> Answered:
    if refused := _instrument(at, record):
        return refused
    if record.cell_c is not None and not COLDEST_CELL <= record.cell_c <= HOTTEST_CELL:
        return Refused("cell_c", f"Cell temperature: {record.cell_c:g} °C is none. Write {COLDEST_CELL} to {HOTTEST_CELL} °C.")
    check = next((c for c in at.plan.all_checks() if c.id == at.act.name), None)
    if check is None:
        return Refused("value", "That check is not part of this plan.")
    if check.cell is not None and record.cell_c is None:
        return Refused("cell_c", "Cell temperature: say at which the reading was taken (cell_c, in °C); it is judged by that for ever.")
    if check.shows:
        if record.shown is None or {len(record.shown), len(record.shown_at or record.shown)} != {len(check.shows)}:
            return Refused("value", "Both displays are read: give what each of them shows, and of both or none when it was read.")
        for shown, name in zip(record.shown, check.shows, strict=True):
            if check.refuses(shown) or shown > 100:
                return Refused("value", f"{name}: {shown:g} {check.unit} is no state of charge. Write 0 to 100 %.")
        return None
    if record.value is None and not record.over:
        return Refused("value", "Give what the instrument shows.")
    refusal = check.refuses(record.value) if record.value is not None else ""
    return Refused("value", refusal) if refusal else None


def _meter(at: At, record: MeterReading) -> Answered:
    tested = next(each for each in at.plan.sensing.sets if each.test == at.act.name)
    channels = {channel.id for channel in tested.placed}
    before, loads = record.before or {}, [watts for run in record.switched for watts in run.loads.values()]
    if not LEAST_FACTOR <= record.power_factor <= 1:
        return Refused("value", f"Power factor of the known loads: write {LEAST_FACTOR:g} to 1.")
    read = read_in(record, channels)
    # Of a test with loads one after another some channels may be read again, each of them whole.
    if not read or read != channels & set(before) or (not record.runs and read != channels):
        return Refused("value", f"Give what {', '.join(sorted(channels))} showed before and after the loads were switched on.")
    if any(abs(watts) > MOST_WATTS for watts in (*before.values(), *loads, *(w for run in record.switched for w in run.after.values()))):
        return Refused("value", f"Write watts, at most {MOST_WATTS:g} W.")
    if any(watts < 0 for watts in loads):
        return Refused("value", "A known load is nothing or more.")
    return None


def _packed(at: At, record: Packed) -> Answered:
    if not set(record.packed) & set(at.act.band.lines):
        return Refused("", "Tick what is in the van.")
    return None


def _left(_: At, record: Left) -> Answered:
    return _reason(record, "Give the reason") if record.reason.strip() else None


def _agreement(at: At, record: Agreement) -> Answered:
    left, row = at.standing.settings.get(at.act.name), next((r for r in at.plan.settings.sheet if r.key == at.act.name), None)
    if left is None or row is None or left.record is None:
        return Refused("", "That setting is not on the sheet, or nothing is recorded for it.")
    if left.record.id != record.of or record.asked != asked_text(row):
        return Refused("", "The setting was recorded anew meanwhile: look again.")
    if not left.reason:
        return Refused("", "There is no reason to agree to: it is set as asked, or left with a reason.")
    return None


def _clearance(at: At, record: Clearance) -> Answered:
    judged = at.standing.checks[at.act.name]
    if judged.record is None:
        return Refused("reason", "Measure it first: a hold without a reading is not cleared.")
    if record.of is not None and record.of != judged.record.id:
        return Refused("reason", "It was measured anew meanwhile: look again.")
    return _reason(record, "Give the reason")


def _photo(_: At, record: Photo) -> Answered:
    return Refused("file", "Choose a picture.") if record.photo is None else None


def _could_not(at: At, record: CouldNot) -> Answered:
    if at.act.kind is Kind.CLEARANCE:
        return Refused("kind", "A reading that nobody clears stays a hold: there is nothing to record.")
    return _reason(record, "Say why") if record.what == "could not be done" else None


def _sign_off(at: At, record: SignOff) -> Answered:
    if len(record.licence.strip()) < LEAST_LICENCE:
        return Refused("number", "Give your licence number.")
    left = [line for line in at.standing.missing if at.act.name == "job" or "24 h check" not in line]
    if left:
        return Refused("sign-off", f"{'1 thing is' if len(left) == 1 else f'{len(left)} things are'} missing; see the list.")
    under = at.standing
    if under.head is not None and (record.head, record.revision) != (under.head, under.revision):
        return Refused("sign-off", "Something was recorded or changed since this page was made: look at it again, then sign.")
    return None


CONTENTS: Mapping[type[AnyRecord], Callable[..., Answered]] = {
    Landing: _landing,
    Reading: _reading,
    MeterReading: _meter,
    Packed: _packed,
    Left: _left,
    ReadBack: read_back,
    Rung: rung,
    Agreement: _agreement,
    Clearance: _clearance,
    CouldNot: _could_not,
    Photo: _photo,
    SignOff: _sign_off,
}
# Which records an act takes beside saying that it could not be done.
FITS: Mapping[Kind, tuple[type[AnyRecord], ...]] = {
    Kind.PACK: (Packed,),
    Kind.UNPACK: (Answer,),
    Kind.FIND: (Answer,),
    Kind.BOARD: (Answer,),
    Kind.MARKED: (Answer,),
    Kind.HOLE: (Drilled, Done),
    Kind.FIXED: (Landing,),
    Kind.INSIDE: (Answer,),
    Kind.LIFT: (Done,),
    Kind.TORQUE: (Landing,),
    Kind.RECHECK: (Answer,),
    Kind.RITUAL: (Done,),
    Kind.READ_BACK: (ReadBack,),
    Kind.BRIDGE: (Answer,),
    Kind.JOINT: (Landing,),
    Kind.FERRITE: (Answer,),
    Kind.BRIDGED: (Answer,),
    Kind.ENTRIES: (Answer,),
    Kind.LEAD: (Done,),
    Kind.RING: (Rung,),
    Kind.CORE: (Done,),
    Kind.METER: (MeterReading,),
    Kind.LOOK: (Answer,),
    Kind.MEASUREMENT: (Reading,),
    Kind.DISPLAYS: (Reading,),
    Kind.STEP: (Done,),
    Kind.OFF: (Done,),
    Kind.SETTING: (Left, Agreement),
    Kind.COVER: (Answer,),
    Kind.LABEL: (Answer,),
    Kind.SERIAL: (Words,),
    Kind.FIRMWARE: (Words,),
    Kind.PHOTO: (Photo,),
    Kind.CLEARANCE: (Clearance,),
    Kind.SIGN_OFF: (SignOff,),
}
# What may be said of any act.
OF_ANY: tuple[type[AnyRecord], ...] = (CouldNot, TakenBack, Photo)


def content_of(plan: Plan, standing: Standing, act: Act, record: AnyRecord) -> Answered:
    """Whether a record says what its kind must say of this act."""
    fits = (*FITS.get(act.kind, ()), *OF_ANY)
    if not isinstance(record, fits):
        return Refused("kind", f"{act.title} is not recorded by a {record.kind}.")
    look = CONTENTS.get(type(record))
    return look(At(plan, standing, act), record) if look is not None else None

"""A record out of what somebody typed or tapped."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime, timedelta
from typing import Any, NamedTuple

from pydantic import ValidationError

from gumboot.core.acts import YES_OR_NO, Kind, tick_of
from gumboot.core.errors import BadUnit
from gumboot.core.plan.prove import Check
from gumboot.core.reading import parse, read_shown
from gumboot.core.record import (
    Agreement,
    Answer,
    AnyRecord,
    Clearance,
    CouldNot,
    Done,
    Landing,
    Left,
    Packed,
    Photo,
    Reading,
    SignOff,
    TakenBack,
    ToolUsed,
    Words,
)
from gumboot.core.recording.draft import BadDraft, Draft, quantity_of
from gumboot.core.recording.drilling import draft_drilled
from gumboot.core.recording.linked import draft_read_back, draft_rung
from gumboot.core.recording.metering import draft_meter
from gumboot.core.recording.refused import Refused
from gumboot.core.standing import asked_text

# Digits of a time in ms.
MOST_MS = 14
# A tap that says that an act was not done as asked, whatever its kind.
COULD_NOT, TAKE_BACK = "could_not", "take_back"


def _tool(d: Draft) -> ToolUsed | None:
    """The tool or meter that was chosen, with what it is good for in the unit of the act."""
    tool = next((t for t in d.plan.job.tools if t.id == d.text("tool")), None)
    if tool is None:
        return None
    low, high = (tool.low_nm, tool.high_nm) if d.act.is_torqued else (None, tool.rated_v if d.act.band.unit == "V" else None)
    return ToolUsed(id=tool.id, title=tool.title, calibrated_to=tool.calibrated_to, low=low, high=high)


def _landing(d: Draft) -> Landing:
    reached = None
    if d.act.band.expected is not None:
        unit = d.typed.get("unit", "lbf in")
        try:
            reached = parse(f"{d.text('reached')} {unit}", "N m")
        except BadUnit as refused:
            raise BadDraft("reached", f"Torque reached: {refused}") from None
        if not 0 < reached < 500:
            raise BadDraft("reached", "Torque reached: give a value above 0 N m and below 500 N m.")
    term = (d.under or d.plan).termination(d.act.name)
    return Landing(
        **d.said,
        reached_nm=reached,
        typed=d.text("reached")[:64],
        unit=d.typed.get("unit", "")[:20],
        tool=_tool(d),
        tug=d.typed.get("tug") == "held",
        pressed=d.typed.get("pressed") == "yes",
        note=d.text("note")[:300],
        size=term.size if term is not None else "",
    )


def _cell(d: Draft) -> float | None:
    """Cell temperature in °C as the page showed it when the reading was typed, however long the reading lay on a phone since."""
    try:
        return parse(d.typed["cell_c"], "°C") if d.typed.get("cell_c") else d.plan.job.site.cell_today_c
    except BadUnit:
        return d.plan.job.site.cell_today_c


def _check(d: Draft) -> Check:
    return next(c for c in d.plan.all_checks() if c.id == d.act.name)


def _reading(d: Draft) -> Reading:
    check, value = _check(d), d.typed.get("value", "")
    conditions = {"cell_c": _cell(d)} if check.cell is not None else {}
    if check.shows:
        shown = tuple(quantity_of(d, field, check.unit, name) for field, name in zip(("value", "second"), check.shows, strict=True))
        return Reading(**d.said, value=round(abs(shown[0] - shown[1]), 6), shown=shown, shown_at=_moments(d), unit=check.unit)
    try:
        seen = read_shown(value, check.unit, "°F" if check.unit == "°C" and d.system == "US" else None)
    except BadUnit as refused:
        raise BadDraft("value", str(refused)) from None
    return Reading(**d.said, **conditions, value=seen.value, over=seen.over, typed=value.strip()[:64], unit=check.unit, tool=_tool(d))


def _moments(d: Draft) -> tuple[datetime, ...] | None:
    """When each display was read: the later of them as the record was made, whatever the device's clock says; none where it was not told."""
    told = [d.text(f"{field}_ms") for field in ("value", "second")]
    if not all(ms.isdecimal() and len(ms) <= MOST_MS for ms in told):
        return None
    stamps = [int(ms) for ms in told]
    return tuple(d.said["done_at"] - timedelta(milliseconds=max(stamps) - ms) for ms in stamps)


def _answer(d: Draft) -> Answer:
    said = d.typed.get("answer") or d.typed.get("ok", "")
    if said not in ("yes", "no"):
        raise BadDraft("answer", "Answer yes or no.")
    return Answer(**d.said, yes=said == "yes")


def _words(d: Draft) -> Words:
    if not d.text("text"):
        raise BadDraft("text", "Type what stands there.")
    return Words(**d.said, text=d.text("text")[:120])


def agrees(d: Draft) -> bool:
    """Whether what was typed agrees to what a setting was left at, which names the record of it."""
    return d.act.kind is Kind.SETTING and "record" in d.typed


def _setting(d: Draft) -> Left | Agreement:
    if agrees(d):
        left, row = d.standing.settings[d.act.name], next(r for r in d.plan.settings.sheet if r.key == d.act.name)
        as_left = left.record.as_left if left.record else ""
        return Agreement(**d.said, of=d.text("record") or "none", asked=asked_text(row), as_left=as_left)
    if not d.text("value"):
        raise BadDraft("value", "Type what the inverter shows.")
    return Left(**d.said, as_left=d.text("value")[:80], reason=d.text("reason")[:300])


def _packed(d: Draft) -> Packed:
    return Packed(**d.said, packed=tuple(line for line in d.act.band.lines if d.typed.get(tick_of(line)) == "yes"))


def _clearance(d: Draft) -> Clearance:
    judged = d.standing.checks.get(d.act.name)
    of = judged.record.id if judged is not None and judged.record is not None else None
    return Clearance(**d.said, of=of, reason=d.text("reason")[:500])


def _sign_off(d: Draft) -> SignOff:
    promised = tuple(a.id for a in d.standing.acts.values() if a.kind is Kind.RECHECK and not d.standing.stands[a.id].holds)
    licence = d.text("number")[:40]
    if not licence:
        raise BadDraft("number", "Give your licence number.")
    # What the page showed, not what stands by now: whoever signs has seen what is signed.
    seen = {"head": d.text("head"), "revision": int(shown) if (shown := d.text("revision")[:9]).isdecimal() else None}
    return SignOff(**{**d.said, **seen}, licence=licence, promised=promised if d.act.name == "provisional" else ())


def _done(d: Draft) -> Done:
    return Done(**d.said)


_DRAFTS: Mapping[Kind, Callable[[Draft], AnyRecord]] = {
    Kind.TORQUE: _landing,
    **dict.fromkeys(YES_OR_NO, _answer),
    Kind.HOLE: draft_drilled,
    Kind.FIXED: _landing,
    Kind.MEASUREMENT: _reading,
    Kind.DISPLAYS: _reading,
    Kind.METER: draft_meter,
    Kind.PACK: _packed,
    Kind.SETTING: _setting,
    Kind.READ_BACK: draft_read_back,
    Kind.JOINT: _landing,
    Kind.RING: draft_rung,
    Kind.SERIAL: _words,
    Kind.FIRMWARE: _words,
    Kind.CLEARANCE: _clearance,
    Kind.SIGN_OFF: _sign_off,
    Kind.PHOTO: lambda d: Photo(**d.said),
}


def drafted(d: Draft) -> AnyRecord | Refused:
    """The record that was typed, or the field that is none. Whether it is kept is asked elsewhere."""
    try:
        if d.typed.get(COULD_NOT):
            return CouldNot.model_validate({**d.said, "what": d.typed[COULD_NOT], "reason": d.text("reason")[:500]})
        if d.typed.get(TAKE_BACK):
            return TakenBack(**d.said, of=d.typed[TAKE_BACK])
        record = _DRAFTS.get(d.act.kind, _done)(d)
        # A word of the doer's own, such as where it was recorded first.
        return record if record.note else record.model_copy(update={"note": d.text("note")[:300]})
    except BadDraft as bad:
        return bad.refused
    except ValidationError as bad:
        first = bad.errors()[0]
        return Refused(".".join(map(str, first["loc"])), f"{'.'.join(map(str, first['loc'])) or 'record'}: {first['msg']}.")


class Doing(NamedTuple):
    """Who records, under which revision of the job, on which device; how far its clock was ahead, which record they knew of."""

    account: str
    display: str
    role: str
    revision: int
    device: str = ""
    clock_ahead_s: float | None = None
    knew: str | None = None


def said(record_id: str, act: str, done_at: datetime, by: Doing) -> dict[str, Any]:
    """What every record says."""
    made = {"id": record_id, "act": act, "done_at": done_at, "by": by.display, "doer": by.account, "role": by.role}
    return {**made, "revision": by.revision, "device": by.device[:80], "clock_ahead_s": by.clock_ahead_s, "knew": by.knew}

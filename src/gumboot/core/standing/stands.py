"""How does each act stand: done and good, done and bad, cleared, or true no more, and why?"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime

from gumboot.core.acts import PLAN, Act, Acts, Kind, Stands, State
from gumboot.core.card.parts import older
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Answer, AnyRecord, Clearance, CouldNot, Drilled, Landing, Packed, ReadBack, Rung, SignOff, Words
from gumboot.core.sim.ct_readings import MeterVerdict
from gumboot.core.sim.ringing import verdict
from gumboot.core.standing.drilled import wrong_where_drilled
from gumboot.core.standing.ended import ended
from gumboot.core.standing.judged import could_not, judge_joint
from gumboot.core.standing.overtaken import is_overtaken
from gumboot.core.standing.packed import missing_words
from gumboot.core.standing.records import Judged, SettingStands
from gumboot.core.standing.since import Since


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """Plan and records as they meet: what was judged of each thing, and when something was moved or landed."""

    plan: Plan
    acts: Acts
    now: datetime
    # The latest record of each act that counts, agreements and clearances apart.
    last: Mapping[str, AnyRecord]
    torques: dict[str, Judged]
    checks: dict[str, Judged]
    settings: dict[str, SettingStands]
    cleared: dict[str, Clearance]
    meters: Mapping[str, MeterVerdict]
    since: Since


def _plan_stands(site: Site, act: Act) -> Stands:
    if act.id == PLAN:
        return Stands(State.FAILED, site.plan.stops[0].text) if site.plan.stops else Stands(State.GOOD)
    open_ = [gap.question for gap in site.plan.gaps]
    return Stands(State.OPEN, open_[0]) if open_ else Stands(State.GOOD)


def _by_judged(judged: Judged) -> Stands:
    if judged.record is None:
        return Stands(State.OPEN)
    return Stands(State.FAILED, "; ".join(judged.faults)) if judged.faults else Stands(State.GOOD)


def _torque(site: Site, act: Act) -> Stands:
    stands, record = _by_judged(site.torques[act.name]), site.torques[act.name].record
    marks = [mark for word in ("recheck", "yearly") if (mark := site.last.get(f"{word}:{act.name}")) is not None]
    if stands.holds and record is not None and any(mark.at >= record.at and _is_no(mark) for mark in marks):
        return Stands(State.LAPSED, "its mark has moved: tighten it again and record it")
    return stands


def _is_no(record: AnyRecord) -> bool:
    return isinstance(record, CouldNot) or (isinstance(record, Answer) and not record.yes)


def _check(site: Site, act: Act) -> Stands:
    stands = _by_judged(site.checks[act.name])
    if stands.state is State.OPEN and act.station == "wire" and is_overtaken(site.acts, site.last, act, Kind.TORQUE):
        return Stands(State.GOOD, "all is landed there already")
    return Stands(State.CLEARED, stands.why) if stands.state is State.FAILED and act.name in site.cleared else stands


def _not_done(site: Site, act: Act) -> Stands | None:
    """What stands of an act whose latest record says that it could not be done."""
    record = site.last.get(act.id)
    return Stands(State.FAILED, could_not(record)) if isinstance(record, CouldNot) else None


def _meter(site: Site, act: Act) -> Stands:
    found = site.meters.get(act.name)
    if undone := _not_done(site, act):
        return undone
    if found is None:
        return Stands(State.OPEN)
    bad = [v for v in found.channels if v.verdict != "right"]
    return Stands(State.FAILED, f"{bad[0].text} {found.instruction}") if bad else Stands(State.GOOD)


def _setting(site: Site, act: Act) -> Stands:
    left = site.settings[act.name]
    if undone := _not_done(site, act):
        return undone
    if left.record is None:
        return Stands(State.OPEN)
    return Stands(State.GOOD) if left.good else Stands(State.FAILED, left.word)


def _packed(site: Site, act: Act) -> Stands:
    record = site.last.get(act.id)
    if not isinstance(record, Packed):
        return _plain(site, act)
    missing = missing_words(act, record)
    return Stands(State.FAILED, missing) if missing else Stands(State.GOOD)


def _before(kind: Kind, words: str) -> Callable[[Site, Act], Stands]:
    """How what comes before acts of a kind stands: where all of them are done its time is over, ``words`` say so."""

    def stands(site: Site, act: Act) -> Stands:
        found = _plain(site, act)
        return Stands(State.GOOD, words) if found.state is State.OPEN and is_overtaken(site.acts, site.last, act, kind) else found

    return stands


def _label(site: Site, act: Act) -> Stands:
    """A label; the marks of a string are asked for until its live ends are landed."""
    landed = _before(Kind.TORQUE, "its live ends are landed already")
    return (landed if act.station == "wire" else _plain)(site, act)


def _drilled(site: Site, act: Act) -> Stands:
    record = site.last.get(act.id)
    if not isinstance(record, Drilled):
        return _plain(site, act)
    wrong = wrong_where_drilled(site.plan, act.thing, record)
    return Stands(State.FAILED, wrong) if wrong else Stands(State.GOOD)


def _joint(site: Site, act: Act) -> Stands:
    record = site.last.get(act.id)
    if not isinstance(record, Landing):
        return _plain(site, act)
    wrong = judge_joint(act, record)
    return Stands(State.FAILED, "; ".join(wrong)) if wrong else Stands(State.GOOD)


def _read_back(site: Site, act: Act) -> Stands:
    record = site.last.get(act.id)
    if not isinstance(record, ReadBack):
        return _plain(site, act)
    wrong = [
        f"{name} {record.shown.get(name)} shown, {wanted} wanted"
        for name, wanted in act.band.wants.items()
        if record.shown.get(name) != wanted
    ]
    return Stands(State.FAILED, "; ".join(wrong)) if wrong else Stands(State.GOOD)


def _rung(site: Site, act: Act) -> Stands:
    record, lead = site.last.get(act.id), site.plan.leads.of(act.name)
    if not isinstance(record, Rung) or lead is None:
        return _plain(site, act)
    found = verdict(lead, {int(pin): heard for pin, heard in record.heard.items()})
    return Stands(State.GOOD) if found.is_right else Stands(State.FAILED, " ".join((*found.faults, found.cure)))


def _firmware(site: Site, act: Act) -> Stands:
    record = site.last.get(act.id)
    if not isinstance(record, Words):
        return _plain(site, act)
    if act.band.words and older(record.text, act.band.words):
        return Stands(State.FAILED, f"{record.text} is older than {act.band.words}, which its battery's protocol needs")
    return Stands(State.GOOD)


def _plain(site: Site, act: Act) -> Stands:
    """An act that is done, answered or written down."""
    record = site.last.get(act.id)
    if record is None:
        return Stands(State.OPEN)
    if undone := _not_done(site, act):
        return undone
    return Stands(State.FAILED, "answered no") if _is_no(record) else Stands(State.GOOD)


def _signed(site: Site, act: Act) -> Stands:
    return Stands(State.GOOD) if isinstance(site.last.get(act.id), SignOff) else Stands(State.OPEN)


_HOW: Mapping[Kind, Callable[[Site, Act], Stands]] = {
    Kind.PLAN: _plan_stands,
    Kind.TORQUE: _torque,
    Kind.LOOK: _check,
    Kind.MEASUREMENT: _check,
    Kind.DISPLAYS: _check,
    Kind.METER: _meter,
    Kind.SETTING: _setting,
    Kind.FIRMWARE: _firmware,
    Kind.READ_BACK: _read_back,
    **dict.fromkeys((Kind.FIND, Kind.BOARD, Kind.MARKED), _before(Kind.HOLE, "its holes are drilled already")),
    Kind.LABEL: _label,
    Kind.PACK: _packed,
    Kind.UNPACK: _before(Kind.LIFT, "it hangs already"),
    Kind.HOLE: _drilled,
    Kind.JOINT: _joint,
    Kind.FIXED: _joint,
    Kind.RING: _rung,
    Kind.SIGN_OFF: _signed,
}


def stands_of(site: Site, act: Act) -> Stands:
    """How an act stands. A record that was made out of its order is kept, and opens nothing."""
    stands = _HOW.get(act.kind, _plain)(site, act)
    record = site.last.get(act.id)
    if record is None or not stands.holds:
        return stands
    if record.defects:
        return Stands(State.OPEN, f"kept, and does not count: {record.defects[0]}")
    return ended(site.plan, site.since, site.now, act, record) or stands

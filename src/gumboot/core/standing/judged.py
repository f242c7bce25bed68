"""Is this torque, this reading good?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.acts import Act
from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Check
from gumboot.core.plan.terminations import Termination
from gumboot.core.record import Answer, AnyRecord, Clearance, CouldNot, Landing, Reading, ToolUsed
from gumboot.core.rulebook.books import book
from gumboot.core.rules.landings import LANDED, Landed
from gumboot.core.rules.readings import READ, faults_of
from gumboot.core.rules.readings import Reading as Facts
from gumboot.core.standing.records import Judged


def could_not(record: CouldNot) -> str:
    """What a record says that something was not done, in words."""
    return f"{record.what}{f': {record.reason}' if record.reason else ''}"


def in_calibration(tool: ToolUsed | None, record: AnyRecord) -> bool:
    """Whether a tool's calibration held on the day of a record."""
    return tool is not None and bool(tool.calibrated_to) and str(tool.calibrated_to) >= record.at.date().isoformat()


def judge_torque(term: Termination, record: AnyRecord | None) -> Judged:
    """What the rules of a landing say of one torque record."""
    if record is None:
        return Judged(None)
    if not isinstance(record, Landing):
        return Judged(record, (could_not(record) if isinstance(record, CouldNot) else "no torque value: snug is not a value",))
    facts = Landed(
        where=term.where,
        size=term.size,
        landed_size=record.size,
        tightened_by=term.tightened_by,
        low=term.torque_low,
        high=term.torque_high,
        reached_nm=record.reached_nm,
        tool_holds=in_calibration(record.tool, record),
        tug=record.tug,
        pressed=record.pressed,
    )
    breaches = [asked(facts) for asked in LANDED]
    return Judged(record, tuple([breach.text for breach in breaches if breach is not None]))


def judge_joint(act: Act, record: Landing) -> tuple[str, ...]:
    """What the rules of a landing say of a joint from the factory: it takes no conductor that could be tugged."""
    facts = Landed(
        where=act.name,
        size="",
        landed_size="",
        tightened_by="maker",
        low=act.band.low,
        high=act.band.high,
        reached_nm=record.reached_nm,
        tool_holds=in_calibration(record.tool, record),
        tug=True,
        pressed=True,
    )
    return tuple([breach.text for breach in (asked(facts) for asked in LANDED) if breach is not None])


def _reading(check: Check, record: AnyRecord | None) -> Facts:
    """A check with what was recorded of it last, against the band as it stood then."""
    if isinstance(record, Answer):
        return check.read(None).but(seen=record.yes)
    if not isinstance(record, Reading):
        return check.read(None).but(is_open=record is None)
    at = record.shown_at or ()
    apart = (max(at) - min(at)).total_seconds() if at else None
    told = check.read(record.value, record.over, record.cell_c).but(shown=record.shown or (), apart_s=apart)
    if record.stood is not None and record.stood.unit == check.unit:
        # By its own conditions, for ever.
        told = told.but(low=record.stood.low, high=record.stood.high)
    return told


def judge_check(check: Check, record: AnyRecord | None) -> Judged:
    """Whether a recorded value lies in its band, as the conditions it was taken under move that band, or the look was answered yes."""
    if isinstance(record, CouldNot):
        return Judged(record, (could_not(record),))
    wrong = faults_of(_reading(check, record))
    # A reading without an instrument named is taken as it is; one by an instrument whose calibration was over proves nothing.
    over = isinstance(record, Reading) and record.tool is not None and not in_calibration(record.tool, record)
    return Judged(record, tuple(words for words in (wrong, "the instrument was out of calibration" if over else "") if words))


def derive_spreads(plan: Plan, judged: dict[str, Judged]) -> None:
    """How far readings stand apart follows from them: nobody types it."""
    for check in plan.checks:
        if check.spread_of:
            judged[check.id] = _spread(check, [judged[of].record for of in check.spread_of])


def _spread(check: Check, packs: Sequence[AnyRecord | None]) -> Judged:
    read = [(r, r.value) for r in packs if isinstance(r, Reading) and r.value is not None]
    if len(read) < len(packs):
        return Judged(None)
    values, last = [value for _, value in read], max((r for r, _ in read), key=lambda r: r.at)
    spread = round(max(values) - min(values), 6)
    return judge_check(check, last.model_copy(update={"act": f"check:{check.id}", "value": spread, "over": False, "stood": None}))


def clearances_that_hold(clearances: dict[str, Clearance], checks: dict[str, Judged]) -> dict[str, Clearance]:
    """Clearances that still hold, by check: one speaks of the reading it saw, never of a later one."""
    standing = {}
    for name, clearance in clearances.items():
        reading = checks.get(name, Judged(None)).record
        if reading is not None and (clearance.of == reading.id if clearance.of else clearance.at >= reading.at):
            standing[name] = clearance
    return standing


def reading_findings(plan: Plan, checks: dict[str, Judged], cleared: dict[str, Clearance]) -> tuple[Finding, ...]:
    """A finding for every reading outside its band, until it is measured again or a licence holder clears it."""
    family = book(plan.job.rule_book).family
    found = []
    for c in plan.all_checks():
        asked = READ[c.code]
        breach = asked(_reading(c, checks[c.id].record).but(is_cleared=c.id in cleared))
        if breach is not None:
            found.append(asked.finding(breach, family, c.station))
    return tuple(found)

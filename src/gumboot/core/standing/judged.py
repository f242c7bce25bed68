"""Is this torque, this reading good?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Check
from gumboot.core.plan.terminations import Termination
from gumboot.core.rulebook.books import book
from gumboot.core.rules.landings import LANDED, Landed
from gumboot.core.rules.readings import READ, Reading, faults_of
from gumboot.core.standing.records import Judged, Record


def judge_torque(term: Termination, record: Record | None) -> Judged:
    """What the rules of a landing say of one torque record."""
    if record is None:
        return Judged(None)
    value = record.value
    holds = bool(value.get("calibrated_to")) and value["calibrated_to"] >= record.at.date().isoformat()
    facts = Landed(
        where=term.where,
        size=term.size,
        landed_size=value.get("size") or "",
        tightened_by=term.tightened_by,
        low=term.torque_low,
        high=term.torque_high,
        reached_nm=value.get("value_nm"),
        tool_holds=holds,
        tug=bool(value.get("tug")),
        pressed=bool(value.get("pressed")),
    )
    breaches = [asked(facts) for asked in LANDED]
    return Judged(record, tuple([breach.text for breach in breaches if breach is not None]))


def _reading(check: Check, record: Record | None) -> Reading:
    """A check with what was recorded of it last."""
    if record is None:
        return check.read(None).but(is_open=True)
    kept, shown = record.value.get("value"), record.value.get("shown")
    value = float(kept) if isinstance(kept, (int, float)) else None
    told = check.read(value, bool(record.value.get("over")), record.value.get("cell_c"))
    return told.but(seen=bool(record.value.get("ok")), shown=tuple(shown) if isinstance(shown, list) else ())


def judge_check(check: Check, record: Record | None) -> Judged:
    """Whether a recorded value lies in its band, as the conditions it was taken under move that band, or the look was answered yes."""
    wrong = faults_of(_reading(check, record))
    return Judged(record, (wrong,) if wrong else ())


def derive_spreads(plan: Plan, judged: dict[str, Judged]) -> None:
    """How far readings stand apart follows from them: nobody types it."""
    for check in plan.checks:
        if check.spread_of:
            judged[check.id] = _spread(check, [judged[of].record for of in check.spread_of])


def _spread(check: Check, packs: Sequence[Record | None]) -> Judged:
    read = [r for r in packs if r is not None and isinstance(r.value.get("value"), (int, float))]
    if len(read) < len(packs):
        return Judged(None)
    values, last = [float(r.value["value"]) for r in read], max(read, key=lambda r: r.at)
    spread = round(max(values) - min(values), 6)
    return judge_check(check, Record(last.id, "measurement", check.id, {"value": spread}, last.by, last.role, last.at))


def clearances_that_hold(clearances: dict[str, Record], checks: dict[str, Judged]) -> dict[str, Record]:
    """Clearances that still hold: one speaks of the reading it saw, never of a later one."""
    standing = {}
    for subject, clearance in clearances.items():
        reading = checks.get(subject.removeprefix("check:"), Judged(None)).record
        if reading is not None and clearance.at >= reading.at:
            standing[subject] = clearance
    return standing


def reading_findings(plan: Plan, checks: dict[str, Judged], cleared: dict[str, Record]) -> tuple[Finding, ...]:
    """A finding for every reading outside its band, until it is measured again or a licence holder clears it."""
    family = book(plan.job.rule_book).family
    found = []
    for c in plan.all_checks():
        asked = READ[c.code]
        breach = asked(_reading(c, checks[c.id].record).but(is_cleared=f"check:{c.id}" in cleared))
        if breach is not None:
            found.append(asked.finding(breach, family, c.station))
    return tuple(found)

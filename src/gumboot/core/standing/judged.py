"""Is this torque, this reading good?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Check
from gumboot.core.plan.terminations import Termination
from gumboot.core.plan.terminations.parts import NO_TORQUE
from gumboot.core.rulebook.books import book
from gumboot.core.rules.readings import READ, Reading
from gumboot.core.standing.records import Judged, Record


def judge_torque(term: Termination, record: Record | None) -> Judged:
    """Band, calibration and tug test of one torque record."""
    if record is None:
        return Judged(None)
    faults = []
    if record.value.get("size") and record.value["size"] != term.size:
        faults.append(f"recorded for {record.value['size']}; the plan is now {term.size}")
    if term.torque and term.torque_low and term.torque_high:
        reached = record.value.get("value_nm")
        if reached is None:
            faults.append("no torque value: snug is not a value")
        elif not term.torque_low.value - 1e-6 <= reached <= term.torque_high.value + 1e-6:
            faults.append(f"{reached:.2f} N m is outside {term.torque_low.value:.2f} to {term.torque_high.value:.2f} N m")
        if not record.value.get("calibrated_to") or record.value["calibrated_to"] < record.at.date().isoformat():
            faults.append("the tool was out of calibration")
    elif term.tightened_by == "unknown":
        faults.append(NO_TORQUE)
    elif not record.value.get("pressed"):
        faults.append("not pressed home again after the tug")
    if not record.value.get("tug"):
        faults.append("no tug test")
    return Judged(record, tuple(faults))


def judge_check(check: Check, record: Record | None) -> Judged:
    """Whether a recorded value lies in its band, as the conditions it was taken under move that band, or the look was answered yes."""
    if record is None:
        return Judged(None)
    if not check.unit:
        return Judged(record, () if record.value.get("ok") else ("answered no",))
    value, over = record.value.get("value"), bool(record.value.get("over"))
    if not isinstance(value, (int, float)) and not over:
        return Judged(record, ("no value",))
    if check.shows:
        shown = record.value.get("shown")
        if not isinstance(shown, list) or len(shown) != len(check.shows):
            return Judged(record, ("both displays are read, not a difference",))
        if any(v == 0 for v in shown):
            return Judged(record, ("a display that shows nothing or 0 has no link",))
    fault = check.fault(None if value is None else float(value), over, record.value.get("cell_c"))
    return Judged(record, (fault,) if fault else ())


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
        faults = () if f"check:{c.id}" in cleared else checks[c.id].faults
        asked = READ[c.code]
        breach = asked(Reading(check=c.id, title=c.title, faults=faults, life=c.life))
        if breach is not None:
            found.append(asked.finding(breach, family, c.station))
    return tuple(found)

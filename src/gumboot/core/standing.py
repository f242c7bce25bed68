"""Plan and records together: what is done, open and held at each station."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Literal

from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up import Step
from gumboot.core.plan.prove import Check
from gumboot.core.plan.terminations import Termination
from gumboot.core.rulebook.books import book
from gumboot.core.rules import RULES
from gumboot.core.sim.ct_readings import CtVerdict, solve
from gumboot.core.survey_answers import unanswered

State = Literal["open", "part", "clear", "held"]
LEGS: tuple[tuple[str, tuple[tuple[str, str], ...]], ...] = (
    (
        "Plan",
        (("survey", "Survey"), ("loads", "Loads"), ("strings", "Strings"), ("bank", "Bank"), ("circuits", "Circuits"), ("wall", "Wall")),
    ),
    ("Fit", (("wire", "Wire"), ("links", "Links"), ("sensing", "Sensing"))),
    ("Start", (("prove", "Prove"), ("power-up", "Power-up"), ("settings", "Settings"))),
    ("Finish", (("live-checks", "Live checks"), ("hand-over", "Hand-over"))),
)
STATION_IDS = tuple(sid for _, group in LEGS for sid, _ in group)


@dataclass(frozen=True, slots=True)
class Record:
    """What someone did or measured. Never changed; ``corrects`` names the record that this one replaces."""

    id: str
    kind: str
    subject: str
    value: dict[str, Any]
    by: str
    role: str
    at: datetime
    corrects: str | None = None


@dataclass(frozen=True, slots=True)
class Judged:
    """A subject with its latest record and what is wrong with it, if anything."""

    record: Record | None
    faults: tuple[str, ...] = ()

    @property
    def good(self) -> bool:
        """Recorded and without fault."""
        return self.record is not None and not self.faults


@dataclass(frozen=True, slots=True)
class StationStanding:
    """State of one station with its counts."""

    id: str
    title: str
    state: State
    done: int
    total: int
    stops: int
    cautions: int
    word: str


@dataclass(frozen=True)
class Standing:
    """The whole job's standing."""

    stations: dict[str, StationStanding]
    torques: dict[str, Judged]
    rechecks: dict[str, tuple[datetime | None, bool]]
    checks: dict[str, Judged]
    steps: dict[str, Judged]
    step_holds: dict[str, tuple[str, ...]]
    settings: dict[str, tuple[Record | None, bool]]
    links_done: dict[str, Record]
    ct_verdicts: tuple[CtVerdict, ...]
    missing: tuple[str, ...]
    signed: Record | None = None
    cleared_holds: dict[str, Record] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()

    def at(self, station: str) -> tuple[Finding, ...]:
        """What the readings of one station say against their bands."""
        return tuple(f for f in self.findings if f.station == station)


def latest(records: Sequence[Record], kind: str) -> dict[str, Record]:
    """Latest record by subject of one kind; a corrected record yields to its correction."""
    corrected = {r.corrects for r in records if r.corrects}
    found: dict[str, Record] = {}
    for record in sorted(records, key=lambda r: r.at):
        if record.kind == kind and record.id not in corrected:
            found[record.subject] = record
    return found


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
    if not record.value.get("tug"):
        faults.append("no tug test")
    return Judged(record, tuple(faults))


def judge_check(check: Check, record: Record | None) -> Judged:
    """Whether a recorded value lies in today's band, or the look was answered yes."""
    if record is None:
        return Judged(None)
    if check.unit:
        value = record.value.get("value")
        if not isinstance(value, (int, float)):
            return Judged(record, ("no value",))
        if not check.accepts(float(value)):
            below = check.low is not None and value < check.low.value
            edge = check.low if below else check.high
            return Judged(
                record, (f"{value:g} {check.unit} is {'below' if below else 'above'} {edge.value if edge else 0:.4g} {check.unit}",)
            )
        return Judged(record)
    return Judged(record, () if record.value.get("ok") else ("answered no",))


def _derived_spread(plan: Plan, judged: dict[str, Judged]) -> None:
    """The pack spread follows from the pack voltages: nobody types it."""
    if "pack-spread" not in judged:
        return
    packs = [judged[f"pack-{u.id}"].record for u in plan.job.bank.units]
    values = [float(r.value["value"]) for r in packs if r is not None and isinstance(r.value.get("value"), (int, float))]
    if len(values) < len(packs):
        judged["pack-spread"] = Judged(None)
        return
    last = max((r for r in packs if r is not None), key=lambda r: r.at)
    spread = round(max(values) - min(values), 6)
    check = next(c for c in plan.checks if c.id == "pack-spread")
    judged["pack-spread"] = judge_check(
        check, Record(last.id, "measurement", "pack-spread", {"value": spread}, last.by, last.role, last.at)
    )


def _cleared(clearances: dict[str, Record], checks: dict[str, Judged]) -> dict[str, Record]:
    """Clearances that still hold: one speaks of the reading it saw, never of a later one."""
    standing = {}
    for subject, clearance in clearances.items():
        reading = checks.get(subject.removeprefix("check:"), Judged(None)).record
        if reading is not None and clearance.at >= reading.at:
            standing[subject] = clearance
    return standing


def _reading_findings(plan: Plan, checks: dict[str, Judged], cleared: dict[str, Record]) -> tuple[Finding, ...]:
    """A finding for every reading outside its band, until it is measured again or a licence holder clears it."""
    family = book(plan.job.rule_book).family
    return tuple(
        Finding(
            c.code,
            "stop" if c.life else "caution",
            c.station,
            c.id,
            f"{c.title}: {'; '.join(checks[c.id].faults)}.",
            "Find the cause and mend it, then measure again.",
            RULES[c.code].source_for(family),
        )
        for c in plan.all_checks()
        if checks[c.id].faults and f"check:{c.id}" not in cleared
    )


def _holds(plan: Plan, step: Step, checks: dict[str, Judged], steps: dict[str, Judged], cleared: dict[str, Record]) -> tuple[str, ...]:
    titles = {c.id: c.title for c in plan.all_checks()}
    held = [titles[c] for c in step.holds if not checks[c].good and f"check:{c}" not in cleared]
    order = [s.id for s in plan.power_up.steps]
    at = order.index(step.id)
    if at == 0:
        held += [f"stop: {f.text}" for f in plan.stops]
    elif not steps[order[at - 1]].good:
        held.append(f"the step before: {plan.power_up.steps[at - 1].title}")
    if step.measure is not None and not checks[step.measure.id].good and f"check:{step.measure.id}" not in cleared:
        held.append(f"record the reading: {step.measure.title}")
    return tuple(held)


def _settings(plan: Plan, records: dict[str, Record]) -> dict[str, tuple[Record | None, bool]]:
    out: dict[str, tuple[Record | None, bool]] = {}
    for row in plan.settings.sheet:
        record = records.get(row.key)
        same = False
        if record is not None:
            left = str(record.value.get("as_left", "")).strip()
            if row.figure is not None:
                try:
                    same = abs(float(left) - row.figure.value) <= 0.005 * max(1.0, abs(row.figure.value))
                except ValueError:
                    same = False
            else:
                same = left.lower() == row.text.lower()
        out[row.key] = (record, same)
    return out


def _ct_verdicts(plan: Plan, record: Record | None) -> tuple[CtVerdict, ...]:
    if record is None:
        return ()
    inverter = plan.shelf[plan.job.equipment.inverter]
    legs = {c.id: c.leg for c in inverter.ct_channels}  # type: ignore[union-attr]
    readings = {c: float(v) for c, v in record.value.get("readings", {}).items() if c in legs}
    loads = {leg: float(record.value.get(f"test_{leg.lower()}_w", 0)) for leg in ("L1", "L2", "L3")}
    return solve(readings, legs, loads) if readings else ()


LINK_TASKS = (
    ("off", "Every battery breaker off, every BMS off"),
    ("program", "Switches set, protocol chosen, one unit at a time"),
    ("cycle", "Each unit power-cycled and its setting read back"),
    ("lead", "Lead made to the pin-out and checked end to end"),
)


def stand(plan: Plan, records: Sequence[Record], now: datetime) -> Standing:
    """Work out the standing. ``now`` is given: the core has no clock of its own."""
    torque_records, measured, done = latest(records, "torque"), latest(records, "measurement"), latest(records, "done")
    torques = {t.id: judge_torque(t, torque_records.get(t.id)) for t in plan.terminations}
    recheck_records = latest(records, "recheck")
    rechecks: dict[str, tuple[datetime | None, bool]] = {}
    for t in plan.terminations:
        if t.terminal.recheck_24h:
            first = torques[t.id].record
            redone = recheck_records.get(t.id)
            rechecks[t.id] = (
                first.at + timedelta(hours=24) if first else None,
                bool(first and redone and redone.at >= first.at and redone.value.get("ok")),
            )
    checks = {c.id: judge_check(c, measured.get(c.id)) for c in plan.all_checks()}
    _derived_spread(plan, checks)
    cleared = _cleared(latest(records, "hold-cleared"), checks)
    steps = {s.id: Judged(done.get(s.id)) for s in plan.power_up.steps}
    step_holds = {s.id: _holds(plan, s, checks, steps, cleared) for s in plan.power_up.steps}
    settings = _settings(plan, latest(records, "setting"))
    links_done = {k: r for k, r in latest(records, "link").items() if k in dict(LINK_TASKS)}
    cts = _ct_verdicts(plan, latest(records, "ct").get("ct-test"))
    signed = latest(records, "sign-off").get("job")

    def settled(check_id: str) -> bool:
        return checks[check_id].good or f"check:{check_id}" in cleared

    held = Counter(c.station for c in plan.all_checks() if c.life and checks[c.id].faults and f"check:{c.id}" not in cleared)
    counts = {
        "survey": unanswered(plan),
        "wire": (sum(j.good for j in torques.values()), len(torques)),
        "links": (len(links_done), len(LINK_TASKS)),
        "sensing": (sum(v.verdict == "right" for v in cts), len(plan.sensing.cts)),
        "prove": (sum(settled(c.id) for c in plan.checks), len(plan.checks)),
        "power-up": (sum(j.good for j in steps.values()), len(steps)),
        "settings": (sum(same for _, same in settings.values()), len(settings)),
        "live-checks": (sum(settled(c.id) for c in plan.live_checks), len(plan.live_checks)),
    }
    missing = _missing(plan, torques, rechecks, counts, now)
    stations = {sid: _station(plan, sid, title, counts, missing, signed, held[sid]) for _, group in LEGS for sid, title in group}
    readings = _reading_findings(plan, checks, cleared)
    return Standing(stations, torques, rechecks, checks, steps, step_holds, settings, links_done, cts, missing, signed, cleared, readings)


def _missing(
    plan: Plan,
    torques: dict[str, Judged],
    rechecks: dict[str, tuple[datetime | None, bool]],
    counts: dict[str, tuple[int, int]],
    now: datetime,
) -> tuple[str, ...]:
    rows = [f"stop at {f.station}: {f.text}" for f in plan.stops]
    rows += [f"not answered: {g.question}" for g in plan.gaps]
    left = sum(not j.good for j in torques.values())
    if left:
        rows.append(f"{left} of {len(torques)} terminations have no good torque record")
    late = sum(1 for due, ok in rechecks.values() if not ok)
    if late:
        overdue = sum(1 for due, ok in rechecks.values() if due and not ok and due < now)
        rows.append(f"{late} battery lugs wait for the 24 h check" + (f", {overdue} overdue" if overdue else ""))
    for station, noun in (
        ("links", "link tasks"),
        ("sensing", "CTs proved"),
        ("prove", "dead measurements"),
        ("power-up", "power-up steps"),
        ("settings", "settings as left"),
        ("live-checks", "live checks"),
    ):
        have, want = counts[station]
        if have < want:
            rows.append(f"{want - have} of {want} {noun} open")
    return tuple(rows)


def _station(
    plan: Plan,
    sid: str,
    title: str,
    counts: dict[str, tuple[int, int]],
    missing: tuple[str, ...],
    signed: Record | None,
    readings_held: int,
) -> StationStanding:
    here = plan.at(sid)
    stops = sum(f.level == "stop" for f in here) + readings_held
    cautions = sum(f.level == "caution" for f in here)
    gaps = sum(g.station == sid for g in plan.gaps)
    have, want = counts.get(sid, (0, 0))
    if sid == "hand-over":
        if signed and not missing:
            return StationStanding(sid, title, "clear", 1, 1, 0, 0, "signed")
        return StationStanding(sid, title, "open", 0, len(missing), 0, 0, f"{len(missing)} missing" if missing else "ready to sign")
    if sid == "power-up" and plan.stops:
        stops = max(stops, 1)
    if stops:
        return StationStanding(sid, title, "held", have, want, stops, cautions, f"held ({stops})")
    state: State
    if want and have < want:
        state = "part" if have else "open"
        return StationStanding(sid, title, state, have, want, 0, cautions, f"{have} of {want}")
    if gaps:
        return StationStanding(sid, title, "open", have, want, 0, cautions, f"{gaps} unanswered")
    if (sid == "wall" and plan.wall is None) or (sid == "wire" and not plan.terminations):
        # Nothing is judged yet: that is not clear.
        return StationStanding(sid, title, "open", have, want, 0, cautions, "waits for answers elsewhere")
    return StationStanding(sid, title, "clear", have, want, 0, cautions, "clear")

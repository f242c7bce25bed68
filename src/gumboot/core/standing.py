"""Plan and records together: what is done, open and held at each station."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any, Literal

from gumboot.core.as_left import as_asked
from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up import Step
from gumboot.core.plan.prove import Check
from gumboot.core.plan.settings import Setting
from gumboot.core.plan.terminations import Termination
from gumboot.core.rulebook.books import book
from gumboot.core.rules.readings import READ, Reading
from gumboot.core.sim.ct_readings import Channel, CtVerdict, MeterTest, MeterVerdict, solve
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
class Left:
    """A setting as it was left: as asked, or different with a reason, and agreed to where a difference guards something."""

    record: Record | None
    same: bool = False
    agreed: Record | None = None
    guards: str = ""

    @property
    def reason(self) -> str:
        """Why it differs, in the words of who left it."""
        return str(self.record.value.get("reason", "")) if self.record else ""

    @property
    def good(self) -> bool:
        """Whether it counts as left."""
        return self.same or bool(self.reason and (self.agreed or not self.guards))

    @property
    def word(self) -> str:
        """Its state in words."""
        if self.record is None:
            return "open"
        if self.same:
            return "as asked"
        if not self.reason:
            return "differs from the sheet: give the reason, or set it as asked"
        if self.agreed:
            return f"differs, agreed by {self.agreed.by}"
        return (
            f"differs; it guards {self.guards}: a licence holder agrees to it, or it is set as asked"
            if self.guards
            else "differs, with a reason"
        )


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
    settings: dict[str, Left]
    links_done: dict[str, Record]
    ct_verdicts: tuple[CtVerdict, ...]
    missing: tuple[str, ...]
    signed: Record | None = None
    cleared_holds: dict[str, Record] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    # Checks that cannot be made yet, with the step they wait for.
    waiting: dict[str, str] = field(default_factory=dict)
    meter: MeterVerdict | None = None

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


def _derived_spread(plan: Plan, judged: dict[str, Judged]) -> None:
    """The pack spread follows from the pack voltages: nobody types it."""
    if "pack-spread" not in judged:
        return
    packs = [judged[f"pack-{u.id}"].record for u in plan.job.banks[0].units]
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
    found = []
    for c in plan.all_checks():
        faults = () if f"check:{c.id}" in cleared else checks[c.id].faults
        asked = READ[c.code]
        breach = asked(Reading(check=c.id, title=c.title, faults=faults, life=c.life))
        if breach is not None:
            found.append(asked.finding(breach, family, c.station))
    return tuple(found)


@dataclass(frozen=True, slots=True)
class _Site:
    """What a step of first power looks at: everything that must be done or stand before it, as it is now."""

    plan: Plan
    torques: Mapping[str, Judged]
    checks: Mapping[str, Judged]
    steps: Mapping[str, Judged]
    settings: Mapping[str, Left]
    cleared: Mapping[str, Record]
    links_done: Mapping[str, Record]
    meter: tuple[CtVerdict, ...]

    def settled(self, check_id: str) -> bool:
        return self.checks[check_id].good or f"check:{check_id}" in self.cleared

    def failed(self) -> list[str]:
        """Readings that stand outside their band now, whenever they were made."""
        return [
            f"{c.title}: {'; '.join(self.checks[c.id].faults)}"
            for c in self.plan.all_checks()
            if self.checks[c.id].faults and not self.settled(c.id)
        ]

    def needs(self, need: str) -> list[str]:
        """What of the link ritual, the settings or the meter test is still open."""
        if need == "links":
            return [f"links: {title.lower()}" for key, title in link_tasks(self.plan) if key not in self.links_done]
        if need == "settings":
            left = [row.title.lower() for row in self.plan.settings.sheet if not self.settings[row.key].good]
            return [f"settings as left: {', '.join(left[:3])}{f' and {len(left) - 3} more' if len(left) > 3 else ''}"] if left else []
        bad = [v for v in self.meter if v.verdict != "right"]
        if bad:
            return [f"meter test: {bad[0].text}"]
        return [] if self.meter else ["the meter test with PV off is not recorded"]


def _holds(site: _Site, step: Step) -> tuple[str, ...]:
    plan, order = site.plan, [s.id for s in site.plan.power_up.steps]
    titles = {c.id: c.title for c in plan.all_checks()}
    at = order.index(step.id)
    held = [f"stop: {f.text}" for f in plan.stops]
    held += [f"failed reading: {words}" for words in site.failed()]
    if at and not site.steps[order[at - 1]].good:
        held.append(f"the step before: {plan.power_up.steps[at - 1].title}")
    held += [titles[c] for c in step.holds if not site.settled(c) and not site.checks[c].faults]
    open_ends = [t for t in plan.terminations if t.circuit in step.lands and not site.torques[t.id].good]
    if open_ends:
        first = f"{open_ends[0].place} {open_ends[0].title}"
        held.append(f"{len(open_ends)} terminations without a good record, the first {first}")
    held += [words for need in step.needs for words in site.needs(need)]
    if step.measure is not None and not site.settled(step.measure.id) and not site.checks[step.measure.id].faults:
        held.append(f"record the reading: {step.measure.title}")
    return tuple(held)


def asked_text(row: Setting) -> str:
    """What a line of the sheet asks, as agreements keep it."""
    return f"{row.figure.value:.6g} {row.figure.unit}".strip() if row.figure else row.text


def _settings(plan: Plan, records: dict[str, Record], agreements: dict[str, Record]) -> dict[str, Left]:
    out: dict[str, Left] = {}
    for row in plan.settings.sheet:
        record, agreed = records.get(row.key), agreements.get(row.key)
        if record is None:
            out[row.key] = Left(None, guards=row.guards)
            continue
        same = as_asked(row, str(record.value.get("as_left", "")), record.at, plan.job.site.utc_offset_h)
        # An agreement speaks of one record against one asked value, never of a later one.
        holds = agreed is not None and agreed.value.get("record") == record.id and agreed.value.get("asked") == asked_text(row)
        out[row.key] = Left(record, same, agreed if holds else None, row.guards)
    return out


def _meter_tests(records: Sequence[Record], channels: set[str]) -> list[MeterTest]:
    """The newest meter test, and those before it from which on nothing was moved."""
    tests: list[MeterTest] = []
    rows = sorted((r for r in records if r.kind == "ct" and r.subject == "ct-test"), key=lambda r: r.at)
    for record in reversed(rows):
        after, before = record.value.get("readings", {}), record.value.get("before")
        # A record from before both readings were taken cannot tell what the loads changed.
        if before is None or not channels <= set(after) or not channels <= set(before):
            break
        loads = {leg: float(record.value.get(f"test_{leg.lower()}_w", 0)) for leg in ("L1", "L2", "L3")}
        factor = float(record.value.get("power_factor", 1))
        tests.insert(0, MeterTest(loads, {c: float(before[c]) for c in channels}, {c: float(after[c]) for c in channels}, factor))
        if not record.value.get("unmoved"):
            break
    return tests


def _meter(plan: Plan, records: Sequence[Record]) -> MeterVerdict | None:
    inverter = plan.seats.inverter
    placed = {ct.place.channel for ct in plan.sensing.cts}
    channels = [Channel(c.id, c.leg, c.reference) for c in inverter.ct_channels if c.id in placed]
    tests = _meter_tests(records, placed) if channels else []
    return solve(channels, tests, plan.house.output) if tests else None


LINK_TASKS = (
    ("off", "Every battery breaker off, every BMS off"),
    ("program", "Switches set, protocol chosen, one unit at a time"),
    ("cycle", "Each unit power-cycled and its setting read back"),
    ("lead", "Lead made to the pin-out and checked end to end"),
)


GROUP_TASKS = (
    ("group-set", "Role, address and phase set in each inverter, one at a time, the link unplugged"),
    ("group-lead", "Link between the inverters laid, terminators at its two ends"),
)


def link_tasks(plan: Plan) -> tuple[tuple[str, str], ...]:
    """The tasks of the programming ritual; none where there is no battery bus to program."""
    return (LINK_TASKS if plan.links.inverter_port else ()) + (GROUP_TASKS if plan.links.group else ())


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
    settings = _settings(plan, latest(records, "setting"), latest(records, "setting-agreed"))
    links_done = {k: r for k, r in latest(records, "link").items() if k in dict(link_tasks(plan))}
    meter = _meter(plan, records)
    cts = meter.channels if meter else ()
    site = _Site(plan, torques, checks, steps, settings, cleared, links_done, cts)
    step_holds = {s.id: _holds(site, s) for s in plan.power_up.steps}
    waiting = {c.id: step_title(plan, c.after) for c in plan.live_checks if c.after and not steps.get(c.after, Judged(None)).good}
    for before, step in itertools.pairwise(plan.power_up.steps):
        if step.measure is not None and not steps[before.id].good:
            waiting[step.measure.id] = before.title
    if plan.sensing.cts and "grid-breaker" in steps and not steps["grid-breaker"].good:
        waiting["ct-test"] = step_title(plan, "grid-breaker")
    signed = latest(records, "sign-off").get("job")

    settled = site.settled
    held = Counter(c.station for c in plan.all_checks() if c.life and checks[c.id].faults and f"check:{c.id}" not in cleared)
    counts = {
        "survey": unanswered(plan),
        "wire": (sum(j.good for j in torques.values()), len(torques)),
        "links": (len(links_done), len(link_tasks(plan))),
        "sensing": (sum(v.verdict == "right" for v in cts), len(plan.sensing.cts)),
        "prove": (sum(settled(c.id) for c in plan.checks), len(plan.checks)),
        "power-up": (sum(j.good for j in steps.values()), len(steps)),
        "settings": (sum(left.good for left in settings.values()), len(settings)),
        "live-checks": (sum(settled(c.id) for c in plan.live_checks), len(plan.live_checks)),
    }
    measured_on_the_way = [step.measure for step in plan.power_up.steps if step.measure is not None]
    bad = [c.title for c in measured_on_the_way if checks[c.id].faults and not settled(c.id)]
    # A reading of a step that is done may turn bad later: nobody signs over it.
    missing = (*_missing(plan, torques, rechecks, counts, now), *(f"reading outside its band: {title}" for title in bad))
    failed = site.failed()
    if failed:
        held["power-up"] = max(held["power-up"], 1)
    stations = {sid: _station(plan, sid, title, counts, missing, signed, held[sid]) for _, group in LEGS for sid, title in group}
    readings = _reading_findings(plan, checks, cleared)
    return Standing(
        stations,
        torques,
        rechecks,
        checks,
        steps,
        step_holds,
        settings,
        links_done,
        cts,
        missing,
        signed,
        cleared,
        readings,
        waiting,
        meter,
    )


def step_title(plan: Plan, step_id: str) -> str:
    """What a step is called, or that its order is not planned."""
    return next((s.title for s in plan.power_up.steps if s.id == step_id), "first power, whose order is not planned here")


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
    if (sid == "wall" and len(plan.walls) < len(plan.job.walls)) or (sid == "wire" and not plan.terminations):
        # Nothing is judged yet: that is not clear.
        return StationStanding(sid, title, "open", have, want, 0, cautions, "waits for answers elsewhere")
    return StationStanding(sid, title, "clear", have, want, 0, cautions, "clear")

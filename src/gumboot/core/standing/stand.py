"""The standing of a whole job: plan and records in, everything that is done, open or held out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import cast

from gumboot.core.acts import Acts, Gates, Kind, Stands, State
from gumboot.core.acts import acts as acts_of
from gumboot.core.plan.derive import Plan
from gumboot.core.record import Agreement, Answer, AnyRecord, Clearance
from gumboot.core.standing.holds import step_holds
from gumboot.core.standing.judged import clearances_that_hold, derive_spreads, judge_check, judge_torque, reading_findings
from gumboot.core.standing.left import settings_left
from gumboot.core.standing.meter import meter_verdicts
from gumboot.core.standing.records import LEGS, Judged, Standing, counted, in_order, latest, latest_of, stands_for_itself
from gumboot.core.standing.signed import signature
from gumboot.core.standing.since import since_of
from gumboot.core.standing.stands import Site, stands_of
from gumboot.core.standing.stations import Done, counts_of, station_standing, what_is_missing
from gumboot.core.standing.two import Two, two_values


def _rechecks(plan: Plan, torques: dict[str, Judged], redone: Mapping[str, AnyRecord]) -> dict[str, tuple[datetime | None, bool]]:
    """When each lug that is tightened again is due, and whether that was done after the torque that stands."""
    found: dict[str, tuple[datetime | None, bool]] = {}
    for t in plan.terminations:
        if t.terminal.recheck_24h:
            first, again = torques[t.id].record, redone.get(t.id)
            done = bool(first and isinstance(again, Answer) and again.at >= first.at and again.yes)
            found[t.id] = (first.at + timedelta(hours=24) if first else None, done)
    return found


def _looked_at(rechecks: Mapping[str, tuple[datetime | None, bool]], now: datetime) -> tuple[int, int, int]:
    """How many lugs were looked at again, of how many, and of how many the day is over."""
    over = sum(1 for due, done in rechecks.values() if due and not done and due < now)
    return sum(done for _, done in rechecks.values()), len(rechecks), over


def _waiting(gates: Gates) -> dict[str, str]:
    """Checks and meter tests that cannot be made yet, with what they wait for: the step, where it is one."""
    found = {}
    for act in gates.acts.values():
        if act.kind not in (Kind.LOOK, Kind.MEASUREMENT, Kind.DISPLAYS, Kind.METER) or not act.needs or act.is_derived:
            continue
        troubles = gates.held_by(act.id)
        if troubles:
            step = next((t for t in troubles if t.act.kind is Kind.STEP), troubles[0])
            found[act.name] = step.act.title
    return found


def _site(plan: Plan, acts: Acts, every: Sequence[AnyRecord], now: datetime) -> Site:
    """Torques, readings, steps and settings as they stand."""
    records = counted(every)
    last = {r.act: r for r in records if stands_for_itself(r)}
    torque_records, measured = latest(records, "torque"), latest(records, "check")
    checks = {c.id: judge_check(c, measured.get(c.id)) for c in plan.all_checks()}
    derive_spreads(plan, checks)
    cleared = cast("dict[str, Clearance]", latest_of(records, Clearance))
    agreed = cast("dict[str, Agreement]", latest_of(records, Agreement))
    return Site(
        plan=plan,
        acts=acts,
        now=now,
        last=last,
        torques={t.id: judge_torque(t, torque_records.get(t.id)) for t in plan.terminations},
        checks=checks,
        settings=settings_left(plan, latest(records, "setting"), agreed),
        cleared=clearances_that_hold(cleared, checks),
        meters=meter_verdicts(plan, records),
        since=since_of(plan, acts, records, in_order(every), last),
    )


def _steps(plan: Plan, site: Site, stands: Mapping[str, Stands]) -> dict[str, Judged]:
    """The steps of first power that stand: one that was switched off since is to be done again."""
    found = {}
    for step in plan.power_up.steps:
        record, stood = site.last.get(f"step:{step.id}"), stands[f"step:{step.id}"]
        found[step.id] = Judged(record if stood.holds else None)
    return found


def _as_it_stands(judged: Judged, stands: Stands) -> Judged:
    """A landing that was good and is so no more says why."""
    return Judged(judged.record, (stands.why,)) if judged.good and not stands.holds else judged


def _held(acts: Acts, stands: Mapping[str, Stands]) -> Counter[str]:
    """What has failed at each station and guards life; any failed reading holds first power."""
    failed = [act for act in acts.values() if stands[act.id].state is State.FAILED and act.kind is not Kind.PLAN]
    held = Counter(act.station for act in failed if act.guards == "life")
    if any(act.id.startswith("check:") for act in failed):
        held["power-up"] = max(held["power-up"], 1)
    return held


def _beside(acts: Acts, two: Mapping[str, Two]) -> list[str]:
    """Acts of which two values stand: somebody who sees both has to say which it is."""
    return [f"two values: {acts[act].title}" for act in two if act in acts]


def stand(plan: Plan, records: Sequence[AnyRecord], now: datetime, revision: int | None = None, *, head: str | None = None) -> Standing:
    """Work out the standing. ``now`` is given: the core has no clock of its own.

    ``revision`` of the job and ``head`` of the chain of its records are what a signature is bound to.
    """
    acts = acts_of(plan)
    site = _site(plan, acts, records, now)
    gates = Gates(acts, stands := {act.id: stands_of(site, act) for act in acts.values()})
    rechecks = _rechecks(plan, site.torques, latest(counted(records), "recheck"))
    signed, counts = signature(records, revision), counts_of(site, stands)
    two = two_values(records)
    missing = (*what_is_missing(site, stands, rechecks, counts), *_beside(acts, two))
    held, done = _held(acts, stands), Done(counts, missing, signed, _looked_at(rechecks, now))
    torques = {name: _as_it_stands(judged, stands[f"torque:{name}"]) for name, judged in site.torques.items()}
    return Standing(
        stations={sid: station_standing(plan, (sid, title), done, held[sid]) for _, group in LEGS for sid, title in group},
        acts=acts,
        stands=stands,
        gates=gates,
        records=tuple(records),
        last=site.last,
        torques=torques,
        rechecks=rechecks,
        checks=site.checks,
        steps=_steps(plan, site, stands),
        step_holds=step_holds(plan, gates),
        settings=site.settings,
        links_done={act.name: site.last[act.id] for act in acts.values() if act.kind is Kind.RITUAL and stands[act.id].holds},
        missing=missing,
        signed=signed.record,
        ended=signed.ended,
        revision=revision,
        head=head,
        cleared_holds=site.cleared,
        findings=reading_findings(plan, site.checks, site.cleared),
        waiting=_waiting(gates),
        meters=site.meters,
        since=site.since,
        two=two,
    )

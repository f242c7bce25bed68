"""The standing of a whole job: plan and records in, everything that is done, open or held out."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Sequence
from datetime import datetime, timedelta

from gumboot.core.plan.derive import Plan
from gumboot.core.sim.ct_readings import MeterVerdict
from gumboot.core.standing.holds import Site, holds_of
from gumboot.core.standing.judged import clearances_that_hold, derive_spreads, judge_check, judge_torque, reading_findings
from gumboot.core.standing.left import settings_left
from gumboot.core.standing.meter import meter_verdicts
from gumboot.core.standing.records import LEGS, Judged, Record, Standing, latest
from gumboot.core.standing.stations import Done, counts_of, station_standing, what_is_missing
from gumboot.core.standing.tasks import link_tasks


def _rechecks(plan: Plan, torques: dict[str, Judged], redone: dict[str, Record]) -> dict[str, tuple[datetime | None, bool]]:
    """When each lug that is tightened again is due, and whether that was done after the torque that stands."""
    found: dict[str, tuple[datetime | None, bool]] = {}
    for t in plan.terminations:
        if t.terminal.recheck_24h:
            first, again = torques[t.id].record, redone.get(t.id)
            done = bool(first and again and again.at >= first.at and again.value.get("ok"))
            found[t.id] = (first.at + timedelta(hours=24) if first else None, done)
    return found


def _waiting(plan: Plan, steps: dict[str, Judged]) -> dict[str, str]:
    """Checks that cannot be made yet, with the step that they wait for."""
    waiting = {c.id: step_title(plan, c.after) for c in plan.live_checks if c.after and not steps.get(c.after, Judged(None)).good}
    for before, step in itertools.pairwise(plan.power_up.steps):
        if step.measure is not None and not steps[before.id].good:
            waiting[step.measure.id] = before.title
    for each in plan.sensing.sets:
        grid = f"grid-breaker{each.mark}"
        if each.cts and grid in steps and not steps[grid].good:
            waiting[each.test] = step_title(plan, grid)
    return waiting


def _site(plan: Plan, records: Sequence[Record], meters: dict[str, MeterVerdict]) -> Site:
    """Torques, readings, steps and settings as they stand."""
    torque_records, measured, done = latest(records, "torque"), latest(records, "measurement"), latest(records, "done")
    checks = {c.id: judge_check(c, measured.get(c.id)) for c in plan.all_checks()}
    derive_spreads(plan, checks)
    return Site(
        plan=plan,
        torques={t.id: judge_torque(t, torque_records.get(t.id)) for t in plan.terminations},
        checks=checks,
        steps={s.id: Judged(done.get(s.id)) for s in plan.power_up.steps},
        settings=settings_left(plan, latest(records, "setting"), latest(records, "setting-agreed")),
        cleared=clearances_that_hold(latest(records, "hold-cleared"), checks),
        links_done={k: r for k, r in latest(records, "link").items() if k in dict(link_tasks(plan))},
        meters=meters,
    )


def stand(plan: Plan, records: Sequence[Record], now: datetime) -> Standing:
    """Work out the standing. ``now`` is given: the core has no clock of its own."""
    site = _site(plan, records, meter_verdicts(plan, records))
    rechecks = _rechecks(plan, site.torques, latest(records, "recheck"))
    signed, counts = latest(records, "sign-off").get("job"), counts_of(site)
    missing = (*what_is_missing(site, rechecks, counts, now), *site.turned_bad())
    held = Counter(c.station for c in plan.all_checks() if c.life and site.checks[c.id].faults and f"check:{c.id}" not in site.cleared)
    if site.failed():
        held["power-up"] = max(held["power-up"], 1)
    done = Done(counts, missing, signed)
    return Standing(
        stations={sid: station_standing(plan, (sid, title), done, held[sid]) for _, group in LEGS for sid, title in group},
        torques=site.torques,
        rechecks=rechecks,
        checks=site.checks,
        steps=site.steps,
        step_holds={s.id: holds_of(site, s) for s in plan.power_up.steps},
        settings=site.settings,
        links_done=site.links_done,
        missing=missing,
        signed=signed,
        cleared_holds=site.cleared,
        findings=reading_findings(plan, site.checks, site.cleared),
        waiting=_waiting(plan, site.steps),
        meters=site.meters,
    )


def step_title(plan: Plan, step_id: str) -> str:
    """What a step is called, or that its order is not planned."""
    return next((s.title for s in plan.power_up.steps if s.id == step_id), "first power, whose order is not planned here")

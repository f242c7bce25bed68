"""How far is each station, and what is missing before hand-over?"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from gumboot.core.plan.derive import Plan
from gumboot.core.standing.holds import Site
from gumboot.core.standing.records import Record, State, StationStanding
from gumboot.core.standing.tasks import link_tasks
from gumboot.core.survey_answers import unanswered

Counts = dict[str, tuple[int, int]]


@dataclass(frozen=True, slots=True)
class Done:
    """What each station has of what it wants, what is missing over all, and the signature where there is one."""

    counts: Counts
    missing: tuple[str, ...]
    signed: Record | None


def counts_of(site: Site) -> Counts:
    """What each station has of what it wants."""
    plan = site.plan
    return {
        "survey": unanswered(plan),
        "wire": (sum(j.good for j in site.torques.values()), len(site.torques)),
        "links": (len(site.links_done), len(link_tasks(plan))),
        "sensing": (sum(v.verdict == "right" for test in site.meters.values() for v in test.channels), len(plan.sensing.cts)),
        "prove": (sum(site.settled(c.id) for c in plan.checks), len(plan.checks)),
        "power-up": (sum(j.good for j in site.steps.values()), len(site.steps)),
        "settings": (sum(left.good for left in site.settings.values()), len(site.settings)),
        "live-checks": (sum(site.settled(c.id) for c in plan.live_checks), len(plan.live_checks)),
    }


def what_is_missing(site: Site, rechecks: dict[str, tuple[datetime | None, bool]], counts: Counts, now: datetime) -> tuple[str, ...]:
    """Everything that is open before hand-over, in words."""
    plan, torques = site.plan, site.torques
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


def _hand_over(title: str, done: Done) -> StationStanding:
    """The last station: signed, ready, or so many things short."""
    if done.signed and not done.missing:
        return StationStanding("hand-over", title, "clear", 1, 1, 0, 0, "signed")
    word = f"{len(done.missing)} missing" if done.missing else "ready to sign"
    return StationStanding("hand-over", title, "open", 0, len(done.missing), 0, 0, word)


def station_standing(plan: Plan, station: tuple[str, str], done: Done, readings_held: int) -> StationStanding:
    """How one station, by id and title, stands."""
    sid, title = station
    if sid == "hand-over":
        return _hand_over(title, done)
    here = plan.at(sid)
    stops = sum(f.level == "stop" for f in here) + readings_held
    cautions = sum(f.level == "caution" for f in here)
    gaps = sum(g.station == sid for g in plan.gaps)
    have, want = done.counts.get(sid, (0, 0))
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

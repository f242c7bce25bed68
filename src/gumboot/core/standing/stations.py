"""How far is each station, and what is missing before hand-over?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from gumboot.core.acts import Kind, Stands, State
from gumboot.core.plan.derive import Plan
from gumboot.core.standing.records import State as StationState
from gumboot.core.standing.records import StationStanding
from gumboot.core.standing.signed import Signed
from gumboot.core.standing.stands import Site
from gumboot.core.survey_answers import unanswered

Counts = dict[str, tuple[int, int]]
# What counts as done: good, cleared, or good as what it guards was done on its strength.
COUNTS = (State.GOOD, State.CLEARED, State.USED)
# What each kind of act is called in the list of what is missing, where its station does not say it.
NOUNS: Mapping[Kind, str] = {
    Kind.INSIDE: "boxes without what goes in first",
    Kind.UNPACK: "boxes not unpacked and looked at",
    Kind.FIND: "walls in which nobody looked for wires and pipes",
    Kind.BOARD: "backing boards not up",
    Kind.MARKED: "sets of holes not marked",
    Kind.HOLE: "sets of holes not drilled",
    Kind.FIXED: "boxes with anchors not at their torque",
    Kind.LIFT: "boxes not in their place",
    Kind.JOINT: "factory joints not tightened",
    Kind.FERRITE: "ferrites not on",
    Kind.BRIDGED: "maker's bridges not in",
    Kind.ENTRIES: "boxes with entries not closed",
    Kind.CORE: "CTs not closed round their conductors",
    Kind.COVER: "boxes not closed",
    Kind.LABEL: "labels not in place",
    Kind.SERIAL: "serial numbers not written down",
    Kind.FIRMWARE: "firmware versions not written down",
}
STATIONS = ("wire", "links", "sensing", "prove", "power-up", "settings", "live-checks")


@dataclass(frozen=True, slots=True)
class Done:
    """What each station has of what it wants, what is missing over all, and the signature where there is one."""

    counts: Counts
    missing: tuple[str, ...]
    signed: Signed
    # Marks that are looked at a day later: how many of them are done, all, and over their time.
    marks: tuple[int, int, int] = (0, 0, 0)


def counts_of(site: Site, stands: Mapping[str, Stands]) -> Counts:
    """What each station has of what it wants."""
    counts: Counts = {"survey": unanswered(site.plan)}
    for station in STATIONS:
        wanted = [a for a in site.acts.of(station) if not a.is_optional and a.kind is not Kind.RECHECK]
        if station == "power-up":
            wanted = [a for a in wanted if a.kind is Kind.STEP]
        if station == "sensing":
            wanted = [a for a in wanted if a.kind is not Kind.METER]
        counts[station] = sum(stands[a.id].state in COUNTS for a in wanted), len(wanted)
    # Of a meter test each channel counts by itself.
    (set_, all_), (proved, cts) = counts["sensing"], _proved(site)
    counts["sensing"] = set_ + proved, all_ + cts
    return counts


def _proved(site: Site) -> tuple[int, int]:
    """How many transformers their meter tests proved, and of how many."""
    right = [channel.verdict == "right" for test in site.meters.values() for channel in test.channels]
    return sum(right), len(site.plan.sensing.cts)


def _of_kind(site: Site, stands: Mapping[str, Stands], kind: Kind) -> tuple[int, int]:
    wanted = [a for a in site.acts.values() if a.kind is kind]
    return sum(stands[a.id].state in COUNTS for a in wanted), len(wanted)


def _late(rechecks: dict[str, tuple[datetime | None, bool]], now: datetime) -> list[str]:
    late = sum(1 for due, ok in rechecks.values() if not ok)
    overdue = sum(1 for due, ok in rechecks.values() if due and not ok and due < now)
    return [f"{late} battery lugs wait for the 24 h check" + (f", {overdue} overdue" if overdue else "")] if late else []


def what_is_missing(
    site: Site, stands: Mapping[str, Stands], rechecks: dict[str, tuple[datetime | None, bool]], counts: Counts
) -> tuple[str, ...]:
    """Everything that is open before hand-over, in words."""
    plan = site.plan
    rows = [f"stop at {f.station}: {f.text}" for f in plan.stops]
    rows += [f"not answered: {g.question}" for g in plan.gaps]
    good, landings = _of_kind(site, stands, Kind.TORQUE)
    if good < landings:
        rows.append(f"{landings - good} of {landings} terminations have no good torque record")
    rows += _late(rechecks, site.now)
    secondaries = [a for a in site.acts.of("sensing") if a.kind is Kind.LEAD]
    if open_ := sum(stands[a.id].state not in COUNTS for a in secondaries):
        rows.append(f"{open_} of {len(secondaries)} CT leads not in")
    for kind, noun in NOUNS.items():
        have, want = _of_kind(site, stands, kind)
        if have < want:
            rows.append(f"{want - have} of {want} {noun}")
    checks = [a for a in site.acts.of("live-checks") if a.id.startswith("check:")]
    counts = {**counts, "live-checks": (sum(stands[a.id].state in COUNTS for a in checks), len(checks)), "sensing": _proved(site)}
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
    on_the_way = [site.acts[f"check:{step.measure.id}"] for step in plan.power_up.steps if step.measure is not None]
    rows += [f"reading outside its band: {a.title}" for a in on_the_way if stands[a.id].state is State.FAILED]
    return tuple(rows)


def _hand_over(title: str, done: Done) -> StationStanding:
    """The last station: signed, ready, or so many things short."""
    if done.signed.stands and done.signed.is_provisional:
        word = f"handed over; {done.missing[0]}" if done.missing else "handed over, its promises kept: ready to sign"
        return StationStanding("hand-over", title, "part", 0, len(done.missing), 0, 0, word)
    if done.signed.stands:
        return StationStanding("hand-over", title, "clear", 1, 1, 0, 0, "signed")
    word = f"{len(done.missing)} missing" if done.missing else "ready to sign"
    if done.signed.ended:
        word = f"signed before; {done.signed.ended}" if not done.missing else f"{word}, signed before"
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
    state: StationState
    if want and have < want:
        state = "part" if have else "open"
        return StationStanding(sid, title, state, have, want, 0, cautions, f"{have} of {want}")
    looked, marks, over = done.marks
    if sid == "wire" and want and looked < marks:
        word = f"{over} of {marks} marks overdue" if over else f"{looked} of {marks} marks looked at"
        return StationStanding(sid, title, "held" if over else "part", looked, marks, over, cautions, word)
    if gaps:
        return StationStanding(sid, title, "open", have, want, 0, cautions, f"{gaps} unanswered")
    if (sid == "wall" and len(plan.walls) < len(plan.job.walls)) or (sid == "wire" and not plan.terminations):
        # Nothing is judged yet: that is not clear.
        return StationStanding(sid, title, "open", have, want, 0, cautions, "waits for answers elsewhere")
    return StationStanding(sid, title, "clear", have, want, 0, cautions, "clear")

"""How things stand against the plan: the values, nothing judged here."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from gumboot.core.acts import Acts, Gates, Stands
from gumboot.core.finding import Finding
from gumboot.core.record import Agreement, AnyRecord, CardNote, Clearance, Left, Photo, RecordBase, SetAside, SignOff, TakenBack
from gumboot.core.sim.ct_readings import MeterVerdict
from gumboot.core.standing.since import Since

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
class Judged:
    """An act with its latest record and what is wrong with it, if anything."""

    record: AnyRecord | None
    faults: tuple[str, ...] = ()

    @property
    def good(self) -> bool:
        """Recorded and without fault."""
        return self.record is not None and not self.faults


@dataclass(frozen=True, slots=True)
class SettingStands:
    """A setting as it was left: as asked, or different with a reason, and agreed to where a difference guards something."""

    record: Left | None
    same: bool = False
    agreed: Agreement | None = None
    guards: str = ""
    is_safer: bool = False

    @property
    def reason(self) -> str:
        """Why it differs, in the words of who left it."""
        return self.record.reason if self.record else ""

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
        safer = ", on the safe side" if self.is_safer else ""
        if not self.reason:
            return f"differs from the sheet{safer}: give the reason, or set it as asked"
        if self.agreed:
            return f"differs{safer}, agreed by {self.agreed.by}"
        return (
            f"differs{safer}; it guards {self.guards}: a licence holder agrees to it, or it is set as asked"
            if self.guards
            else f"differs{safer}, with a reason"
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
    """The whole job's standing. ``acts`` are all acts of the plan, ``stands`` how each stands, ``gates`` what holds each back."""

    stations: dict[str, StationStanding]
    acts: Acts
    stands: Mapping[str, Stands]
    gates: Gates
    # Every record, in the order in which they came in; and the one that stands of each act, agreements and clearances apart.
    records: tuple[AnyRecord, ...]
    last: Mapping[str, AnyRecord]
    torques: dict[str, Judged]
    rechecks: dict[str, tuple[datetime | None, bool]]
    checks: dict[str, Judged]
    steps: dict[str, Judged]
    step_holds: dict[str, tuple[str, ...]]
    settings: dict[str, SettingStands]
    links_done: dict[str, AnyRecord]
    missing: tuple[str, ...]
    # What has happened that ends the truth of what was seen before.
    since: Since
    signed: SignOff | None = None
    # What has ended the signature, in words; empty while it stands.
    ended: str = ""
    cleared_holds: dict[str, Clearance] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    # What a signature is bound to: the revision of the job, and the last hash of its chain; none where nothing is chained.
    revision: int | None = None
    head: str | None = None
    # Checks that cannot be made yet, with what they wait for.
    waiting: dict[str, str] = field(default_factory=dict)
    # What the meter test of each set of CTs says, by the test.
    meters: Mapping[str, MeterVerdict] = field(default_factory=dict)
    # Acts that two people recorded without knowing of each other: both records, in the order in which they were done.
    two: Mapping[str, tuple[AnyRecord, AnyRecord]] = field(default_factory=dict)

    def at(self, station: str) -> tuple[Finding, ...]:
        """What the readings of one station say against their bands."""
        return tuple(f for f in self.findings if f.station == station)


def in_order(records: Iterable[AnyRecord]) -> list[AnyRecord]:
    """Records in the order in which they were done, however late they came in; of one moment, as they came."""
    return sorted(records, key=lambda r: r.done_at)


def counted(records: Sequence[AnyRecord]) -> list[AnyRecord]:
    """What counts: nothing that was taken back or corrected, and not the taking back itself. The rest stays in the history.

    A correction that was taken back corrects nothing: what it stood for counts again.
    """
    back = {r.of for r in records if isinstance(r, TakenBack)}
    meant = [r for r in records if r.id not in back and not isinstance(r, TakenBack)]
    corrected = {r.corrects for r in meant if r.corrects}
    return in_order(r for r in meant if r.id not in corrected)


def stands_for_itself(record: AnyRecord) -> bool:
    """Whether a record says how its act stands: not what agrees to it or clears it, was set aside, nor a picture of it or a note."""
    return not isinstance(record, (Agreement, Clearance, SetAside, CardNote)) and (
        not isinstance(record, Photo) or record.act.startswith("photo:")
    )


def latest(records: Iterable[AnyRecord], word: str) -> dict[str, AnyRecord]:
    """The latest record of each act whose id begins with a word, by the rest of the id; of records in order that count."""
    return {r.name: r for r in records if r.act.startswith(f"{word}:") and stands_for_itself(r)}


def latest_of(records: Iterable[AnyRecord], kind: type[RecordBase]) -> dict[str, RecordBase]:
    """The latest record of one kind, by the name of its act."""
    return {r.name: r for r in records if isinstance(r, kind)}

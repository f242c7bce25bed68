"""What was recorded on site, and how it stands against the plan: the values, nothing judged here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Literal

from gumboot.core.finding import Finding
from gumboot.core.sim.ct_readings import MeterVerdict

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
    missing: tuple[str, ...]
    signed: Record | None = None
    cleared_holds: dict[str, Record] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()
    # Checks that cannot be made yet, with the step they wait for.
    waiting: dict[str, str] = field(default_factory=dict)
    # What the meter test of each set of CTs says, by the test.
    meters: Mapping[str, MeterVerdict] = field(default_factory=dict)

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

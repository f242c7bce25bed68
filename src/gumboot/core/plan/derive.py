"""The one route: a job and its shelf of cards in, the whole plan out."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding, Gap
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.once import once
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.engine import Run, gaps_of, run
from gumboot.core.plan.faults import FaultsPlan
from gumboot.core.plan.fitting_up import FittingPlan
from gumboot.core.plan.labels import Label
from gumboot.core.plan.leads import LeadsPlan
from gumboot.core.plan.links import LinksPlan
from gumboot.core.plan.loads import IslandLoads, LoadsPlan
from gumboot.core.plan.power_up import PowerUpPlan
from gumboot.core.plan.prove import Check
from gumboot.core.plan.sensing import SensingPlan
from gumboot.core.plan.settings import SettingsPlan
from gumboot.core.plan.strings import StringsPlan
from gumboot.core.plan.terminations import Termination
from gumboot.core.plan.wall import WallPlan
from gumboot.core.rules import Code
from gumboot.core.seats import InverterSeat, Seats
from gumboot.core.workbook import with_parts


@dataclass(frozen=True)
class Plan:
    """Everything the rules derive from one job. Never stored, never edited."""

    job: Job
    shelf: Shelf
    house: House
    findings: tuple[Finding, ...]
    gaps: tuple[Gap, ...]
    island_loads: IslandLoads
    strings: StringsPlan | None
    banks: tuple[BankPlan, ...]
    circuits: CircuitsPlan
    faults: FaultsPlan
    walls: tuple[WallPlan, ...]
    terminations: tuple[Termination, ...]
    links: LinksPlan
    sensing: SensingPlan
    leads: LeadsPlan
    fitting: FittingPlan
    checks: tuple[Check, ...]
    power_up: PowerUpPlan
    settings: SettingsPlan
    live_checks: tuple[Check, ...]
    labels: tuple[Label, ...]
    run: Run = field(compare=False, repr=False)

    @once
    def figures(self) -> dict[str, Figure]:
        """Every figure by key, and what their workings name."""
        return with_parts(self.run.figures)

    @property
    def seats(self) -> Seats:
        """The things of the job with their cards."""
        return self.house.seats

    @property
    def loads(self) -> LoadsPlan:
        """The backed-up side of the first island."""
        return self.island_loads.by_island[self.house.lead.id]

    @property
    def islands(self) -> tuple[Plan, ...]:
        """The plan of each island by itself: its things, banks, circuits and loads; the house-side loads stand in each."""
        # A plan that held itself would wait for the collector.
        return self._apart or (self,)

    @once
    def _apart(self) -> tuple[Plan, ...]:
        return () if len(self.house.islands) == 1 else tuple(self._of(island) for island in self.house.islands)

    def _of(self, island: House) -> Plan:
        own = {load.id for load in island.backed}
        loads = [load for load in self.job.loads if load.side == "house" or load.id in own]
        banks = {bank.id for bank in island.seats.banks}
        return replace(
            self,
            job=self.job.model_copy(update={"loads": loads}),
            house=island,
            banks=tuple(bank for bank in self.banks if bank.id in banks),
            sensing=self.sensing.but(sets=tuple(each for each in self.sensing.sets if each.mark == island.mark)),
            circuits=self.circuits.but(
                all=island.circuits,
                sized={cid: z for cid, z in self.circuits.sized.items() if cid in island.by_id or z.circuit.kind == "main-feeder"},
            ),
        )

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Findings that forbid the work."""
        return tuple(f for f in self.findings if f.level == "stop")

    def says(self, code: Code, of: Figure) -> bool:
        """Whether the rule of a code found fault with a figure."""
        return any(f.code == code and of.key in [x.key for x in (f.found, f.limit) if x is not None] for f in self.findings)

    def at(self, station: str) -> tuple[Finding, ...]:
        """Findings of one station."""
        return tuple(f for f in self.findings if f.station == station)

    def termination(self, termination_id: str) -> Termination | None:
        """One termination by its stable identity."""
        return next((t for t in self.terminations if t.id == termination_id), None)

    def bank_at(self, inverter: InverterSeat) -> BankPlan:
        """The bank of an inverter."""
        return next(bank for bank in self.banks if bank.id == inverter.thing.bank)

    def wall(self, wall_id: str) -> WallPlan | None:
        """One wall, None while it is not measured."""
        return next((w for w in self.walls if w.id == wall_id), None)

    @property
    def isolated(self) -> tuple[Check, ...]:
        """What is proved dead before a conductor is landed there."""
        return tuple(check for check in self.checks if check.is_before_landing)

    @property
    def proved(self) -> tuple[Check, ...]:
        """The dead checks when everything is landed."""
        return tuple(check for check in self.checks if not check.is_before_landing)

    def all_checks(self) -> tuple[Check, ...]:
        """Dead checks, the power-up measurements and live checks."""
        return (*self.checks, *(s.measure for s in self.power_up.steps if s.measure), *self.live_checks)


def derive(job: Job, shelf: Shelf, before: Plan | None = None, *, noted: bool = False) -> Plan:
    """Derive the plan. Pure: the same job and cards give the same plan, whatever plan ``before`` of the house it may build on.

    ``noted`` prepares for that: a plan that others are to build on. Raises UnknownCard for a card not on the shelf, WrongCard.
    """
    done = run(job, shelf, before.run if before else None, noted=noted)
    made, p = tuple(done.made.values()), done.parts
    return Plan(
        job,
        shelf,
        done.built.house,
        tuple(f for part in made for f in part.findings),
        gaps_of(made),
        p.loads,
        p.strings,
        p.banks,
        p.circuits,
        p.faults,
        p.walls,
        p.terminations,
        p.links,
        p.sensing,
        p.leads,
        p.fitting,
        p.prove,
        p.power_up,
        p.settings,
        p.live_checks,
        p.labels,
        done,
    )

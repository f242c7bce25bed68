"""The one route: a job and its shelf of cards in, the whole plan out."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card import Shelf
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding, Gap
from gumboot.core.installation import House
from gumboot.core.job import Job
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, plan_bank, plan_supply
from gumboot.core.plan.circuits import CircuitsPlan, plan_circuits
from gumboot.core.plan.circuits.station import Known
from gumboot.core.plan.connection import plan_connection
from gumboot.core.plan.coupling import plan_coupling
from gumboot.core.plan.labels import Label, plan_labels
from gumboot.core.plan.links import LinksPlan, plan_links
from gumboot.core.plan.live_checks import plan_live_checks
from gumboot.core.plan.loads import LoadsPlan, plan_loads
from gumboot.core.plan.power_up import PowerUpPlan, plan_power_up
from gumboot.core.plan.power_up.parts import Ready
from gumboot.core.plan.prove import Check, plan_prove
from gumboot.core.plan.raceways import plan_raceways
from gumboot.core.plan.sensing import SensingPlan, plan_sensing
from gumboot.core.plan.settings import SettingsPlan, plan_settings
from gumboot.core.plan.several import check_group
from gumboot.core.plan.shock import plan_shock
from gumboot.core.plan.strings import StringsPlan, plan_strings
from gumboot.core.plan.survey import check_survey
from gumboot.core.plan.terminations import Termination, plan_terminations
from gumboot.core.plan.wall import WallPlan, plan_wall
from gumboot.core.seats import Seats


@dataclass(frozen=True)
class Plan:
    """Everything the rules derive from one job. Never stored, never edited."""

    job: Job
    shelf: Shelf
    house: House
    figures: dict[str, Figure]
    findings: tuple[Finding, ...]
    gaps: tuple[Gap, ...]
    loads: LoadsPlan
    strings: StringsPlan | None
    bank: BankPlan
    circuits: CircuitsPlan
    wall: WallPlan | None
    terminations: tuple[Termination, ...]
    links: LinksPlan
    sensing: SensingPlan
    checks: tuple[Check, ...]
    power_up: PowerUpPlan
    settings: SettingsPlan
    live_checks: tuple[Check, ...]
    labels: tuple[Label, ...]

    @property
    def seats(self) -> Seats:
        """The things of the job with their cards."""
        return self.house.seats

    @property
    def stops(self) -> tuple[Finding, ...]:
        """Findings that forbid the work."""
        return tuple(f for f in self.findings if f.level == "stop")

    def at(self, station: str) -> tuple[Finding, ...]:
        """Findings of one station."""
        return tuple(f for f in self.findings if f.station == station)

    def termination(self, termination_id: str) -> Termination | None:
        """One termination by its stable identity."""
        return next((t for t in self.terminations if t.id == termination_id), None)

    def all_checks(self) -> tuple[Check, ...]:
        """Dead checks, the power-up measurements and live checks."""
        return (*self.checks, *(s.measure for s in self.power_up.steps if s.measure), *self.live_checks)


def derive(job: Job, shelf: Shelf) -> Plan:
    """Derive the plan. Pure: the same job and cards give the same plan. Raises UnknownCard for a card not on the shelf."""
    ledger = Ledger(job, shelf)
    check_survey(ledger)
    supply = plan_supply(ledger)
    strings = plan_strings(ledger)
    loads = plan_loads(ledger, supply.delivered, supply.power_w)
    circuits = plan_connection(ledger, plan_circuits(ledger, Known(strings, supply, loads)), loads)
    check_group(ledger, circuits)
    plan_shock(ledger, circuits)
    plan_raceways(ledger, circuits)
    plan_coupling(ledger, supply)
    bank = plan_bank(ledger, supply, circuits.sized)
    wall = plan_wall(ledger)
    terminations = plan_terminations(ledger, circuits)
    links = plan_links(ledger)
    sensing = plan_sensing(ledger)
    checks = plan_prove(ledger, strings, circuits, links)
    power_up = plan_power_up(Ready(ledger=ledger, bank=bank, checks=checks, plan=circuits))
    main = circuits.sized.get("bat-main")
    settings = plan_settings(ledger, bank, loads, links, main.ampacity if main else None)
    live = plan_live_checks(ledger, power_up)
    labels = plan_labels(ledger, strings, supply)
    for check in (*checks, *live, *(s.measure for s in power_up.steps if s.measure)):
        ledger.open(check.low, check.high, check.expected)
    return Plan(
        job,
        shelf,
        ledger.house,
        ledger.figures,
        tuple(ledger.findings),
        tuple(ledger.gaps),
        loads,
        strings,
        bank,
        circuits,
        wall,
        terminations,
        links,
        sensing,
        checks,
        power_up,
        settings,
        live,
        labels,
    )

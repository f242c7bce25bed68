"""Whole house, sub-board or manual transfer: the three schools of backing up, side by side for one house."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.plan.derive import Plan, derive
from gumboot.core.rulebook.books import book
from gumboot.core.rules import connection as rules
from gumboot.core.study.pick import best_pick, moved
from gumboot.core.workbook import Workbook


@dataclass(frozen=True)
class School:
    """One school: what it would back up, what the plan says of it, and what a person must do in an outage."""

    name: str
    chosen: bool
    circuits: int
    plan: Plan
    findings: tuple[Finding, ...]
    by_hand: str
    needs: tuple[str, ...]

    def shown(self, figure: Figure) -> Figure:
        """A figure of this school's own plan, under a key that tells it from the job's."""
        return figure.renamed(key=f"school|{self.name}|{figure.key}")

    @property
    def fits(self) -> bool:
        """Whether no load rule is broken."""
        return not any(f.level == "stop" for f in self.findings)


def _sides(plan: Plan, backed: set[str]) -> Plan:
    """The plan with other circuits backed up; of the same island where the house has several."""
    loads = [moved(plan, x, "backed" if x.id in backed else "house", x.leg) for x in plan.job.loads]
    other = derive(plan.job.model_copy(update={"loads": loads}), plan.shelf, plan)
    return next(island for island in other.islands if island.house.lead.id == plan.house.lead.id)


def _school(plan: Plan, name: str, other: Plan, by_hand: str, needs: list[str]) -> School:
    found = tuple(f for f in other.findings if f.code.startswith("LOAD-"))
    count = sum(x.side == "backed" for x in other.job.loads)
    return School(name, plan.job.backup.school == name, count, other, found, by_hand, tuple(needs))


def _passing(plan: Plan) -> str:
    """Whether the inverter passes all that the main device of the supply lets in, as a whole house asks."""
    inverter, main = plan.seats.inverter, plan.job.site.service_main_a
    if main is None:
        return "The main device of the supply is not answered: whether the inverter passes it is not known."
    w = Workbook(book(plan.job.rule_book))
    facts = rules.Through(design=w.told(plan.job.site, "site.service_main_a"), most=w.read(inverter, "pass_through_a"))
    if rules.pass_through(facts) is None:
        return f"The inverter passes {inverter.pass_through_a:g} A, the main is {main:g} A."
    return f"The inverter passes {inverter.pass_through_a:g} A; the main is {main:g} A: a gateway or a smaller main."


def compare_schools(plan: Plan) -> tuple[School, ...]:
    """The three schools for the job's loads. Each is a whole derivation, so that every limit speaks."""
    job = plan.job
    everything = {x.id for x in job.loads}
    whole = _sides(plan, everything)
    needs = [_passing(plan)] if plan.house.joins_grid else []
    backed = {x.id for x in job.loads if x.side == "backed"}
    sub = plan if backed else _sides(plan, {load.id for load, _ in best_pick(plan).chosen})
    fit = best_pick(whole)
    manual = _sides(plan, {load.id for load, _ in fit.chosen})
    return (
        _school(plan, "whole house", whole, "nothing: it switches itself", needs),
        _school(plan, "sub-board", sub, "nothing: it switches itself", ["A second board, and its circuits moved over."]),
        _school(
            plan,
            "manual transfer",
            manual,
            "go to the switch, take off what does not fit, throw it, and back again",
            ["A transfer switch or an interlocked inlet.", "Shown: the most circuits that may be on together."],
        ),
    )

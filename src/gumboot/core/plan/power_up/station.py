"""The plan of first power, with the order in which it is switched off."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.ledger import Ledger
from gumboot.core.plan.power_up.board import battery_switches, switch_line
from gumboot.core.plan.power_up.steps import Ready, Step, island_first
from gumboot.core.rules import power_up as rules
from gumboot.core.sim.switch_line import Line


@dataclass(frozen=True)
class PowerUpPlan:
    """The sequence and the board it is played on. Without steps ``unplanned`` says why there are none."""

    school: str
    steps: tuple[Step, ...]
    line: Line
    off_order: tuple[str, ...]
    unplanned: str = ""


def _off_order(ledger: Ledger) -> tuple[str, ...]:
    return (
        "Inverter off",
        *(("Generator off, its breaker open",) if ledger.seats.generator is not None else ()),
        *(("Grid breaker open",) if ledger.job.site.supply != "none" else ()),
        "Backed-up main open",
        *(("PV switch open",) if ledger.job.strings else ()),
        *(("Battery switch open",) if ledger.seats.switch_fuse is not None else ()),
        *(f"{title} off" for _, title in reversed(battery_switches(ledger))),
    )


def plan_power_up(ready: Ready) -> PowerUpPlan:
    """The island-first order with its holds. An order that is not planned has no steps: a wrong order under a trusted title misleads."""
    ledger = ready.ledger
    school, off, line = ledger.seats.inverter.start_order, _off_order(ledger), switch_line(ledger)
    if not ledger.ask(rules.order_is_planned, rules.Order(school=school)):
        said = f"The card asks for '{school}'. That order is not planned here: follow the maker's manual, with a licence holder present."
        return PowerUpPlan(school, (), line, off, said)
    return PowerUpPlan(school, tuple(island_first(ready)), line, off)

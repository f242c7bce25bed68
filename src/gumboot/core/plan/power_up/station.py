"""The plan of first power, with the order in which it is switched off."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.ledger import Ledger
from gumboot.core.plan.power_up.board import battery_switches, panelled, switch_line
from gumboot.core.plan.power_up.parts import Ready, Step
from gumboot.core.plan.power_up.steps import island_first
from gumboot.core.rules import power_up as rules
from gumboot.core.sim.switch_line import Line
from gumboot.core.values import Values


class PowerUpPlan(Values):
    """The sequence and the board it is played on. Without steps ``unplanned`` says why there are none."""

    school: str
    steps: tuple[Step, ...]
    line: Line
    off_order: tuple[str, ...]
    unplanned: str = ""

    @property
    def moves(self) -> tuple[str, ...]:
        """The switches that the steps move, one after another."""
        return tuple(move for step in self.steps if step.move for move in (step.move,) * (2 if step.back else 1))


def closed_by(line: Line, done: Iterable[Step]) -> frozenset[str]:
    """Switches that steps which are done have left closed."""
    closed: set[str] = set()
    for step in done:
        if step.move and not step.back and line.switch(step.move).part != "precharge":
            (closed.discard if step.opens else closed.add)(step.move)
    return frozenset(closed)


def _off_order(ledger: Ledger) -> tuple[str, ...]:
    several, boards = len(ledger.seats.inverters) > 1, len(ledger.house.boards) > 1
    return (
        "Inverters off, the followers first" if several else "Inverter off",
        *(("Generator off, its breaker open",) if ledger.seats.generator is not None else ()),
        *((("Grid breakers open" if several else "Grid breaker open"),) if ledger.job.site.supply != "none" else ()),
        "Backed-up mains open" if boards else "Backed-up main open",
        *(("Panel breakers open",) if any(part.once(panelled) for part in ledger.islands) else ()),
        *((("PV switches open" if several else "PV switch open"),) if ledger.job.strings else ()),
        *((("Battery switches open" if several else "Battery switch open"),) if ledger.seats.switch_fuse is not None else ()),
        *(f"{switch.title} off" for switch in reversed(ledger.once(battery_switches))),
    )


def plan_power_up(ready: Ready) -> PowerUpPlan:
    """The island-first order with its holds. An order that is not planned has no steps: a wrong order under a trusted title misleads."""
    ledger = ready.ledger
    schools = dict.fromkeys(part.seats.inverter.start_order for part in ledger.islands)
    off, line = _off_order(ledger), switch_line(ledger)
    unplanned = [school for school in schools if not ledger.ask(rules.order_is_planned, rules.Order(school=school))]
    school = next(iter(unplanned or schools))
    if unplanned:
        said = f"The card asks for '{school}'. That order is not planned here: follow the maker's manual, with a licence holder present."
        return PowerUpPlan(school=school, steps=(), line=line, off_order=off, unplanned=said)
    return PowerUpPlan(school=school, steps=tuple(island_first(ready, line)), line=line, off_order=off)

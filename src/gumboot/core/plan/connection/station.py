"""Everything that joins this system to the grid, to a generator and to its boards."""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.connection import boards, generator, grid, losses, mains
from gumboot.core.plan.connection.demand import check_demand
from gumboot.core.plan.connection.ports import check_ports
from gumboot.core.rules import connection as rules
from gumboot.core.seats import needed


def _island(ledger: Ledger, plan: CircuitsPlan, running: Mapping[str, Figure], total: Figure) -> None:
    """What joins the sources of one island to its boards."""
    needed(ledger.house.boards[0].card if ledger.house.boards else None, "backed-up board", "things.sub-board.card")
    generator.bonds_stand(ledger)
    boards.behind_devices(ledger, plan)
    boards.ways_suffice(ledger)
    boards.backed_up_boards(ledger)
    boards.combining_panels(ledger)
    generator.check_generators(ledger, total)
    generator.check_transfers(ledger, plan)
    losses.leg_drop(ledger, plan, running)
    losses.total_drop(ledger, plan)
    if ledger.house.joins_grid:
        grid.supply_kind(ledger)


def plan_connection(
    ledger: Ledger, plan: CircuitsPlan, running: Mapping[str, Mapping[str, Figure]], totals: Mapping[str, Figure]
) -> CircuitsPlan:
    """Check what joins this system to the grid, to a generator and to its boards.

    ``running`` by leg and ``totals`` are those of each island, by its leader.
    """
    grid.devices(ledger, plan)
    check_ports(ledger, plan)
    ledger.ask(rules.interlocked, rules.Bypass(kind=ledger.job.backup.bypass))
    for part in ledger.islands:
        leader = part.house.lead.id
        _island(part, plan, running[leader], totals[leader])
    boards.main_behind_its_device(ledger)
    boards.main_as_surveyed(ledger)
    boards.each_is_fed_once(ledger)
    mains.bonds_behind(ledger)
    if ledger.job.site.supply == "none":
        return plan
    grid.far_faults(ledger, plan)
    check_demand(ledger)
    if not ledger.house.giving:
        # They take from the grid and give nothing back: loads like any other. PV inverters beside them may give.
        grid.export(ledger)
        return plan
    total, limit = boards.main_board(ledger)
    mains.other_mains(ledger)
    grid.network_limits(ledger)
    grid.export(ledger)
    losses.rise(ledger, plan)
    return plan.but(busbar_sum=total, busbar_limit=limit)

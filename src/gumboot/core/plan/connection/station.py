"""Everything that joins this system to the grid, to a generator and to its boards."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.connection import boards, generator, grid, losses


def plan_connection(ledger: Ledger, plan: CircuitsPlan, running: Mapping[str, Figure], total_running: Figure) -> CircuitsPlan:
    """Check what joins this system to the grid, to a generator and to its boards."""
    grid.devices(ledger, plan)
    generator.sources_apart(ledger)
    boards.behind_devices(ledger, plan)
    boards.backed_up_board(ledger)
    boards.combining_panels(ledger)
    generator.check_generators(ledger, total_running)
    generator.check_transfer(ledger, plan)
    losses.leg_drop(ledger, plan, running)
    losses.total_drop(ledger, plan)
    if ledger.job.site.supply == "none":
        return plan
    grid.supply_kind(ledger)
    grid.interrupting(ledger, plan)
    if ledger.seats.inverter.role == "off-grid":
        # It takes from the grid and gives nothing back: a load like any other.
        return plan
    total, limit = boards.main_board(ledger)
    grid.network_limits(ledger)
    grid.export(ledger)
    losses.rise(ledger, plan)
    return replace(plan, busbar_sum=total, busbar_limit=limit)

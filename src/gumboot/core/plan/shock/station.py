"""Protection against shock under the job's rule book."""

from __future__ import annotations

from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.shock.earths import check_bonding, check_electrode, check_island_earth
from gumboot.core.plan.shock.loops import check_island, check_loops
from gumboot.core.plan.shock.residual import check_residuals


def plan_shock(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Check protection against shock under the job's rule book."""
    check_island_earth(ledger)
    check_electrode(ledger)
    check_bonding(ledger)
    check_residuals(ledger, plan)
    if ledger.book.shock.judges_loops:
        if ledger.job.site.supply != "none":
            check_loops(ledger, plan)
        check_island(ledger, plan)

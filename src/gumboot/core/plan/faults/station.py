"""Every place with the fault current at each of its sides."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.faults.ac import ac_faults
from gumboot.core.plan.faults.breaking import check_breaking
from gumboot.core.plan.faults.dc import dc_faults
from gumboot.core.plan.faults.parts import FaultsPlan
from gumboot.core.plan.strings import StringsPlan


def plan_faults(ledger: Ledger, strings: StringsPlan | None, banks: Sequence[BankPlan], plan: CircuitsPlan) -> FaultsPlan:
    """Work out the fault current at every place of the house, and judge what must break it."""
    places = {place: n for n, place in enumerate(ledger.house.cards)}
    faults = [*dc_faults(ledger, strings, banks, plan), *ac_faults(ledger, plan)]
    found = FaultsPlan(at=tuple(sorted(faults, key=lambda fault: places[fault.place])))
    check_breaking(ledger, found)
    return found

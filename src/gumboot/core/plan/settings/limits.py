"""Charge, discharge and grid-charge limits: what every link allows, and what is wished."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.expression import least
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan
from gumboot.core.rules import Asked
from gumboot.core.rules import settings as rules


def _limit(ledger: Ledger, key: str, name: str, rule: Asked[rules.Wanted], parts: Sequence[Figure]) -> Figure:
    """The least of the links, or what is wished where that is less."""
    title = f"Most that every link allows, {name.lower()}"
    most = ledger.work(f"settings.{key}_most", "I_most", title, least(*parts), "A", "arith")
    path = f"settings.{key}"
    if getattr(ledger.job.settings, key) is None:
        return ledger.work(f"settings.{key}", "I_set", name, most, "A", "arith")
    asked = ledger.decided(path)
    ledger.ask(rule, rules.Wanted(what=name.lower(), asked=asked, most=most, field=path))
    return ledger.work(f"settings.{key}", "I_set", name, least(asked, most), "A", "arith")


def _part(ledger: Ledger, what: str, whole: Figure) -> Figure:
    """One inverter's part of what the bank allows: all of it where there is one."""
    number = len(ledger.seats.inverters)
    if number == 1:
        return whole
    name = f"Part of the bank's {what} limit for each of {number} inverters"
    return ledger.work(f"settings.bank_{what}_part", "I_part", name, whole / number, "A", "arith")


def charge_limits(ledger: Ledger, bank: BankPlan, main_ampacity: Figure | None) -> tuple[Figure, Figure, Figure]:
    """Charge limit, discharge limit and charge current from the grid."""
    inverter, one = ledger.seats.inverter, ledger.read(ledger.seats.battery, "charge_a")
    name = "Bank's charge limit"
    together = ledger.work("settings.bank_charge", "I_bank", name, bank.supply.parallel * one, "A", "arith")
    cable = [f for f in (bank.device_continuous, main_ampacity) if f is not None]
    charged = (_part(ledger, "charge", together), ledger.read(inverter, "battery.charge_a"), *cable)
    drawn = (_part(ledger, "discharge", bank.supply.bms_a), ledger.read(inverter, "battery.discharge_a"), *cable)
    each = ", each inverter" if len(ledger.seats.inverters) > 1 else ""
    charge = _limit(ledger, "charge_a", f"Charge limit{each}", rules.charge_within, charged)
    discharge = _limit(ledger, "discharge_a", f"Discharge limit{each}", rules.discharge_within, drawn)
    from_grid = ledger.decided("settings.grid_charge_a")
    ledger.ask(rules.grid_charge_within, rules.GridCharge(amps=from_grid, limit=charge))
    return charge, discharge, from_grid

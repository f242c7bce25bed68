"""Charge, discharge and grid-charge limits: what every link allows, and what is wished."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.expression import least
from gumboot.core.figure import Figure
from gumboot.core.plan.bank import BankPlan, OneBank
from gumboot.core.rules import Asked
from gumboot.core.rules import settings as rules


def _limit(bank: OneBank, key: str, name: str, rule: Asked[rules.Wanted], parts: Sequence[Figure]) -> Figure:
    """The least of the links, or what is wished where that is less."""
    title, ledger = f"Most that every link allows, {name.lower()}", bank.ledger
    most = bank.work(f"settings.{key}_most", "I_most", title, least(*parts), "A", source="arith")
    path = f"settings.{key}"
    if getattr(ledger.job.settings, key) is None:
        return bank.work(f"settings.{key}", "I_set", name, most, "A", source="arith")
    asked = ledger.decided(path)
    ledger.ask(rule, rules.Wanted(what=name.lower(), asked=asked, most=most, field=path))
    return bank.work(f"settings.{key}", "I_set", name, least(asked, most), "A", source="arith")


def _part(bank: OneBank, what: str, whole: Figure) -> Figure:
    """One inverter's part of what the bank allows: all of it where there is one."""
    number = len(bank.inverters)
    if number == 1:
        return whole
    name = f"Part of the bank's {what} limit for each of {number} inverters"
    return bank.work(f"settings.bank_{what}_part", "I_part", name, whole / number, "A", source="arith")


def charge_limits(bank: OneBank, plan: BankPlan) -> tuple[Figure, Figure]:
    """Charge limit and discharge limit of each inverter of a bank."""
    ledger, one = bank.ledger, bank.ledger.read(bank.card, "charge_a")
    together = bank.work("settings.bank_charge", "I_bank", "Bank's charge limit", plan.supply.parallel * one, "A", source="arith")
    cable = [f for f in (plan.device_continuous, plan.main_ampacity) if f is not None]
    charged = (_part(bank, "charge", together), ledger.read(bank.inverter, "battery.charge_a"), *cable)
    drawn = (_part(bank, "discharge", plan.supply.bms_a), ledger.read(bank.inverter, "battery.discharge_a"), *cable)
    each = ", each inverter" if len(bank.inverters) > 1 else ""
    charge = _limit(bank, "charge_a", f"Charge limit{each}", rules.charge_within, charged)
    discharge = _limit(bank, "discharge_a", f"Discharge limit{each}", rules.discharge_within, drawn)
    from_grid = ledger.decided("settings.grid_charge_a")
    ledger.ask(rules.grid_charge_within, rules.GridCharge(amps=from_grid, limit=charge))
    return charge, discharge

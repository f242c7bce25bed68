"""Does the generator carry what is asked of it, through its input, with one bond; and does the transfer equipment carry what passes?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_volts
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.rules import bonds as bonding
from gumboot.core.rules import connection as rules


def bonds_of(ledger: Ledger) -> bonding.Bonds:
    """Where the neutral of this installation is bonded, as cards and survey say."""
    inverter, transfer, generator = ledger.seats.inverter, ledger.seats.transfer, ledger.seats.generator
    return bonding.Bonds(
        inverter=inverter.title,
        boards=ledger.job.site.neutral_bond,
        by_inverter=inverter.neutral_bond,
        off_grid=ledger.job.site.supply == "none",
        opens_neutral=transfer.neutral_switched if transfer is not None else inverter.island_opens_neutral,
        generator_bonded=generator is not None and generator.neutral_bonded,
    )


def sources_apart(ledger: Ledger) -> None:
    """No bypass joins two sources, and each mode has one bond."""
    ledger.ask(rules.interlocked, rules.Bypass(kind=ledger.job.backup.bypass))
    bonds = bonds_of(ledger)
    ledger.ask(bonding.bond_with_grid, bonds)
    ledger.ask(bonding.bond_in_island, bonds)


def check_generator(ledger: Ledger, running: Figure) -> None:
    """Power, bond and input of the generator."""
    card, inverter = ledger.seats.generator, ledger.seats.inverter
    if card is None:
        return
    charger = ledger.decided("settings.grid_charge_a") * bank_volts(ledger, "v_max") / ledger.read(inverter, "battery.efficiency")
    need = ledger.work(
        "circuits.generator_need",
        "P_need",
        "Backed-up loads and charger together",
        running + charger,
        "W",
        "cp.generator",
        limits="At the site's altitude and heat a generator gives less: use its derated power.",
    )
    ledger.ask(rules.generator_power, rules.Against(found=need, most=ledger.read(card, "power_w")))
    ledger.ask(bonding.bond_with_generator, bonds_of(ledger))
    bears = ledger.read(inverter, "generator_input_a")
    ledger.ask(rules.generator_input, rules.Against(found=ledger.read(card, "device_a"), most=bears))


def check_transfer(ledger: Ledger, plan: CircuitsPlan) -> None:
    """The transfer equipment against what passes through it."""
    card = ledger.seats.transfer
    if card is None:
        return
    passing = [plan.sized[c].demand.design_a for c in ("grid", "through", "backup") if c in plan.sized]
    if passing:
        most = max(passing, key=lambda f: f.value)
        ledger.ask(rules.transfer_capacity, rules.Against(found=most, most=ledger.read(card, "rated_a")))

"""Does each generator carry what is asked of it, through its input, with one bond; and does the transfer equipment carry what passes?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_of
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.rules import bonds as bonding
from gumboot.core.rules import connection as rules
from gumboot.core.seats import GeneratorSeat


def bonds_of(ledger: Ledger, generator: GeneratorSeat | None = None) -> bonding.Bonds:
    """Where the neutral of this installation is bonded, as cards and survey say."""
    inverter, transfer = ledger.seats.inverter, ledger.seats.transfer
    return bonding.Bonds(
        inverter=inverter.title,
        boards=ledger.job.site.neutral_bond,
        by_inverter=inverter.neutral_bond,
        off_grid=ledger.job.site.supply == "none",
        opens_neutral=transfer.neutral_switched if transfer is not None else inverter.island_opens_neutral,
        generator_bonded=generator is not None and generator.card.neutral_bonded,
    )


def sources_apart(ledger: Ledger) -> None:
    """No bypass joins two sources, and each mode has one bond."""
    ledger.ask(rules.interlocked, rules.Bypass(kind=ledger.job.backup.bypass))
    bonds = bonds_of(ledger)
    ledger.ask(bonding.bond_with_grid, bonds)
    ledger.ask(bonding.bond_in_island, bonds)


def check_generators(ledger: Ledger, running: Figure) -> None:
    """Power, bond and input of each generator, which carries everything alone; and that one at a time is let in."""
    generators = ledger.seats.generators
    for nth, generator in enumerate(generators):
        _check(ledger, running, generator, f".{generator.id}" if nth else "")
    ledger.ask(bonding.one_generator, bonding.Generators(names=[g.id for g in generators]))


def _check(ledger: Ledger, running: Figure, generator: GeneratorSeat, mark: str) -> None:
    card, fed, at = generator.card, ledger.house.inverter(generator.thing.feeds), f"things.{generator.id}"
    volts = bank_of(ledger, fed).volts("v_max")
    charger = ledger.decided("settings.grid_charge_a") * volts / ledger.read(fed.card, "battery.efficiency")
    need = ledger.work(
        f"circuits.generator_need{mark}",
        "P_need",
        "Backed-up loads and charger together" + (f", {generator.id}" if mark else ""),
        running + charger,
        "W",
        "cp.generator",
        limits="At the site's altitude and heat a generator gives less: use its derated power.",
    )
    ledger.ask(rules.generator_power, rules.Against(found=need, most=ledger.read(card, "power_w")), at)
    ledger.ask(bonding.bond_with_generator, bonds_of(ledger, generator))
    bears = ledger.stated(fed.card, "generator_input_a")
    if bears is not None:
        ledger.ask(rules.generator_input, rules.Against(found=ledger.read(card, "device_a"), most=bears), at)


def check_transfer(ledger: Ledger, plan: CircuitsPlan) -> None:
    """The transfer equipment against what passes through it."""
    card = ledger.seats.transfer
    if card is None:
        return
    passing = [plan.sized[c].demand.design_a for c in ("grid", "through", "backup") if c in plan.sized]
    if passing:
        most = max(passing, key=lambda f: f.value)
        at = f"things.{ledger.seats.transfers[0].id}"
        ledger.ask(rules.transfer_capacity, rules.Against(found=most, most=ledger.read(card, "rated_a")), at)

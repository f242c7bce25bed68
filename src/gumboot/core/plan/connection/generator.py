"""Does each generator carry what is asked of it, through its input, with one bond; and does the transfer equipment carry what passes?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.card.parts import Port
from gumboot.core.expression import Expression, largest, least
from gumboot.core.figure import BY_VALUE, Figure, constant
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import bank_of
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.connection.boards import transfer_place
from gumboot.core.rules import bonds as bonding
from gumboot.core.rules import connection as rules
from gumboot.core.seats import GeneratorSeat, InverterSeat

THIN_AIR = constant("k_h", "Power lost for each metre above the sea", 0.00012, "1/m", "cp.genderate")
HOT_AIR = constant("k_T", "Power lost for each kelvin above 25 °C", 0.002, "1/K", "cp.genderate")
COOL = constant("T_ref", "Air at which a generator is rated", 25, "°C", "cp.genderate")
Boards = Literal["main board", "both boards", "none"]
# What the survey says of the boards' bonds, for an island that the network does not reach.
ALONE: dict[Boards, Boards] = {"main board": "none", "both boards": "main board", "none": "none"}


def bonds_of(ledger: Ledger, generator: GeneratorSeat | None = None) -> bonding.Bonds:
    """Where the neutral of this installation is bonded, as cards and survey say."""
    inverter, boards = ledger.seats.inverter, ledger.job.site.neutral_bond
    # Switches of which some open the neutral and some do not: nobody can count the bonds.
    switches = ledger.seats.transfers
    opening: set[bool | None] = {t.card.neutral_switched for t in switches} if switches else {inverter.island_opens_neutral}
    if ledger.house.is_apart and ledger.job.site.supply != "none" and not ledger.house.joins_grid:
        # The bond in the main board is not this island's: no neutral leads there.
        boards = ALONE[boards]
    return bonding.Bonds(
        inverter=inverter.title,
        boards=boards,
        by_inverter=inverter.neutral_bond,
        off_grid=not ledger.house.joins_grid,
        opens_neutral=next(iter(opening)) if len(opening) == 1 else None,
        generator_bonded=generator is not None and generator.card.neutral_bonded,
    )


def bonds_stand(ledger: Ledger) -> None:
    """Each mode has one bond."""
    bonds = bonds_of(ledger)
    ledger.ask(bonding.bond_with_grid, bonds)
    ledger.ask(bonding.bond_in_island, bonds)


def generator_mark(house: House, generator: GeneratorSeat, nth: int) -> str:
    """What keys of the nth generator's figures end in: nothing for the first of the first island."""
    return f".{generator.id}" if nth or house.mark else ""


def check_generators(ledger: Ledger, running: Figure) -> None:
    """Power, bond and input of each generator, which carries everything alone; and that one at a time is let in."""
    generators = ledger.seats.generators
    for nth, generator in enumerate(generators):
        _check(ledger, running, generator, generator_mark(ledger.house, generator, nth))
    ledger.ask(bonding.one_generator, bonding.Generators(names=[g.id for g in generators]))


def _here(ledger: Ledger, generator: GeneratorSeat, mark: str) -> Figure:
    """What a generator gives in the air of its site: thin and hot air carries less oxygen."""
    site, power = ledger.job.site, ledger.read(generator.card, "power_w")
    thin = 1 - least(THIN_AIR * largest(0.0, ledger.decided("site.altitude_m")), 1.0)
    heat: Expression | float = 1.0
    holds = "Without a turbocharger; the maker's derating wins."
    if site.summer_high_c is not None:
        heat = 1 - HOT_AIR * largest(0.0, ledger.decided("site.summer_high_c") - COOL)
    else:
        holds += " The summer's air is not answered: heat is not counted."
    name = ledger.titled("Generator's power at this altitude and in summer") + (f", {generator.id}" if mark else "")
    return ledger.work(f"circuits.generator_here{mark}", "P_here", name, power * thin * heat, "W", source="cp.genderate", limits=holds)


def _lines(ports: Sequence[Port], port: str) -> list[str]:
    """The lines of a port."""
    return [t.role for p in ports if p.id == port for t in p.terminals if t.role.startswith("line")]


def _check_kind(ledger: Ledger, generator: GeneratorSeat, fed: InverterSeat, at: str) -> None:
    """Voltage and lines of a generator against the input that it feeds."""
    ours, theirs = _lines(fed.card.ports, "GEN"), _lines(generator.card.ports, "OUT")
    facts = rules.Generated(
        title=generator.card.title,
        where=generator.id,
        inverter=fed.card.title,
        volts=ledger.read(generator.card, "voltage_v"),
        wanted=ledger.read(fed.card, "output_v"),
        lines=len(theirs),
        wants=len(ours),
    )
    for rule in (rules.generator_voltage, rules.generator_lines):
        ledger.ask(rule, facts, at)
    gives, wanted = ledger.stated(generator.card, "frequency_hz"), mains_hz(ledger)
    ledger.ask(rules.generator_frequency, rules.Hertz(title=generator.card.title, where=generator.id, gives=gives, wanted=wanted), at)


def mains_hz(ledger: Ledger) -> Figure:
    """Frequency of the house in Hz: as decided, else the usual one of the rule book (IEC 60038; ANSI C84.1)."""
    told = ledger.job.site.mains
    if told is not None:
        return ledger.given("site.mains", "f", "Frequency of the network", float(told.removesuffix(" Hz")), "Hz")
    return ledger.keep(constant("f", "Frequency of the network, the rule book's usual", ledger.book.mains_hz, "Hz", "mains.hz"))


def _check(ledger: Ledger, running: Figure, generator: GeneratorSeat, mark: str) -> None:
    card, fed, at = generator.card, ledger.house.inverter(generator.thing.feeds), f"things.{generator.id}"
    volts = bank_of(ledger, fed).volts("v_max")
    charger = ledger.decided("settings.grid_charge_a") * volts / ledger.read(fed.card, "battery.efficiency")
    need = ledger.work(
        f"circuits.generator_need{mark}",
        "P_need",
        ledger.titled("Backed-up loads and charger together") + (f", {generator.id}" if mark else ""),
        running + charger,
        "W",
        source="cp.generator",
    )
    ledger.ask(rules.generator_power, rules.Against(found=need, most=_here(ledger, generator, mark)), at)
    _check_kind(ledger, generator, fed, at)
    ledger.ask(bonding.bond_with_generator, bonds_of(ledger, generator))
    bears = ledger.stated(fed.card, "generator_input_a")
    if bears is not None:
        ledger.ask(rules.generator_input, rules.Against(found=ledger.read(card, "device_a"), most=bears), at)


def check_transfers(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Each transfer switch or gateway against what passes through it."""
    for transfer in ledger.seats.transfers:
        passing = [plan.sized[c.id].demand.design_a for c in ledger.house.at(transfer.id) if c.id in plan.sized]
        if passing:
            most, where = max(passing, key=BY_VALUE), transfer_place(ledger, transfer)
            facts = rules.Against(found=most, most=ledger.read(transfer.card, "rated_a"), where=where)
            ledger.ask(rules.transfer_capacity, facts, f"things.{transfer.id}")

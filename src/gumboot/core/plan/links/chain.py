"""Which address and which terminator has each battery along the bus, and which pins does its lead join?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.parts import DataPort
from gumboot.core.job.model import BatteryUnit
from gumboot.core.plan.bank import OneBank
from gumboot.core.plan.links.switches import DipBlock, dip_block
from gumboot.core.rulebook.common.signals import PAIRS, is_pair, meaning
from gumboot.core.rules import links as rules
from gumboot.core.values import Values

# Core colours by pin of an eight-way plug (ANSI/TIA-568): T568A and T568B differ in which pair is orange and which green.
T568B = {1: "white/orange", 2: "orange", 3: "white/green", 4: "blue", 5: "white/blue", 6: "green", 7: "white/brown", 8: "brown"}
T568A = {**T568B, 1: T568B[3], 2: T568B[6], 3: T568B[1], 6: T568B[2]}
BLUE = (4, 5)
SCHEMES = {"T568A": T568A, "T568B": T568B}


class LeadCore(Values):
    """One core of the battery lead."""

    signal: str
    inverter_pin: int
    battery_pin: int
    colour: str


class ChainUnit(Values):
    """One battery on the bus: the address wanted and set, as switch positions from switch 1."""

    unit: BatteryUnit
    wanted_address: int
    wanted_dip: tuple[bool, ...]
    set_dip: tuple[bool, ...]
    wants_terminator: bool


def pins_of(port: DataPort, bus: str) -> tuple[int, ...]:
    """The pins of the signal pair of a bus at a socket; fewer than two where it lacks one."""
    return tuple(p.pin for signal in PAIRS.get(bus, ()) for p in port.pins if meaning(p.signal) == signal)


def _colours(pins: Sequence[int], pair: tuple[int, ...], scheme: str) -> dict[int, str]:
    """Colours by the first plug's pins; where its signal pair sits on two pairs of the lead, that pair is taken from the blue one."""
    by_pin = SCHEMES[scheme]
    if any(pin not in by_pin for pin in pins):
        # Terminals with numbers of their own: the pair is the blue one, the rest follow.
        others = iter([by_pin[pin] for pin in (2, 1, 6, 3, 8, 7)])
        made = {pin: by_pin[blue] for pin, blue in zip(pair, BLUE, strict=False)}
        return made | {pin: next(others, f"core {pin}") for pin in pins if pin not in made}
    if len(pair) != len(BLUE) or is_pair(pair):
        return by_pin
    made = {pin: by_pin[blue] for pin, blue in zip(pair, BLUE, strict=True)}
    rest = [by_pin[pin] for pin in (2, 1, 6, 3, 8, 7)]
    return made | {pin: rest[n] for n, pin in enumerate(p for p in pins if p not in made)}


def lead_cores(inverter_port: DataPort, battery_port: DataPort, bus: str = "", scheme: str = "T568B") -> tuple[LeadCore, ...]:
    """Pair the pins of like signal; colours follow the inverter's plug, and both cores of a signal pair are one twisted pair."""
    theirs = {meaning(p.signal): p.pin for p in battery_port.pins}
    shared = [p for p in inverter_port.pins if meaning(p.signal) in theirs]
    colours = _colours([p.pin for p in shared], pins_of(inverter_port, bus), scheme)
    return tuple(
        LeadCore(signal=p.signal, inverter_pin=p.pin, battery_pin=theirs[meaning(p.signal)], colour=colours[p.pin]) for p in shared
    )


def chain_of(bank: OneBank) -> tuple[ChainUnit, ...]:
    """The batteries along the bus, with the addresses and terminators that their places want."""
    battery, units = bank.card, bank.units
    if battery.arrangement == "stack":
        # Modules of a stack find their own addresses through its plugs: one battery on the bus, and one for each further stack.
        last = len(bank.heads) - 1
        return tuple(
            ChainUnit(unit=head, wanted_address=nth + 1, wanted_dip=(), set_dip=(), wants_terminator=nth == last)
            for nth, head in enumerate(bank.heads)
        )
    block, found = dip_block(battery), []
    last = len(units) - 1
    for i, u in enumerate(units):
        wanted = block.shown(i + 1, i == last)
        # An address that cannot be shown is a stop: the picture then shows what to set.
        found.append(
            ChainUnit(
                unit=u,
                wanted_address=i + 1,
                wanted_dip=wanted,
                set_dip=block.shown(u.dip_address, u.terminator) or wanted,
                wants_terminator=i == last,
            )
        )
    return tuple(found)


def _address(chain: tuple[ChainUnit, ...], i: int, block: DipBlock) -> rules.Address:
    c = chain[i]
    return rules.Address(
        unit=c.unit.id,
        address=c.unit.dip_address,
        wanted=c.wanted_address,
        switches=block.addressing if block.switches else 0,
        lowest=block.offset,
        most=block.most,
        taken=any(other.unit.dip_address == c.unit.dip_address for other in chain[:i]),
        placed=bool(c.wanted_dip),
        as_programming=bool(block.programming) and block.shown(c.unit.dip_address, c.unit.terminator) == block.programming,
    )


def check_chain(bank: OneBank, chain: tuple[ChainUnit, ...]) -> None:
    """Addresses and terminators along the bus."""
    block = dip_block(bank.card)
    whole = rules.Address(
        unit="chain", address=0, wanted=len(chain), switches=block.addressing if block.switches else 0, lowest=block.offset, most=block.most
    )
    bank.ask(rules.address_in_range, whole)
    for i, c in enumerate(chain):
        facts = _address(chain, i, block)
        for rule in rules.ADDRESSED:
            bank.ask(rule, facts)
        bank.ask(rules.ends_terminated, rules.Terminated(unit=c.unit.id, fitted=c.unit.terminator, wanted=c.wants_terminator))

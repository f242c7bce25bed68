"""Do inverter and batteries speak to each other: protocol, addresses, terminators, lead?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card import BatteryCard
from gumboot.core.card.parts import DataPort, Protocol, older
from gumboot.core.figure import Figure, constant
from gumboot.core.job.model import BatteryUnit
from gumboot.core.ledger import Ledger

# Core colours by pin of an eight-way plug wired T568B (ANSI/TIA-568).
T568B = {1: "white/orange", 2: "orange", 3: "white/green", 4: "blue", 5: "white/blue", 6: "green", 7: "white/brown", 8: "brown"}
TERMINATOR = constant("R_t", "One terminator", 120, "ohm", "cp.terminator")


@dataclass(frozen=True)
class LeadCore:
    """One core of the battery lead."""

    signal: str
    inverter_pin: int
    battery_pin: int
    colour: str


@dataclass(frozen=True)
class ChainUnit:
    """One battery on the bus: the address wanted and set, as switch positions from switch 1."""

    unit: BatteryUnit
    wanted_address: int
    wanted_dip: tuple[bool, ...]
    set_dip: tuple[bool, ...]
    wants_terminator: bool


@dataclass(frozen=True)
class LinksPlan:
    """The battery bus."""

    protocol: Protocol | None
    battery_protocol: Protocol | None
    lead: tuple[LeadCore, ...]
    chain: tuple[ChainUnit, ...]
    pair_ohm: Figure | None
    inverter_port: DataPort | None
    battery_port: DataPort | None
    none_because: str = ""


def dip_positions(address: int, switches: int) -> tuple[bool, ...]:
    """Positions of the DIP switches for an address, switch 1 first (least significant). Raises ValueError when it does not fit."""
    if not 0 <= address < 2**switches:
        raise ValueError(f"address {address} does not fit {switches} switches")
    return tuple(bool(address >> bit & 1) for bit in range(switches))


@dataclass(frozen=True, slots=True)
class DipBlock:
    """A block of DIP switches as its card reads it: which one is the terminator, which comes first, what ON means."""

    switches: int
    terminator_switch: int = 0
    most_first: bool = False
    on_is: int = 1
    offset: int = 0

    @property
    def addressing(self) -> int:
        """Switches that carry the address."""
        return self.switches - bool(self.terminator_switch)

    @property
    def most(self) -> int:
        """Highest address that the switches can show."""
        return int(2**self.addressing - 1 + self.offset)

    def show(self, address: int, terminated: bool) -> tuple[bool, ...]:
        """Places of the switches from the first, True in the ON place. Raises ValueError for an address that they cannot show."""
        bits = dip_positions(address - self.offset, self.addressing)
        places = [bit == bool(self.on_is) for bit in (reversed(bits) if self.most_first else bits)]
        if self.terminator_switch:
            places.insert(self.terminator_switch - 1, terminated)
        return tuple(places)


def dip_block(card: BatteryCard) -> DipBlock:
    """The block of a battery's card."""
    return DipBlock(card.dip_switches, card.terminator_switch, card.dip_first == "most significant", card.dip_on, card.dip_offset)


def _shown(block: DipBlock, address: int, terminated: bool) -> tuple[bool, ...]:
    """Places of the switches; nothing where they cannot show the address or there are none."""
    try:
        return block.show(address, terminated) if block.switches else ()
    except ValueError:
        return ()


def lead_cores(inverter_port: DataPort, battery_port: DataPort) -> tuple[LeadCore, ...]:
    """Pair the pins of like signal; colours follow the inverter's plug."""
    theirs = {p.signal: p.pin for p in battery_port.pins}
    return tuple(LeadCore(p.signal, p.pin, theirs[p.signal], T568B[p.pin]) for p in inverter_port.pins if p.signal in theirs)


def _check_chain(ledger: Ledger, chain: tuple[ChainUnit, ...]) -> None:
    block = dip_block(ledger.card("battery"))
    ledger.verdict(
        "LINK-ADDRESS-RANGE",
        not block.switches or len(chain) <= block.most,
        "chain",
        f"{len(chain)} batteries need an address each from 1; the {block.addressing} address switches show up to {block.most}.",
        "Take batteries off this bus.",
    )
    addresses = [c.unit.dip_address for c in chain]
    for c in chain:
        uid, field = c.unit.id, f"bank.units.{c.unit.id}"
        ledger.verdict(
            "LINK-ADDRESS-RANGE",
            not block.switches or bool(_shown(block, c.unit.dip_address, c.unit.terminator)),
            uid,
            f"{uid} is to have address {c.unit.dip_address}; its {block.addressing} address switches show {block.offset} to {block.most}.",
            f"Set its switches to {c.wanted_address} and power-cycle it.",
            field=f"{field}.dip_address",
        )
        duplicate = bool(c.wanted_dip) and addresses.count(c.unit.dip_address) > 1 and addresses.index(c.unit.dip_address) != chain.index(c)
        ledger.verdict(
            "LINK-ADDRESS-DUP",
            not duplicate,
            uid,
            f"{uid} is set to address {c.unit.dip_address}, which another battery already has.",
            f"Set its switches to {c.wanted_address} and power-cycle it.",
            field=f"{field}.dip_address",
        )
        ledger.verdict(
            "LINK-ADDRESS-ORDER",
            duplicate or not c.wanted_dip or c.unit.dip_address == c.wanted_address,
            uid,
            f"{uid} is set to address {c.unit.dip_address}; in this place of the chain it is {c.wanted_address}.",
            f"Set its switches to {c.wanted_address} and power-cycle it.",
            field=f"{field}.dip_address",
        )
        text = (
            "the last battery has no terminator: the bus echoes."
            if c.wants_terminator
            else "it sits in the middle of the bus and carries a terminator."
        )
        ledger.verdict(
            "LINK-TERMINATOR",
            c.unit.terminator == c.wants_terminator,
            uid,
            f"{uid}: {text}",
            "Terminate the two ends only: the inverter inside, and the last battery.",
            field=f"{field}.terminator",
        )


def _no_bus(ledger: Ledger) -> str:
    """Why this system has no battery bus to wire; empty when it has one."""
    inverter, battery = ledger.card("inverter"), ledger.card("battery")
    if battery.arrangement == "docked" or inverter.bank_internal:
        return "The batteries dock inside this unit: their data link is made by the plug, and nothing is wired."
    if not battery.data_ports:
        return "This battery has no data link: the inverter works by the voltages that are set (open loop)."
    return ""


def plan_links(ledger: Ledger) -> LinksPlan:
    """Work out the Links station."""
    inverter, battery, job = ledger.card("inverter"), ledger.card("battery"), ledger.job
    if why := _no_bus(ledger):
        return LinksPlan(None, None, (), (), None, None, None, why)
    chosen = next((p for p in inverter.protocols if p.number == job.links.inverter_protocol), None)
    theirs = {p.number: p for p in battery.protocols}
    common = next((p for p in battery.protocols if chosen and p.name == chosen.name), None)
    ledger.verdict(
        "LINK-PROTOCOL",
        chosen is not None and common is not None,
        "inverter",
        "The inverter's chosen protocol is not one that the battery speaks.",
        f"Choose one of: {', '.join(f'{p.number} {p.name}' for p in inverter.protocols if any(p.name == b.name for b in battery.protocols)) or 'none in common'}.",
        field="links.inverter_protocol",
    )
    for title, version, asked in (
        (inverter.title, inverter.firmware, chosen),
        (battery.title, battery.firmware, common),
    ):
        ledger.verdict(
            "LINK-FIRMWARE",
            asked is None or not older(version, asked.firmware_min),
            title,
            f"{title} comes with firmware {version or 'unknown'}; {asked.name if asked else ''} needs {asked.firmware_min if asked else ''}.",
            "Bring it to that version before the link is tried, and note it.",
            field="links.inverter_protocol",
        )
    for unit in job.bank.units:
        spoken = theirs.get(unit.protocol)
        ok = (
            chosen is not None
            and spoken is not None
            and (spoken.name, spoken.bus, spoken.kbit_s) == (chosen.name, chosen.bus, chosen.kbit_s)
        )
        ledger.verdict(
            "LINK-PROTOCOL",
            ok or common is None,
            unit.id,
            f"{unit.id} is set to {spoken.name if spoken else 'an unknown protocol'}; the inverter speaks {chosen.name if chosen else 'nothing'}.",
            f"Set protocol {common.number if common else '?'} in the battery, then power-cycle it.",
            field=f"bank.units.{unit.id}.protocol",
        )
        if battery.arrangement == "stack":
            break
    last = len(job.bank.units) - 1
    block, units = dip_block(battery), []
    for i, u in enumerate(job.bank.units):
        wanted = _shown(block, i + 1, i == last)
        # An address that cannot be shown is a stop: the picture then shows what to set.
        units.append(ChainUnit(u, i + 1, wanted, _shown(block, u.dip_address, u.terminator) or wanted, i == last))
    chain = tuple(units)
    if battery.arrangement == "stack":
        # Modules of a stack find their own addresses through its plugs: one battery on the bus.
        chain = (ChainUnit(job.bank.units[0], 1, (), (), True),)
    _check_chain(ledger, chain)
    bus = chosen.bus if chosen else "CAN"
    inv_port = next((p for p in inverter.data_ports if p.bus == bus), None)
    bat_port = next((p for p in battery.data_ports if p.bus == bus), None)
    if inv_port is None or bat_port is None:
        ledger.verdict(
            "LINK-PROTOCOL",
            False,
            "sockets",
            f"{inverter.title} and {battery.title} have no {bus} socket in common: the battery cannot be heard.",
            "Choose a battery that this inverter has a socket for.",
            field="equipment.battery",
        )
        return LinksPlan(
            chosen, common, (), chain, None, None, None, f"{inverter.title} and {battery.title} have no {bus} socket in common."
        )
    lead = lead_cores(inv_port, bat_port)
    made = {(p.inverter_pin, p.battery_pin) for p in job.links.lead_as_made}
    want = {(c.inverter_pin, c.battery_pin) for c in lead}
    ledger.verdict(
        "LINK-LEAD",
        not made or made == want,
        "battery lead",
        "The lead as made joins other pins than the two sockets need.",
        "Re-make it by the pin-out shown.",
        field="links.lead_as_made",
    )
    ends = ledger.work(
        "links.terminators",
        "n_t",
        "Terminators on the bus",
        float(1 + sum(c.unit.terminator for c in chain)),
        "",
        "arith",
        limits="One is built into the inverter.",
    )
    pair = ledger.work(
        "links.pair_ohm",
        "R",
        f"Across the dead {bus} pair",
        TERMINATOR.value / ends.value,
        "ohm",
        "physics",
        "R_t / n_t",
        (TERMINATOR, ends),
        limits="60 ohm: both ends. 120: one is missing. 40: one too many.",
    )
    return LinksPlan(chosen, common, lead, chain, pair, inv_port, bat_port)

"""Do inverter and batteries hear each other: protocol, firmware, addresses, terminators, lead?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.card.parts import Protocol, older
from gumboot.core.rules.facts import Facts
from gumboot.core.rules.lines import Loaded, Shaped, Stub, loaded, one_line, short
from gumboot.core.rules.register import Breach, rule


class Spoken(Facts):
    """A protocol that is chosen against the ones that the other end speaks.

    ``wanted`` is what the inverter is set to; ``spoken`` what this end is set to, None where it is unknown. ``where`` is the thing
    whose setting is judged; ``bus`` is a socket that both need and one lacks.
    """

    where: str
    wanted: Protocol | None
    spoken: Protocol | None = None
    common: Protocol | None = None
    shared: Sequence[str] = ()
    titles: tuple[str, str] = ("", "")
    lacking_bus: str = ""
    field: str = ""


@rule("LINK-PROTOCOL")
def one_protocol(s: Spoken) -> Breach | None:
    """The inverter's protocol is one that the battery speaks, every battery is set to it, and both have its socket."""
    if s.lacking_bus:
        text = f"{s.titles[0]} and {s.titles[1]} have no {s.lacking_bus} socket in common: the battery cannot be heard."
        return Breach(s.where, text, "Choose a battery that this inverter has a socket for.", field=s.field)
    if s.where == "inverter":
        if s.wanted is not None and s.common is not None:
            return None
        text = "The inverter's chosen protocol is not one that the battery speaks."
        return Breach(s.where, text, f"Choose one of: {', '.join(s.shared) or 'none in common'}.", field=s.field)
    same = s.wanted is not None and s.spoken is not None and _alike(s.wanted, s.spoken)
    if same or s.common is None:
        return None
    text = (
        f"{s.where} is set to {s.spoken.name if s.spoken else 'an unknown protocol'}; "
        f"the inverter speaks {s.wanted.name if s.wanted else 'nothing'}."
    )
    return Breach(s.where, text, f"Set protocol {s.common.number} in the battery, then power-cycle it.", field=s.field)


def _alike(a: Protocol, b: Protocol) -> bool:
    return (a.name, a.bus, a.kbit_s) == (b.name, b.bus, b.kbit_s)


class Firmware(Facts):
    """The firmware a thing comes with against what the shared protocol asks of it; None where no protocol is shared."""

    title: str
    version: str
    protocol: Protocol | None


@rule("LINK-FIRMWARE")
def firmware_suffices(f: Firmware) -> Breach | None:
    """The firmware is at least what the shared protocol asks."""
    if f.protocol is None or not older(f.version, f.protocol.firmware_min):
        return None
    text = f"{f.title} comes with firmware {f.version or 'unknown'}; {f.protocol.name} needs {f.protocol.firmware_min}."
    act = "Bring it to that version before the link is tried, and note it."
    return Breach(f.title, text, act, field=".inverter_protocol")


class Address(Facts):
    """A battery's address in its chain: the one it is set to, the one it should have, and what its switches can show.

    ``lowest`` to ``most`` is what ``switches`` can show; no switches, no question. ``taken`` where a battery before it has the address;
    ``placed`` where its place in the chain has an address that can be shown; ``as_programming`` where its switches, terminator and all,
    stand as they do while its protocol is chosen.
    """

    unit: str
    address: int
    wanted: int
    switches: int
    lowest: int
    most: int
    taken: bool = False
    placed: bool = True
    as_programming: bool = False

    @property
    def shown(self) -> bool:
        """Whether the switches can show the address."""
        return not self.switches or self.lowest <= self.address <= self.most


def _set_it(a: Address) -> str:
    return f"Set its switches to {a.wanted} and power-cycle it."


@rule("LINK-ADDRESS-RANGE")
def address_in_range(a: Address) -> Breach | None:
    """The switches can show the address, and as many as the chain needs."""
    if a.unit == "chain":
        if not a.switches or a.wanted <= a.most:
            return None
        text = f"{a.wanted} batteries need an address each from 1; the {a.switches} address switches show up to {a.most}."
        return Breach("chain", text, "Take batteries off this bus.")
    if a.shown:
        return None
    text = f"{a.unit} is to have address {a.address}; its {a.switches} address switches show {a.lowest} to {a.most}."
    return Breach(a.unit, text, _set_it(a), field=f".units.{a.unit}.dip_address")


@rule("LINK-ADDRESS-DUP")
def address_once(a: Address) -> Breach | None:
    """No two batteries have one address."""
    if not a.placed or not a.taken:
        return None
    text = f"{a.unit} is set to address {a.address}, which another battery already has."
    return Breach(a.unit, text, _set_it(a), field=f".units.{a.unit}.dip_address")


@rule("LINK-ADDRESS-ORDER")
def address_in_order(a: Address) -> Breach | None:
    """Addresses rise along the chain; one that another battery has is told of by its own rule."""
    if not a.placed or a.taken or a.address == a.wanted:
        return None
    text = f"{a.unit} is set to address {a.address}; in this place of the chain it is {a.wanted}."
    return Breach(a.unit, text, _set_it(a), field=f".units.{a.unit}.dip_address")


@rule("LINK-ADDRESS-PROGRAM")
def address_leaves_programming(a: Address) -> Breach | None:
    """The switches of an address do not stand as they stand for programming: the battery would wait for a protocol for ever."""
    if not a.as_programming:
        return None
    text = f"{a.unit} at address {a.address} has its switches as they stand for programming: it never leaves that."
    return Breach(a.unit, text, "Give it another address, or take batteries off this bus.", field=f".units.{a.unit}.dip_address")


class Terminated(Facts):
    """Whether a battery carries a terminator, and whether its place on the bus wants one."""

    unit: str
    fitted: bool
    wanted: bool


@rule("LINK-TERMINATOR")
def ends_terminated(t: Terminated) -> Breach | None:
    """The two ends of the bus are terminated, and nothing between."""
    if t.fitted == t.wanted:
        return None
    text = (
        "the last battery has no terminator: the bus echoes." if t.wanted else "it sits in the middle of the bus and carries a terminator."
    )
    act = "Terminate the two ends only: the inverter inside, and the last battery."
    return Breach(t.unit, f"{t.unit}: {text}", act, field=f".units.{t.unit}.terminator")


@rule("LINK-STAR")
def battery_to_battery(s: Shaped) -> Breach | None:
    """The battery bus runs from battery to battery."""
    return one_line(s)


@rule("LINK-STUB")
def short_battery_stub(s: Stub) -> Breach | None:
    """A battery hangs no farther off its bus than good practice has it."""
    return short(s)


@rule("LINK-LOAD")
def batteries_borne(x: Loaded) -> Breach | None:
    """No more batteries on an RS-485 bus than its driver bears."""
    return loaded(x)


ADDRESSED = (address_in_range, address_once, address_in_order, address_leaves_programming)

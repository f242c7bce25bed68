"""How stand the DIP switches for an address?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gumboot.core.card import BatteryCard


def dip_positions(address: int, switches: int) -> tuple[bool, ...]:
    """Positions of the DIP switches for an address, switch 1 first (least significant). Raises ValueError when it does not fit."""
    if not 0 <= address < 2**switches:
        raise ValueError(f"address {address} does not fit {switches} switches")
    return tuple(bool(address >> bit & 1) for bit in range(switches))


def places_told(places: Sequence[bool]) -> str:
    """How switches stand, in words: all ON, all OFF, or one by one from the first."""
    if len(set(places)) == 1:
        return "all switches ON" if places[0] else "all switches OFF"
    return "switches " + ", ".join(f"{n} {'ON' if on else 'OFF'}" for n, on in enumerate(places, start=1))


@dataclass(frozen=True, slots=True)
class DipBlock:
    """A block of DIP switches as its card reads it: which one is the terminator, which comes first, what ON means.

    ``programming`` is how they stand, from the first, while the protocol is chosen; empty where the maker asks for nothing.
    """

    switches: int
    terminator_switch: int = 0
    most_first: bool = False
    on_is: int = 1
    offset: int = 0
    programming: tuple[bool, ...] = ()

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

    def shown(self, address: int, terminated: bool) -> tuple[bool, ...]:
        """As ``show``; nothing where the switches cannot show the address or there are none."""
        try:
            return self.show(address, terminated) if self.switches else ()
        except ValueError:
            return ()


def dip_block(card: BatteryCard) -> DipBlock:
    """The block of a battery's card."""
    programming = tuple(place == "1" for place in card.dip_programming)
    return DipBlock(
        card.dip_switches, card.terminator_switch, card.dip_first == "most significant", card.dip_on, card.dip_offset, programming
    )

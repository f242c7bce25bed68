"""The link between several inverters: who leads, which address and phase each is told, where the terminators sit."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple, Protocol

from gumboot.core.card.parts import DataPort
from gumboot.core.expression import Expression
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.seats import InverterSeat

TERMINATOR = constant("R_t", "One terminator", 120, "ohm", "cp.terminator")


class Work(Protocol):
    """A ledger's or a bank's way of working a figure out."""

    def __call__(self, key: str, symbol: str, name: str, value: float | Expression, unit: str, *, source: str, limits: str = "") -> Figure:
        """A figure under a key."""
        ...


ENDS_OHM = "60 ohm: both ends. 120: one is missing. 40: one too many."


class Pair(NamedTuple):
    """How the dead pair of a link is called: keys of its terminators and of its resistance, their names, and what is built in."""

    ends_key: str
    ohm_key: str
    ends: str
    ohm: str
    built_in: str = ""


def across(work: Work, pair: Pair, fitted: int) -> Figure:
    """Resistance in ohm across the dead pair of a link with so many terminators, one at least."""
    ends = work(pair.ends_key, "n_t", pair.ends, float(fitted), "", source="arith", limits=pair.built_in)
    return work(pair.ohm_key, "R", pair.ohm, TERMINATOR / ends, "ohm", source="physics", limits=ENDS_OHM)


@dataclass(frozen=True)
class GroupUnit:
    """One inverter on the link: what its place wants and what it is set to."""

    seat: InverterSeat
    leads: bool
    wanted_address: int
    wants_terminator: bool

    @property
    def title(self) -> str:
        """What people call it."""
        return self.seat.name


@dataclass(frozen=True)
class GroupLink:
    """The link of one group with its units in order; ``pair_ohm`` is what its dead pair shows, None where it carries no terminators."""

    units: tuple[GroupUnit, ...]
    port: DataPort
    pair_ohm: Figure | None
    mark: str = ""
    of: str = ""


def group_link(ledger: Ledger) -> GroupLink | None:
    """The link between the inverters; None where there is one, or a card says nothing of several."""
    seats = ledger.seats.inverters
    allows = seats[0].card.parallel
    port = next((p for p in seats[0].card.data_ports if allows and p.id == allows.port), None)
    if len(seats) < 2 or allows is None or port is None:
        return None
    units = tuple(
        GroupUnit(seat, n == 0, allows.first_address + n, allows.terminators and n in (0, len(seats) - 1)) for n, seat in enumerate(seats)
    )
    fitted = sum(seat.thing.terminator for seat in seats)
    pair = None
    if allows.terminators and fitted:
        called = Pair(
            ledger.key("group.terminators"),
            ledger.key("group.pair_ohm"),
            ledger.titled("Terminators on the link between inverters"),
            ledger.titled(f"Across the dead {port.bus} pair between inverters"),
        )
        pair = across(ledger.work, called, fitted)
    return GroupLink(units, port, pair, ledger.house.mark, ledger.titled(""))

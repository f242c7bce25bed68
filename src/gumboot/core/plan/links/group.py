"""The link between several inverters: who leads, which address and phase each is told, where the terminators sit."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.card.parts import DataPort
from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.seats import InverterSeat

TERMINATOR = constant("R_t", "One terminator", 120, "ohm", "cp.terminator")


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
        ends = ledger.work(
            ledger.key("group.terminators"),
            "n_t",
            ledger.titled("Terminators on the link between inverters"),
            float(fitted),
            "",
            source="arith",
        )
        limits = "60 ohm: both ends. 120: one is missing. 40: one too many."
        pair = ledger.work(
            ledger.key("group.pair_ohm"),
            "R",
            ledger.titled(f"Across the dead {port.bus} pair between inverters"),
            TERMINATOR / ends,
            "ohm",
            source="physics",
            limits=limits,
        )
    return GroupLink(units, port, pair, ledger.house.mark, ledger.titled(""))

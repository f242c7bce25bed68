"""What do the sources behind a main board give together, and which of them join it?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.expression import total
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.ledger import Ledger
from gumboot.core.plan.group import summed
from gumboot.core.seats import InverterSeat, PvInverterSeat


def sources_together(ledger: Ledger) -> Figure:
    """Current of every source behind the boards: the battery inverters', and that of AC-coupled PV which the network reaches."""
    return sources_of(ledger, ledger.house.giving, reached_pv(ledger))


def reached_pv(ledger: Ledger) -> list[PvInverterSeat]:
    """The AC-coupled PV that the network reaches."""
    reached = {pv.id for part in ledger.house.islands if part.joins_grid for pv in part.seats.pv_inverters}
    return [pv for pv in ledger.seats.pv_inverters if pv.id in reached]


def sources_of(ledger: Ledger, units: Sequence[InverterSeat], others: Sequence[PvInverterSeat], mark: str = "") -> Figure:
    """Current of some inverters on the leg that most of it flows on, and of some PV inverters."""
    parts, of = [ledger.read(pv.card, "output_current_a") for pv in others], f", {mark}" if mark else ""
    if len(units) == 1:
        parts = [ledger.read(units[0].card, "output_current_a"), *parts]
    elif units:
        on = [[ledger.read(i.card, "output_current_a") for i in units if leg in ledger.house.phases_of(i)] for leg in ledger.house.legs]
        amps = max(on, key=lambda leg: sum(f.value for f in leg))
        key, name = ledger.key("group.output_a"), ledger.titled("Output current of all inverters on one leg")
        parts = [summed(ledger, f"{key}.{mark}" if mark else key, "I_out_all", f"{name}{of}", amps), *parts]
    if len(parts) == 1:
        return parts[0]
    key = f"circuits.sources_a.{mark}" if mark else ledger.key("circuits.sources_a")
    return ledger.work(key, "I_src", ledger.titled(f"Sources together{of}"), total(parts, parts[0]), "A", source="arith")


def sources_at_first(ledger: Ledger) -> Figure | None:
    """What joins the first main board, or one behind it: all sources where there is one; None where every source joins another."""
    mains = ledger.seats.mains
    if len(mains) < 2:
        return ledger.once(sources_together)
    units, others = joining(ledger, mains[0].id)
    return sources_of(ledger, units, others, mains[0].id) if units or others else None


def joining(ledger: Ledger, board: str) -> tuple[list[InverterSeat], list[PvInverterSeat]]:
    """The inverters and PV inverters whose current flows to the grid by way of a main board."""
    house, reached = ledger.house, {i.id for part in ledger.house.islands if part.joins_grid for i in part.seats.inverters}

    def leaves_by(pv: PvInverterSeat) -> str:
        # PV on a backed-up board leaves by the main board of the inverters that feed it; nowhere where the network does not reach them.
        by = next(iter(house.feeding(pv.thing.feeds)), None)
        return pv.thing.feeds if by is None else house.main_of(by) if by.id in reached else ""

    units = [i for i in ledger.house.giving if board in house.mains_above(house.main_of(i))]
    return units, [pv for pv in ledger.seats.pv_inverters if board in house.mains_above(leaves_by(pv))]


def pv_behind(ledger: Ledger, circuit: Circuit) -> list[PvInverterSeat]:
    """The PV inverters whose current comes back along a circuit: those on what it leads to."""
    if not ledger.seats.pv_inverters:
        return []
    behind = {circuit.load, *ledger.house.below(circuit.load)}
    return [pv for pv in ledger.seats.pv_inverters if pv.thing.feeds in behind]

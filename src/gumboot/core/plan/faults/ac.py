"""What the network, the inverters and the generators can push into a fault at each place of the AC side."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from gumboot.core.expression import Expression, largest, total
from gumboot.core.figure import Figure, constant
from gumboot.core.installation import Circuit
from gumboot.core.installation.paths import Way, reached_from, ways_from
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan, Sized
from gumboot.core.plan.faults.parts import FaultAt
from gumboot.core.rulebook.common.conductors import largest_fault_current_a, ways_together
from gumboot.core.wording import within

NETWORK = "the network"
HOLDS = "Conductors at 20 °C; the network's impedance and theirs added at right angles: the true current lies at or below."


class Source(NamedTuple):
    """An inverter or a generator with the places that its current reaches; ``amps`` is None where its card is silent."""

    name: str
    amps: Figure | None
    legs: tuple[str, ...]
    reaches: frozenset[str]
    is_generator: bool = False


def _of_kinds(circuits: Iterable[Circuit], *but: str) -> list[Circuit]:
    return [c for c in circuits if not c.is_dc and c.kind not in but]


def _sources(ledger: Ledger, switches: frozenset[str]) -> list[Source]:
    """The inverters, the PV inverters and the generators, each with what it reaches."""
    house, seats, found = ledger.house.whole, ledger.seats, list[Source]()
    every, onto_loads = _of_kinds(house.circuits), _of_kinds(house.circuits, "grid", "main-feeder")
    for unit in seats.inverters:
        # One for use off the grid never feeds it.
        reached = reached_from(unit.id, onto_loads if unit.card.role == "off-grid" else every, switches)
        amps = ledger.stated(unit.card, "source.island_fault_a")
        found.append(Source(unit.name, amps, house.phases_of(unit), reached))
    for pv in seats.pv_inverters:
        amps = ledger.stated(pv.card, "source.island_fault_a")
        found.append(Source(pv.name, amps, pv.card.phases, reached_from(pv.id, every, switches)))
    for generator in seats.generators:
        amps, reached = ledger.stated(generator.card, "fault_a"), reached_from(generator.id, onto_loads, switches)
        found.append(Source(generator.name, amps, house.legs, reached, is_generator=True))
    return found


def cold_mohm(ledger: Ledger, sized: Sized, *, there_and_back: bool) -> Expression:
    """Resistance of a circuit at 20 °C, mohm: of a pole, or there and back. The coldest conductor lets the largest current flow."""
    material, clauses = sized.run.material, ledger.book.wiring
    share = clauses.cold_share(sized.run.insulation, material)
    words = f"Resistance of {material} at 20 °C, share of that when warm"
    told = constant("k_20", words, share, "", clauses.cold_source)
    # Insulations of unlike temperature have shares of their own.
    kept = ledger.keep(told.renamed(key=f"{told.key}.{share:.4f}"))
    there = 2 * sized.length if there_and_back else sized.length
    return there / 1000 * sized.pole_ohm_per_km * kept * 1000


def _mohm(ledger: Ledger, sized: Sized) -> Figure:
    """Resistance that a circuit puts in a fault's way: there and back on one line and neutral, one line of several else."""
    back = sized.circuit.lines == 1
    name = f"Resistance of the {within(sized.circuit.title)} at 20 °C" + (", there and back" if back else "")
    mohm = cold_mohm(ledger, sized, there_and_back=back)
    return ledger.work(f"fault.{sized.circuit.id}.mohm", "R_20", name, mohm, "mohm", source="physics")


def _from_network(ledger: Ledger, fault: Figure, ways: Sequence[Way], mohms: dict[str, Figure]) -> Expression:
    """What the network pushes along all ways to a place; without a sized conductor on one of them, all that it has."""
    along = [[mohms[c.id] for c in way if c.id in mohms] for way in ways]
    if not all(along):
        return fault
    together = ways_together([total(way, way[0]) for way in along])
    return largest_fault_current_a(ledger.read(ledger.seats.inverter, "leg_v"), fault, together / 1000)


def _added(parts: Sequence[Figure]) -> Expression:
    """Figures of several sources added up; alike ones counted."""
    alike = len(parts) > 1 and all(part.key == parts[0].key for part in parts)
    return len(parts) * parts[0] if alike else total(parts, parts[0])


def _of_inverters(reaching: Sequence[Source]) -> Expression | None:
    """What the inverters give on the leg that most of it flows on."""
    said = [s for s in reaching if s.amps is not None and not s.is_generator]
    legs = {leg for s in said for leg in s.legs}
    on = [[s.amps for s in said if leg in s.legs and s.amps is not None] for leg in sorted(legs)]
    most = max(on, key=lambda parts: sum(f.value for f in parts), default=[])
    return _added(most) if most else None


class _Network(NamedTuple):
    """The network with what it pushes at the board of the supply, and the ways that lead from each such board."""

    fault: Figure | None
    ways: tuple[dict[str, tuple[Way, ...]], ...]

    def ways_to(self, place: str) -> list[tuple[Way, ...]]:
        """The ways to a place from each board of the supply that reaches it."""
        return [ways[place] for ways in self.ways if place in ways]


def _network(ledger: Ledger, switches: frozenset[str]) -> _Network:
    """A generator's feed is no way for it: the inverter takes one or the other."""
    house, site = ledger.house.whole, ledger.job.site
    if site.supply == "none":
        return _Network(None, ())
    circuits = _of_kinds(house.circuits, "generator")
    at_supply = [b.id for b in ledger.seats.mains if b.thing.fed_from is None]
    fault = None if site.grid_fault_a is None else ledger.decided("site.grid_fault_a")
    return _Network(fault, tuple(ways_from(board, circuits, switches) for board in at_supply))


def _together(
    ledger: Ledger, network: _Network, ways: list[tuple[Way, ...]], reaching: Sequence[Source], mohms: dict[str, Figure]
) -> Expression | None:
    """The network or a generator, whichever gives more, and the inverters; None where none of them says anything."""
    takes_in: list[Expression] = []
    if ways and network.fault is not None:
        pushed = [_from_network(ledger, network.fault, found, mohms) for found in ways]
        takes_in.append(total(pushed, pushed[0]))
    takes_in += [s.amps for s in reaching if s.is_generator and s.amps is not None]
    parts = [largest(*takes_in)] if takes_in else []
    inverters = _of_inverters(reaching)
    parts += [] if inverters is None else [inverters]
    return total(parts, parts[0]) if parts else None


def ac_faults(ledger: Ledger, plan: CircuitsPlan) -> list[FaultAt]:
    """The fault current at every place that an AC circuit meets."""
    house, seats = ledger.house.whole, ledger.seats
    switches = frozenset(t.id for t in seats.transfers if t.card.style == "manual")
    network, sources = _network(ledger, switches), _sources(ledger, switches)
    mohms = {cid: _mohm(ledger, z) for cid, z in plan.sized.items() if not z.circuit.is_dc and z.circuit.kind != "generator"}
    met = {place for c in house.circuits if not c.is_dc for place in (c.source, c.load)} | {b.id for b in seats.mains}
    titles, found = {seat.id: seat.name for seat in seats.all()}, list[FaultAt]()
    for place in [p for p in house.cards if p in met]:
        ways, reaching = network.ways_to(place), [s for s in sources if place in s.reaches]
        value = _together(ledger, network, ways, reaching, mohms)
        if not ways and not reaching:
            continue
        silent = [s.name for s in reaching if s.amps is None] + ([NETWORK] if ways and network.fault is None else [])
        said = ([NETWORK] if ways and network.fault is not None else []) + [s.name for s in reaching if s.amps is not None]
        holds = f"{HOLDS} Not counted, for want of an answer: {', '.join(silent)}." if silent else HOLDS
        name = f"Largest fault current at {titles[place]}, AC"
        amps = (
            None
            if value is None
            else ledger.work(f"fault.{place}.ac", "I_k", name, value, "A", source=ledger.book.boards.most_fault_source, limits=holds)
        )
        found.append(FaultAt(place=place, side="AC", amps=amps, sources=tuple(said), silent=tuple(silent)))
    return found

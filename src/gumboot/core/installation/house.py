"""The installation as one graph: things from the job's decisions, circuits between their terminals from the ports of their cards."""

from __future__ import annotations

from gumboot.core.installation.circuits_ac import ac_circuits
from gumboot.core.installation.circuits_dc import dc_circuits
from gumboot.core.installation.islands import islands_of, part_of
from gumboot.core.installation.laying import Raceway, raceways_of
from gumboot.core.installation.parts import Circuit, Core, Input
from gumboot.core.installation.places import Places
from gumboot.core.once import once
from gumboot.core.seats import BoardSeat, Enclosed, InverterSeat, Seats

# What holds things of the job itself: another house with the same graph looks it up for its own job.
OWN = {"job", "seats", "_apart", "boards", "giving", "_on_banks", "_banks", "_heads", "_on_legs"}


class House(Places):
    """The graph of one job. Built once; read by everything that asks what is joined to what."""

    @property
    def whole(self) -> House:
        """The house that this is, or is an island of."""
        return self

    @once
    def circuits(self) -> tuple[Circuit, ...]:
        """All circuits: PV runs, battery, grid, what passes the transfer equipment, outputs, backed-up feed, generator, AC-coupled PV."""
        found: dict[str, Circuit] = {}
        for circuit in (*dc_circuits(self), *ac_circuits(self)):
            found.setdefault(circuit.id, circuit)
        return tuple(found.values())

    @once
    def by_id(self) -> dict[str, Circuit]:
        """Circuits by id."""
        return {c.id: c for c in self.circuits}

    @once
    def _sets(self) -> dict[str, int]:
        """Conductors in parallel of each run that has several."""
        return {run.id: run.sets for run in self.job.runs if run.sets > 1}

    def sets_of(self, circuit: Circuit) -> int:
        """How many conductors of each core of a circuit lie in parallel."""
        return self._sets.get(circuit.id, 1)

    def conductors(self, circuit: Circuit) -> tuple[Core, ...]:
        """Every conductor of a circuit that is pulled: its cores, set by set."""
        return circuit.cores * self.sets_of(circuit)

    @once
    def raceways(self) -> tuple[Raceway, ...]:
        """What lies together, each raceway with the runs in it."""
        return raceways_of(self.job.runs)

    def raceway_of(self, circuit: str) -> Raceway | None:
        """The raceway that a circuit lies in."""
        return next((raceway for raceway in self.raceways if circuit in raceway.runs), None)

    @once
    def panels(self) -> frozenset[str]:
        """The panels that combine inverters."""
        return frozenset(b.id for b in self.seats.boards if b.thing.duty == "combining")

    @once
    def ways(self) -> tuple[tuple[str, ...], ...]:
        """Circuits one after another from the main board to each backed-up board, a way through each inverter that feeds it."""
        found: list[tuple[str, ...]] = []
        for inverter in self.seats.inverters:
            own = [c for c in self.circuits if c.owner == inverter.id]
            grid = [c.id for c in own if c.kind == "grid"]
            leaving = [c.id for c in own if c.kind in ("through", "output")][:1]
            for onward in self._onward(inverter.id):
                found.append((*grid, *leaving, *onward))
        return tuple(dict.fromkeys(found))

    def _onward(self, inverter: str) -> list[tuple[str, ...]]:
        """The circuits from an inverter's combining panel, transfer equipment or own output to each backed-up board."""
        passing, behind = {inverter, *self.below(inverter)}, self.boards_below(inverter)
        circuits = [c for c in self.circuits if c.kind in ("backup", "feeder") or c.owner in self.panels]
        circuits = [c for c in circuits if c.source in passing]
        ways = []
        for board in behind:
            towards = {board.id, *(p for p in passing if board.id in self.below(p))}
            ways.append(tuple(c.id for c in circuits if c.load in towards))
        return ways or [()]

    @once
    def joins_grid(self) -> bool:
        """Whether the network reaches it; an island of several that no circuit leads to from a main board stands alone."""
        if self.job.site.supply == "none" or not self.is_apart:
            return self.job.site.supply != "none"
        mains = {b.id for b in self.seats.mains}
        return any(c.source in mains for c in self.of_kind("grid", "through"))

    @property
    def names(self) -> tuple[str, ...]:
        """The inverters and boards of it, by which islands are told apart."""
        return (*(i.id for i in self.seats.inverters), *(b.id for b in self.seats.boards))

    @property
    def islands(self) -> tuple[House, ...]:
        """The parts of the house that are fed apart from each other in an outage; the house itself where there is one."""
        # A house that held itself would wait for the collector.
        return self._apart or (self,)

    @once
    def _apart(self) -> tuple[House, ...]:
        groups = islands_of(self)
        if len(groups) == 1:
            return ()
        return tuple(Island(self, part_of(self, group, is_first=n == 0)) for n, group in enumerate(groups))

    def island_of(self, circuit: str) -> House:
        """The island that a circuit belongs to; the first for one of the house as a whole."""
        apart = self._apart
        if not apart:
            return self
        return next((island for island in apart if circuit in island.by_id), apart[0])

    @once
    def mark(self) -> str:
        """What ids of the steps, switches and settings of an island end in: nothing for the first, else the name of its leader."""
        return "" if self.lead.id == self.leader else f"-{self.lead.id}"

    @property
    def is_apart(self) -> bool:
        """Whether it is one of several islands."""
        return self is not self.whole

    def standing(self) -> frozenset[str]:
        """Circuits that are there already: everything that they join stays as it is, so nobody lands anything on them."""
        staying = {thing.id for thing in self.job.things if thing.stays}
        if not staying:
            return frozenset()
        return frozenset(c.id for c in self.circuits if all(end.place in staying for core in c.cores for end in core.ends))

    def boards_of(self, circuit: Circuit) -> tuple[BoardSeat, ...]:
        """The backed-up boards whose loads a circuit carries: those it leads to; all of them where it begins or ends at an inverter."""
        at_inverter = {i.id for i in self.seats.inverters} & {circuit.source, circuit.load}
        return self.boards if at_inverter else self.boards_below(circuit.load)

    def at(self, thing: str) -> tuple[Circuit, ...]:
        """Circuits that begin or end at a thing."""
        return tuple([c for c in self.circuits if thing in (c.source, c.load)])

    def of_kind(self, *kinds: str) -> tuple[Circuit, ...]:
        """Circuits of these kinds."""
        return tuple([c for c in self.circuits if c.kind in kinds])

    @once
    def giving(self) -> tuple[InverterSeat, ...]:
        """The inverters that feed the grid; one for use off the grid only takes from it, and one that it does not reach does neither."""
        joined = [i for part in self.islands if part.joins_grid for i in part.seats.inverters]
        return tuple([i for i in joined if i.card.role != "off-grid"])

    def mains_of(self, bank: str) -> tuple[Circuit, ...]:
        """The battery mains of a bank's inverters."""
        names = {i.id for i in self.on_bank(bank)}
        return tuple(c for c in self.of_kind("battery") if c.owner in names)

    def joined(self) -> House:
        """The house with its graph drawn up, so that whoever reads it later reads no more of the job for it than what is asked."""
        self._shape()
        return self

    def with_graph_of(self, other: House) -> bool:
        """Take over the graph of another house that nothing told apart; False where a thing has another card."""
        mine, theirs = self.seats.all(), other.seats.all()
        if len(mine) != len(theirs) or any(a.card is not b.card for a, b in zip(mine, theirs, strict=True)):
            return False
        if self._stock() != other._stock():
            return False
        # Copied first, in one move: another thread may be drawing up more of that house while this one reads it.
        known = other.__dict__.copy()
        self.__dict__.update({name: value for name, value in known.items() if name not in OWN})
        return True

    def is_joined_as(self, other: House) -> bool:
        """Whether another house has the same things with the same cards, joined in the same way: then one graph serves for both."""
        return self._shape() == other._shape()

    def _stock(self) -> tuple[object, ...]:
        return dict(self.seats.of_meters), self.seats.module, dict(self.seats.of_faces), self.seats.optimiser, self.seats.anchor

    def _shape(self) -> tuple[object, ...]:
        standing = tuple((seat.id, seat.card) for seat in self.seats.all())
        graph = (
            self.circuits,
            self.inputs,
            tuple(self.cards),
            self.hangable,
            self.legs,
            self.has_grid,
            self.ways,
            tuple(island.names for island in self.islands),
            tuple(self.by_id),
            self._hanging,
            [island.joins_grid for island in self.islands],
            [i.id for i in self.giving],
            {bank: [unit.id for unit in units] for bank, units in self._heads.items()},
            {leg: [i.id for i in units] for leg, units in self._on_legs.items()},
            self._sets,
            self.raceways,
        )
        return standing, self._stock(), graph


class Island(House):
    """One of several islands of a house, as a house of its own: its own things, on the house's graph."""

    def __init__(self, whole: House, seats: Seats) -> None:
        super().__init__(whole.job, seats)
        self._whole = whole
        self.leader = whole.leader

    @property
    def whole(self) -> House:
        """The house that it is an island of."""
        return self._whole

    @once
    def cards(self) -> dict[str, Enclosed]:
        """The cards of the whole house: what an island is joined to has one too."""
        return self._whole.cards

    @once
    def circuits(self) -> tuple[Circuit, ...]:
        """The circuits that lead to one of its things."""
        own = {seat.id for seat in self.seats.all()} | {unit.id for bank in self.seats.banks for unit in bank.thing.units}
        mains = {b.id for b in self.seats.mains} | {r.id for r in self.seats.roof_boxes}
        return tuple(c for c in self._whole.circuits if any(e.place in own - mains for core in c.cores for e in core.ends))

    @once
    def inputs(self) -> tuple[Input, ...]:
        """The PV inputs of its inverters, under the names that they have in the house."""
        own = {i.id for i in self.seats.inverters} | {p.id for p in self.seats.pv_inverters}
        return tuple(at for at in self._whole.inputs if at.place in own)

    @once
    def first_bank(self) -> str:
        """The first bank of the house."""
        return self._whole.first_bank

    @property
    def islands(self) -> tuple[House, ...]:
        """Itself."""
        return (self,)

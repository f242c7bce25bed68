"""The installation as one graph: things from the job's decisions, circuits between their terminals from the ports of their cards."""

from __future__ import annotations

from gumboot.core.card.inverter import Output
from gumboot.core.installation.islands import islands_of, part_of
from gumboot.core.installation.joined import Joined
from gumboot.core.installation.laying import Raceway, raceways_of
from gumboot.core.installation.parts import Circuit, Core, Input
from gumboot.core.once import once
from gumboot.core.seats import Enclosed, InverterSeat, Seats

# What holds things of the job itself: another house with the same graph looks it up for its own job.
OWN = {"job", "seats", "_apart", "boards", "giving", "_on_banks", "_banks", "_heads", "_on_legs"}


class House(Joined):
    """The graph of one job. Built once; read by everything that asks what is joined to what."""

    @property
    def whole(self) -> House:
        """The house that this is, or is an island of."""
        return self

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
    def joins_grid(self) -> bool:
        """Whether the network reaches it; an island of several that no circuit leads to from a main board stands alone."""
        if self.job.site.supply == "none" or not self.is_apart:
            return self.job.site.supply != "none"
        mains = {b.id for b in self.seats.mains}
        return any(c.source in mains for c in self.of_kind("grid", "through"))

    @property
    def output(self) -> Output:
        """What the inverters make together; parts that feed apart make it side by side, and not of each other's legs."""
        kinds = {island.output for island in self._apart}
        return kinds.pop() if len(kinds) == 1 else super().output

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

    @once
    def giving(self) -> tuple[InverterSeat, ...]:
        """The inverters that feed the grid; one for use off the grid only takes from it, and one that it does not reach does neither."""
        joined = [i for part in self.islands if part.joins_grid for i in part.seats.inverters]
        return tuple([i for i in joined if i.card.role != "off-grid"])

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
        seats = self.seats
        by_thing = dict(seats.of_meters), dict(seats.of_devices), dict(seats.of_faces)
        return *by_thing, seats.module, seats.optimiser, seats.anchor, seats.screw

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
            [island.seats.meter and island.seats.meter.id for island in self.islands],
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

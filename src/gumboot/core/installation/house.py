"""The installation as one graph: things from the job's decisions, circuits between their terminals from the ports of their cards."""

from __future__ import annotations

from functools import cached_property

from gumboot.core.installation.circuits_ac import ac_circuits
from gumboot.core.installation.circuits_dc import dc_circuits
from gumboot.core.installation.parts import Circuit
from gumboot.core.installation.places import Places


class House(Places):
    """The graph of one job. Built once; read by everything that asks what is joined to what."""

    @cached_property
    def circuits(self) -> tuple[Circuit, ...]:
        """All circuits: PV runs, battery, grid, what passes the transfer equipment, outputs, backed-up feed, generator, AC-coupled PV."""
        found: dict[str, Circuit] = {}
        for circuit in (*dc_circuits(self), *ac_circuits(self)):
            found.setdefault(circuit.id, circuit)
        return tuple(found.values())

    @cached_property
    def by_id(self) -> dict[str, Circuit]:
        """Circuits by id."""
        return {c.id: c for c in self.circuits}

    @cached_property
    def ways(self) -> tuple[tuple[str, ...], ...]:
        """Circuits one after another from the main board to the backed-up board, a way through each inverter."""
        found: list[tuple[str, ...]] = []
        onward = tuple(c.id for c in self.circuits if c.kind == "backup" or c.id == "combined")
        for inverter in self.seats.inverters:
            own = [c for c in self.circuits if c.owner == inverter.id]
            grid = [c.id for c in own if c.kind == "grid"]
            leaving = [c.id for c in own if c.kind in ("through", "output")]
            found.append((*grid, *leaving[:1], *onward))
        return tuple(dict.fromkeys(found))

    def stands(self, circuit: Circuit) -> bool:
        """Whether a circuit is there already: everything that it joins stays as it is, so nobody lands anything on it."""
        staying = {thing.id for thing in self.job.things if thing.stays}
        return all(end.place in staying for core in circuit.cores for end in core.ends)

    def of_kind(self, *kinds: str) -> tuple[Circuit, ...]:
        """Circuits of these kinds."""
        return tuple(c for c in self.circuits if c.kind in kinds)

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
        self.__dict__.update({name: value for name, value in known.items() if name not in ("job", "seats")})
        return True

    def is_joined_as(self, other: House) -> bool:
        """Whether another house has the same things with the same cards, joined in the same way: then one graph serves for both."""
        return self._shape() == other._shape()

    def _stock(self) -> tuple[object, ...]:
        return self.seats.ct, self.seats.module, dict(self.seats.of_faces), self.seats.optimiser, self.seats.anchor

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
            tuple(self.by_id),
            self._hanging,
        )
        return standing, self._stock(), graph

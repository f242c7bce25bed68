"""What is joined to what: the circuits of a house, from things to things, and the ways that they make."""

from __future__ import annotations

from gumboot.core.card.inverter import CtChannel
from gumboot.core.installation.circuits_ac import ac_circuits
from gumboot.core.installation.circuits_dc import dc_circuits
from gumboot.core.installation.parts import Circuit
from gumboot.core.installation.places import Places
from gumboot.core.once import once
from gumboot.core.seats import BoardSeat, InverterSeat


class Joined(Places):
    """The things of one job with the circuits between them."""

    @property
    def whole(self) -> Joined:
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
    def panels(self) -> frozenset[str]:
        """The panels that combine inverters."""
        return frozenset(b.id for b in self.seats.boards if b.thing.duty == "combining")

    @once
    def ways(self) -> tuple[tuple[str, ...], ...]:
        """Circuits one after another from the main board to each backed-up board, a way through each inverter that feeds it."""
        found: list[tuple[str, ...]] = []
        for inverter in self.seats.inverters:
            own = [c for c in self.circuits if c.owner == inverter.id]
            grid = [*self.feeders_of(inverter), *(c.id for c in own if c.kind == "grid")]
            leaving = [c.id for c in own if c.kind in ("through", "output")][:1]
            for onward in self._onward(inverter.id):
                found.append((*grid, *leaving, *onward))
        return tuple(dict.fromkeys(found))

    def feeders_to(self, board: str) -> tuple[str, ...]:
        """The circuits from the main board at the supply to another main board, by way of those between."""
        by_board = self.whole.main_feeders
        return tuple([by_board[name] for name in reversed(self.mains_above(board)) if name in by_board]) if by_board else ()

    def feeders_of(self, inverter: InverterSeat) -> tuple[str, ...]:
        """The circuits from the main board at the supply to the one that an inverter joins."""
        return self.feeders_to(self.main_of(inverter)) if self.whole.main_feeders else ()

    @once
    def main_feeders(self) -> dict[str, str]:
        """The circuit that feeds each main board behind another."""
        return {c.load: c.id for c in self.of_kind("main-feeder")}

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

    def standing(self) -> frozenset[str]:
        """Circuits that are there already: everything that they join stays as it is, so nobody lands anything on them."""
        staying = {thing.id for thing in self.job.things if thing.stays}
        found = [cid for board, cid in self.whole.main_feeders.items() if not self.lands_its_feed(board)]
        if staying:
            found += [c.id for c in self.circuits if all(end.place in staying for core in c.cores for end in core.ends)]
        return frozenset(found)

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

    def mains_of(self, bank: str) -> tuple[Circuit, ...]:
        """The battery mains of a bank's inverters."""
        names = {i.id for i in self.on_bank(bank)}
        return tuple(c for c in self.of_kind("battery") if c.owner in names)

    def channels_of(self, inverter: InverterSeat) -> tuple[CtChannel, ...]:
        """The CT inputs of an inverter with the legs of the house that they measure: a single one follows the phase that its unit makes."""
        channels, made = inverter.card.ct_channels, self.phases_of(inverter)
        if len(channels) != 1 or len(made) != 1 or channels[0].leg == made[0]:
            return tuple(channels)
        own = channels[0]
        reference = "own leg" if own.reference == own.leg else own.reference
        return (own.model_copy(update={"leg": made[0], "reference": reference}),)

    def units_on(self, leg: str) -> tuple[InverterSeat, ...]:
        """The inverters that carry a leg."""
        return self._on_legs.get(leg, ())

    @once
    def _on_legs(self) -> dict[str, tuple[InverterSeat, ...]]:
        carried = [(i, self.phases_of(i)) for i in self.seats.inverters]
        return {leg: tuple([i for i, legs in carried if leg in legs]) for leg in ("L1", "L2", "L3")}

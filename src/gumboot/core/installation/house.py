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

    def of_kind(self, *kinds: str) -> tuple[Circuit, ...]:
        """Circuits of these kinds."""
        return tuple(c for c in self.circuits if c.kind in kinds)

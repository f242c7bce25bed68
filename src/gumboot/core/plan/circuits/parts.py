"""What a circuit must carry, and a circuit with its conductors."""

from __future__ import annotations

from gumboot.core.expression import Expression
from gumboot.core.figure import Figure
from gumboot.core.installation import Circuit
from gumboot.core.job.model import Run
from gumboot.core.rulebook.common import conductors as common
from gumboot.core.values import Values


class Demand(Values):
    """What a circuit must carry, before any conductor is chosen.

    ``back_a`` is what sources give back along a grid feed, ``highest_v`` the highest voltage that may stand on the circuit where that is
    another than the one it works at.
    """

    design_a: Figure
    continuous_a: Figure
    volts: Figure
    maker_min: str = ""
    maker_source: str = ""
    fixed_device_a: Figure | None = None
    needs_device: bool = True
    device_place: str = ""
    flow: common.Circuit = "DC"
    drop_a: Figure | None = None
    back_a: Figure | None = None
    highest_v: Figure | None = None
    terminal_min: str = ""
    terminal_source: str = ""

    @property
    def losing_a(self) -> Figure:
        """The current whose loss along the run is judged: the design current where no other is said."""
        return self.drop_a or self.design_a

    @property
    def standing_v(self) -> Figure:
        """The highest voltage that its contacts must stand."""
        return self.highest_v or self.volts


class Sized(Values):
    """A circuit with its conductors, device, earth and drop. ``earth`` is None where no earth runs with it, ``sets`` where one conductor makes a pole."""

    circuit: Circuit
    run: Run
    demand: Demand
    device: Figure | None
    code_size: Figure
    required: Figure
    installed: Figure
    ampacity: Figure
    table_ampacity: Figure
    ambient_factor: Figure
    grouping_factor: Figure
    earth: Figure | None
    earth_required: Figure | None
    drop: Figure
    drop_pct: Figure
    length: Figure
    ohm_per_km: Figure
    sets: Figure | None

    @property
    def size(self) -> str:
        """Trade size that will be pulled."""
        return self.installed.label

    @property
    def pole_ohm_per_km(self) -> Expression:
        """Resistance of a pole, ohm/km: of all its conductors in parallel."""
        return self.ohm_per_km / self.sets if self.sets is not None else self.ohm_per_km

    @property
    def earth_size(self) -> str:
        """Trade size of the earth conductor that will be pulled; empty where none is."""
        return self.earth.label if self.earth else ""

"""What do a measured bus, a block of switches and two sockets say?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.figure import Figure, constant
from gumboot.core.rulebook.common.bus import TERMINATOR_OHM, told_by_ohm, told_by_volts
from gumboot.core.sums.ask import Ask, choice, count, quantity, told
from gumboot.core.workbook import Workbook


class BusCheck(Ask):
    """What a resistance across a dead bus says, and what its cores say at rest."""

    bus: Literal["CAN", "RS-485"] = choice("Bus", "CAN")
    measured: float | None = quantity("ohm", "Measured across the dead pair", None, symbol="R_m", le=1e9)
    fitted: int = count("Terminators that are meant to be there", 2, symbol="n_t", ge=1, le=2)
    high: float | None = quantity("V", "At rest: H (or A) against the reference", None, symbol="V_H", ge=-60, le=60)
    low: float | None = quantity("V", "At rest: L (or B) against the reference", None, symbol="V_L", ge=-60, le=60)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """Something measured is needed, and both cores of it."""
        if (self.high is None) != (self.low is None):
            return ("low" if self.low is None else "high", "both cores are measured, each against the reference.")
        if self.measured is None and self.high is None:
            return "measured", "write what was measured: ohm across the dead pair, or the volts of both cores at rest."
        return None


def bus_check(w: Workbook, q: BusCheck) -> tuple[Figure, tuple[str, ...]]:
    """The resistance that the pair should show, and in words what the readings say."""
    end = w.keep(constant("R_t", "One terminator", TERMINATOR_OHM, "ohm", "cp.terminator"))
    figure = w.work("expected", "R", "Across the dead pair, whole", end / told(w, q, "fitted"), "ohm", source="physics")
    lines = []
    if q.measured is not None:
        lines.append(f"{q.measured:g} ohm: {told_by_ohm(q.measured)}")
    if q.high is not None and q.low is not None:
        lines.append(f"{q.high:g} V and {q.low:g} V: {told_by_volts(q.bus, q.high, q.low)}")
    return figure, tuple(lines)

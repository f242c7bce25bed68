"""One measurement or look: its band, and what is wrong with a reading."""

from __future__ import annotations

from typing import Literal

from gumboot.core.figure import Figure
from gumboot.core.record import Record

Of = Literal["", "battery", "array"]
# What a reading is: its size whatever its sign; a polarity, where a minus means reversed; a quantity that cannot be negative; or signed.
Measures = Literal["magnitude", "polarity", "never negative", "signed"]


class Check(Record):
    """One measurement or look. ``low`` and ``high`` bound a value in ``unit``; a check without unit is answered yes or no.

    ``code`` is the rule that speaks when the answer stands outside: a stop where ``life`` is at stake. ``shows`` names two displays
    that are both read: the value is then their difference, which nobody works out by head. ``after`` is the step of first power
    that it waits for. ``cell`` and ``per_k`` say for which cell temperature the band stands and how it moves with it.
    ``of`` is what it proves: the batteries or the array, each of which some step of first power waits for. ``spread_of`` names the
    checks from whose readings it follows: nobody types it.
    """

    id: str
    station: str
    title: str
    unit: str
    why: str
    low: Figure | None = None
    high: Figure | None = None
    expected: Figure | None = None
    life: bool = False
    caution: str = ""
    code: str = "READ-LOOK"
    measures: Measures = "never negative"
    shows: tuple[str, ...] = ()
    after: str = ""
    prepare: str = ""
    cell: Figure | None = None
    per_k: float = 0.0
    of: Of = ""
    spread_of: tuple[str, ...] = ()

    def moved_by(self, cell_c: float | None) -> float:
        """How much larger the band is at another cell temperature than at the one it was worked out for."""
        if cell_c is None or self.cell is None:
            return 1.0
        return (1 + self.per_k * (cell_c - 25)) / (1 + self.per_k * (self.cell.value - 25))

    def refuses(self, value: float) -> str:
        """Why a value cannot be a reading at all; empty when it can."""
        if self.measures == "never negative" and value < 0:
            null = ": null the test leads and measure again" if self.unit.endswith("ohm") else ""
            return f"{value:g} {self.unit} is below nothing{null}."
        return ""

    def fault(self, value: float | None, over: bool = False, cell_c: float | None = None) -> str:
        """What is wrong with a reading, empty when it lies in its band. ``over`` is one beyond the instrument's range, which may be all
        that is known of it."""
        moved, unit = self.moved_by(cell_c), self.unit
        low, high = (None if f is None else f.value * moved for f in (self.low, self.high))
        if value is None:
            return "" if high is None else f"beyond the instrument's range, which is above {high:.4g} {unit}"
        outside, said = self._outside(value, over, low, high)
        if self.measures == "polarity" and value < 0:
            return f"reversed: {said} is the wrong way round" + (", and its size is outside the band" if outside else "")
        if self.measures == "magnitude" and value < 0 and outside:
            return f"{said}, whatever its sign, {outside.removeprefix(said).strip()}"
        return outside

    def _outside(self, value: float, over: bool, low: float | None, high: float | None) -> tuple[str, str]:
        """What lies outside the band, and the reading in words."""
        unit, size = self.unit, abs(value) if self.measures in ("magnitude", "polarity") else value
        said = f"{'above ' if over else ''}{value:g} {unit}"
        outside = ""
        if high is not None and (over or size > high):
            outside = f"{said} is above {high:.4g} {unit}"
        elif low is not None and size < low:
            outside = f"{said} does not prove at least {low:.4g} {unit}" if over else f"{said} is below {low:.4g} {unit}"
        return outside, said

    def accepts(self, value: float) -> bool:
        """Whether a measured value lies in the band."""
        return not self.fault(value)

"""What do strings under unlike suns give together? One diode and one resistance, through the points of the module's card.

The curve goes through open circuit, short circuit and maximum power at standard conditions. How steep its knee is follows from the number
of cells, which the open-circuit voltage tells within one or two; leakage is left out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

STC_C = 25.0
# Open-circuit voltage of a silicon cell at standard conditions, V, its thermal voltage times the ideality of a usual one, V.
CELL_V, KNEE_V = 0.69, 1.05 * 0.025693
GOLDEN = (math.sqrt(5) - 1) / 2
HALVINGS, NARROWINGS = 40, 48


class Panel(NamedTuple):
    """One module at standard conditions: volts, amperes, and how its voltage moves with temperature, 1/K."""

    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    per_k: float

    @property
    def knee_v(self) -> float:
        """Thermal voltage of all its cells, V."""
        return max(1, round(self.voc_v / CELL_V)) * KNEE_V

    @property
    def series_ohm(self) -> float:
        """The resistance with which the curve passes through maximum power, ohm; none where the knee alone passes lower."""
        return max(0.0, (self.voc_v - self.vmp_v + self.knee_v * math.log(1 - self.imp_a / self.isc_a)) / self.imp_a)


def _volts(p: Panel, amps: float, sun: float, cell_c: float) -> float:
    open_v = p.voc_v * (1 + p.per_k * (cell_c - STC_C))
    return open_v + p.knee_v * math.log(sun - amps / p.isc_a) - amps * p.series_ohm


def current_a(p: Panel, volts: float, sun: float, cell_c: float) -> float:
    """Current of a module at a voltage, A, under a share of full sun; negative where others drive it."""
    low, high = -10 * p.isc_a, sun * p.isc_a * (1 - 1e-12)
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        low, high = (middle, high) if _volts(p, middle, sun, cell_c) > volts else (low, middle)
    return (low + high) / 2


def most_w(p: Panel, suns: Sequence[tuple[float, float]]) -> float:
    """Largest power at one common voltage of modules, each under its sun at its cell temperature (share of full sun, °C), W."""

    def power(volts: float) -> float:
        return volts * sum(current_a(p, volts, sun, cell) for sun, cell in suns)

    # The sum of concave curves is one, so that its power has a single top.
    low, high = 0.0, p.voc_v * max(1 + p.per_k * (cell - STC_C) for _, cell in suns)
    for _ in range(NARROWINGS):
        one, two = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
        low, high = (one, high) if power(one) < power(two) else (low, two)
    return power((low + high) / 2)


def lost_share(p: Panel, suns: Sequence[tuple[float, float]]) -> float:
    """Share of the power of modules, each at its own best voltage, that is lost at one common voltage."""
    apart = sum(most_w(p, [sun]) for sun in suns)
    return max(0.0, 1 - most_w(p, suns) / apart)

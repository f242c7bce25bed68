"""What a current transformer may be wired to, and what it then reads."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, NamedTuple

Leg = Literal["L1", "L2", "L3"]


Reference = Literal["own leg", "L1", "L2", "L3", "none"]


# Angle of each leg's voltage, degrees.
ANGLES: dict[str, dict[Leg, float]] = {
    "single phase": {"L1": 0.0},
    "split phase": {"L1": 0.0, "L2": 180.0},
    "three phase": {"L1": 0.0, "L2": -120.0, "L3": 120.0},
}


class Core(NamedTuple):
    """How one CT sits: the conductors through it, its arrow, and whether anything comes of it."""

    legs: tuple[Leg, ...]
    reversed: bool = False
    share: float = 1.0


@dataclass(frozen=True, slots=True)
class Channel:
    """A channel of the meter: the leg it is to measure and the voltage it multiplies with."""

    id: str
    leg: Leg
    reference: Reference = "own leg"


@dataclass(frozen=True, slots=True)
class MeterTest:
    """One switching of known loads: watts by leg, and what each channel showed before and after."""

    loads_w: Mapping[str, float]
    before_w: Mapping[str, float]
    after_w: Mapping[str, float]
    power_factor: float = 1.0

    def change_w(self, channel: str) -> float:
        """What the loads changed on a channel: the house's own load is in both readings and drops out."""
        return self.after_w[channel] - self.before_w.get(channel, 0.0)


# By channel, the tests that speak of it as its core sits now.
Tests = Mapping[str, Sequence[MeterTest]]


def telling(channel: Channel, tests: Sequence[MeterTest]) -> MeterTest:
    """The test that says most of a channel: that with the most load on its own leg, the latest of several."""
    return max(reversed(tests), key=lambda test: test.loads_w.get(channel.leg, 0.0))


def expected_w(channel: Channel, core: Core, loads_w: Mapping[str, float], power_factor: float, output: str) -> float:
    """What a channel shows of loads in W on each leg, lagging at a power factor above 0 to 1."""
    angles = ANGLES[output]
    lag = math.acos(power_factor)
    sign = -1.0 if core.reversed else 1.0
    total = 0.0
    for leg in core.legs:
        apparent = loads_w.get(leg, 0.0) / power_factor
        if channel.reference == "none":
            total += apparent
            continue
        reference = angles[channel.leg if channel.reference == "own leg" else channel.reference]
        total += apparent * math.cos(math.radians(reference - angles[leg]) + lag)
    return sign * core.share * total


def expected(
    channels: Sequence[Channel], wiring: Mapping[str, Core], loads_w: Mapping[str, float], power_factor: float, output: str
) -> dict[str, float]:
    """What every channel shows for one wiring."""
    return {c.id: expected_w(c, wiring[c.id], loads_w, power_factor, output) for c in channels}

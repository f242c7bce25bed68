"""What could be so, ranked by how near what it would show comes to what was seen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.sim.ct_readings.parts import ANGLES, Channel, Core, Leg, MeterTest, expected_w
from gumboot.core.sim.ct_readings.wirings import odd_cores, off_by, part_cores, plain_cores

# Beside what fits so many more are told: enough to see that none of them comes near.
NEAREST = 3


class Shown(NamedTuple):
    """What a core would show of a load, and what was seen of it, W. ``on`` names the legs that it was on."""

    on: str
    predicted_w: float
    seen_w: float


class Cause(NamedTuple):
    """One way in which a core may sit: in words, what it would show in each test beside what was seen, and how far off that is.

    ``off`` is in shares of what may come and go in a house, the worst of all tests: 1 is as far as it may be.
    """

    core: Core
    words: str
    shown: tuple[Shown, ...]
    off: float

    @property
    def fits(self) -> bool:
        """Whether it explains every reading."""
        return self.off <= 1


def core_words(core: Core, leg: Leg) -> str:
    """How a core sits, in words; ``leg`` is where it belongs."""
    turned = "arrow the other way" if core.reversed else "arrow as the card says"
    if core.share == 0:
        return "shows nothing: plug not home, or channel off"
    if len(core.legs) > 1:
        return f"round {' and '.join(core.legs)}, {turned}"
    where = f"on {core.legs[0]}" if core.legs[0] == leg else f"on {core.legs[0]}, where it does not belong"
    share = f", showing {core.share:g} times the load: core not closed, or ratio wrong" if core.share != 1 else ""
    return f"{where}, {turned}{share}"


def _shown(channel: Channel, core: Core, test: MeterTest, output: str) -> Shown:
    on = " and ".join(leg for leg, watts in test.loads_w.items() if watts)
    return Shown(on, expected_w(channel, core, test.loads_w, test.power_factor, output), test.change_w(channel.id))


def causes_of(channel: Channel, tests: Sequence[MeterTest], output: str) -> tuple[Cause, ...]:
    """Everything that fits, then what comes nearest, each with what it would show."""
    legs = tuple(ANGLES[output])
    found = []
    for core in dict.fromkeys((*plain_cores(legs), *odd_cores(channel, output), *part_cores(channel, legs, tests, output))):
        shown = tuple(_shown(channel, core, test, output) for test in tests)
        off = max(off_by(channel, core, test, output) for test in tests)
        found.append(Cause(core, core_words(core, channel.leg), shown, off))
    # Of what fits the usual stays before the rare, and another ratio is told only where nothing of the right one fits; of what does not
    # fit, the nearest comes first.
    fits = [cause for cause in found if cause.fits]
    fits = [cause for cause in fits if cause.core.share in (0.0, 1.0)] or fits
    rest = sorted((cause for cause in found if not cause.fits), key=lambda cause: cause.off)
    return (*fits, *rest[:NEAREST])

"""Which wirings explain the readings?"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from gumboot.core.sim.ct_readings.parts import ANGLES, Channel, Core, Leg, MeterTest, Tests, expected_w

# A core that is not quite closed reads low, between these shares (common practice).
LOW_SHARES = (0.2, 0.85)


# A ratio that is set for another core reads high, by so much (common practice).
HIGH_SHARES = (1.3, 20.0)


def tolerance_w(load_w: float) -> float:
    """How far a change may lie from its load: a tenth of it and 60 W that come and go in a house (common practice)."""
    return 0.1 * abs(load_w) + 60.0


def off_by(channel: Channel, core: Core, test: MeterTest, output: str) -> float:
    """How far a reading is from what a wiring would show, in shares of what it may be off: 1 is the most."""
    want = expected_w(channel, core, test.loads_w, test.power_factor, output)
    through = sum(test.loads_w.get(leg, 0.0) for leg in core.legs) / test.power_factor
    return abs(test.change_w(channel.id) - want) / tolerance_w(core.share * through)


def explains(channel: Channel, core: Core, tests: Sequence[MeterTest], output: str) -> bool:
    """Whether a wiring explains every reading of a channel."""
    return all(off_by(channel, core, test, output) <= 1 for test in tests)


def plain_cores(legs: Sequence[Leg]) -> list[Core]:
    """One leg through the core, either way round."""
    return [Core((leg,), back) for leg in legs for back in (False, True)]


def odd_cores(channel: Channel, output: str) -> list[Core]:
    """One core that shows nothing, or that is closed round two conductors."""
    pairs = itertools.combinations(ANGLES[output], 2)
    return [Core((channel.leg,), share=0.0), *(Core(pair, back) for pair in pairs for back in (False, True))]


def part_cores(channel: Channel, legs: Sequence[Leg], tests: Sequence[MeterTest], output: str) -> list[Core]:
    """One core that shows a share of its load, the same in every test: it is not closed, or its ratio is another."""
    found: list[Core] = []
    for core in plain_cores(legs):
        shares = []
        for test in tests:
            want = expected_w(channel, core, test.loads_w, test.power_factor, output)
            if abs(want) > tolerance_w(0):
                shares.append(test.change_w(channel.id) / want)
        if shares and (
            all(LOW_SHARES[0] <= s <= LOW_SHARES[1] for s in shares) or all(HIGH_SHARES[0] <= s <= HIGH_SHARES[1] for s in shares)
        ):
            found.append(Core(core.legs, core.reversed, round(sum(shares) / len(shares), 2)))
    return found


def rare_cores(channel: Channel, legs: Sequence[Leg], tests: Sequence[MeterTest], output: str) -> list[Core]:
    """What else may be wrong with one core, most usual first: not closed, plug not home, around two conductors."""
    odd = (core for core in odd_cores(channel, output) if explains(channel, core, tests, output))
    return [*part_cores(channel, legs, tests, output), *odd]


def settled_legs(channels: Sequence[Channel], but: Channel, tests: Tests, output: str) -> set[Leg]:
    """Conductors on which another core sits for certain."""
    found: set[Leg] = set()
    for channel in channels:
        plain = [core for core in plain_cores(tuple(ANGLES[output])) if explains(channel, core, tests[channel.id], output)]
        if channel is not but and len(plain) == 1:
            found |= set(plain[0].legs)
    return found


def wirings(channels: Sequence[Channel], tests: Tests, output: str) -> list[dict[str, Core]]:
    """Every way the cores may sit, each on a conductor of its own, that fits all the tests; two on one conductor only where nothing else does."""
    legs: tuple[Leg, ...] = tuple(ANGLES[output])
    each = [[core for core in plain_cores(legs) if explains(c, core, tests[c.id], output)] for c in channels]
    every = [dict(zip((c.id for c in channels), cores, strict=True)) for cores in itertools.product(*each)]
    apart = [w for w in every if len({core.legs for core in w.values()}) == len(w)]
    return apart or every

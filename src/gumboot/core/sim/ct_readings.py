"""What does each CT channel show, and so: which way round, and on which conductor, does each CT sit?

A channel multiplies the current of its CT by a voltage reference of its own: that of the leg it is assigned to, one fixed leg, or none, when
it shows the current with a sign. With phasors, import positive: ``P = Re(V_ref conj(s I))``, s = -1 against the arrow (common practice).
So a CT that is merely on the other leg of a split phase shows minus that leg's load, on three phases about minus half of it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

Leg = Literal["L1", "L2", "L3"]
Reference = Literal["own leg", "L1", "L2", "L3", "none"]
# Angle of each leg's voltage, degrees.
ANGLES: dict[str, dict[Leg, float]] = {
    "single phase": {"L1": 0.0},
    "split phase": {"L1": 0.0, "L2": 180.0},
    "three phase": {"L1": 0.0, "L2": -120.0, "L3": 120.0},
}
# A core that is not quite closed reads low, between these shares (common practice).
LOW_SHARES = (0.2, 0.85)
# A ratio that is set for another core reads high, by so much (common practice).
HIGH_SHARES = (1.3, 20.0)
# The load that a next test switches on alone.
NEXT_LOAD_W = 1500.0


@dataclass(frozen=True, slots=True)
class Core:
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


@dataclass(frozen=True, slots=True)
class CtVerdict:
    """What the readings say of one channel.

    ``verdict`` is 'right', 'reversed', 'other leg', 'other leg and reversed', 'reads low', 'reads high', 'silent', 'two conductors', 'cannot tell' or 'none'.
    """

    channel: str
    expected_leg: Leg
    reading_w: float
    possible: tuple[Core, ...]
    verdict: str
    text: str


@dataclass(frozen=True, slots=True)
class MeterVerdict:
    """All channels, the one thing to do next, and the total that the inverter acts on beside the true one."""

    channels: tuple[CtVerdict, ...]
    instruction: str
    shown_total_w: float
    true_total_w: float
    next_leg: str = ""

    @property
    def right(self) -> bool:
        """Whether every channel is right."""
        return bool(self.channels) and all(c.verdict == "right" for c in self.channels)


def tolerance_w(load_w: float) -> float:
    """How far a change may lie from its load: a tenth of it and 60 W that come and go in a house (common practice)."""
    return 0.1 * abs(load_w) + 60.0


def _fits(channel: Channel, core: Core, tests: Sequence[MeterTest], output: str) -> bool:
    for test in tests:
        want = expected_w(channel, core, test.loads_w, test.power_factor, output)
        through = sum(test.loads_w.get(leg, 0.0) for leg in core.legs) / test.power_factor
        if abs(test.change_w(channel.id) - want) > tolerance_w(core.share * through):
            return False
    return True


def _word(core: Core, leg: Leg) -> str:
    if core.share == 0:
        return "silent"
    if len(core.legs) > 1:
        return "two conductors"
    if core.share < 1:
        return "reads low"
    if core.share > 1:
        return "reads high"
    if core.legs[0] == leg:
        return "reversed" if core.reversed else "right"
    return "other leg and reversed" if core.reversed else "other leg"


def _plain(legs: Sequence[Leg]) -> list[Core]:
    return [Core((leg,), back) for leg in legs for back in (False, True)]


def _rare(channel: Channel, legs: Sequence[Leg], tests: Sequence[MeterTest], output: str) -> list[Core]:
    """What else may be wrong with one core, most usual first: not closed, plug not home, around two conductors."""
    found: list[Core] = []
    for core in _plain(legs):
        shares = []
        for test in tests:
            want = expected_w(channel, core, test.loads_w, test.power_factor, output)
            if abs(want) > tolerance_w(0):
                shares.append(test.change_w(channel.id) / want)
        if shares and (
            all(LOW_SHARES[0] <= s <= LOW_SHARES[1] for s in shares) or all(HIGH_SHARES[0] <= s <= HIGH_SHARES[1] for s in shares)
        ):
            found.append(Core(core.legs, core.reversed, round(sum(shares) / len(shares), 2)))
    silent = Core((channel.leg,), share=0.0)
    pairs = [Core(pair, back) for pair in itertools.combinations(ANGLES[output], 2) for back in (False, True)]
    return [*found, *(c for c in (silent, *pairs) if _fits(channel, c, tests, output))]


def _settled(channels: Sequence[Channel], but: Channel, tests: Sequence[MeterTest], output: str) -> set[Leg]:
    """Conductors on which another core sits for certain."""
    found: set[Leg] = set()
    for channel in channels:
        plain = [core for core in _plain(tuple(ANGLES[output])) if _fits(channel, core, tests, output)]
        if channel is not but and len(plain) == 1:
            found |= set(plain[0].legs)
    return found


def wirings(channels: Sequence[Channel], tests: Sequence[MeterTest], output: str) -> list[dict[str, Core]]:
    """Every way the cores may sit, each on a conductor of its own, that fits all the tests; two on one conductor only where nothing else does."""
    legs: tuple[Leg, ...] = tuple(ANGLES[output])
    each = [[core for core in _plain(legs) if _fits(c, core, tests, output)] for c in channels]
    every = [dict(zip((c.id for c in channels), cores, strict=True)) for cores in itertools.product(*each)]
    apart = [w for w in every if len({core.legs for core in w.values()}) == len(w)]
    return apart or every


def solve(channels: Sequence[Channel], tests: Sequence[MeterTest], output: str) -> MeterVerdict:
    """Judge every channel from tests with PV off; where more than one wiring fits, the answer is that the readings cannot tell."""
    last, legs = tests[-1], tuple(ANGLES[output])
    fitting = wirings(channels, tests, output)
    judged = []
    for channel in channels:
        cores = tuple(dict.fromkeys(w[channel.id] for w in fitting))
        if not cores:
            plain = [core for core in _plain(legs) if _fits(channel, core, tests, output)]
            free = tuple(leg for leg in legs if leg not in _settled(channels, channel, tests, output))
            cores = tuple(plain or _rare(channel, free, tests, output))
        judged.append(_judge(channel, last.change_w(channel.id), cores))
    shown = sum(last.change_w(c.id) for c in channels)
    true = sum(last.loads_w.get(leg, 0.0) for leg in legs)
    unsure = any(v.verdict == "cannot tell" for v in judged)
    next_leg = _next_leg(channels, judged, last, output) if unsure else ""
    return MeterVerdict(tuple(judged), _instruction(judged, next_leg), shown, true, next_leg)


def _judge(channel: Channel, reading: float, possible: tuple[Core, ...]) -> CtVerdict:
    words = sorted({_word(c, channel.leg) for c in possible})
    places = {(c.legs, c.reversed) for c in possible}
    name, leg = channel.id, channel.leg
    if not words:
        said = f"the change of {reading:.0f} W fits no place of {name}: a load that changed, PV still on, a ratio set wrong, or a core behind a load."
        return CtVerdict(name, leg, reading, possible, "none", said)
    if len(words) > 1 or (len(places) > 1 and words[0] in ("other leg", "other leg and reversed", "two conductors")):
        said = f"{name} could be {' or '.join(_sits(c, leg) for c in possible)}."
        return CtVerdict(name, leg, reading, possible, "cannot tell", said)
    core = possible[0]
    text = {
        "right": f"{name} is right: on {leg}, arrow as the card says.",
        "reversed": f"{name} is on {leg} but its arrow points the other way.",
        "other leg": f"{name} sits on {core.legs[0]}, its arrow as the card says; it belongs on {leg}.",
        "other leg and reversed": f"{name} sits on {core.legs[0]} and its arrow points the other way; it belongs on {leg}.",
        "reads low": f"{name} shows only {100 * core.share:.0f} %: its core is not quite closed, or its ratio is set wrong.",
        "reads high": f"{name} shows {core.share:g} times the load: its ratio or the meter's model is set wrong.",
        "silent": f"{name} shows nothing of the load: its plug is not home, or its channel is off.",
        "two conductors": f"{name} goes round {' and '.join(core.legs)}: one conductor only.",
    }[words[0]]
    return CtVerdict(name, leg, reading, possible, words[0], text)


def _sits(core: Core, leg: Leg) -> str:
    word = _word(core, leg)
    if word == "other leg":
        return f"on {core.legs[0]}"
    return f"on {core.legs[0]} and reversed" if word == "other leg and reversed" else word


def _next_leg(channels: Sequence[Channel], judged: Sequence[CtVerdict], last: MeterTest, output: str) -> str:
    """The leg whose load, switched on alone, tells most of what is still open apart; empty when none does."""
    best, told = "", 0
    for leg in ANGLES[output]:
        parted = 0
        for channel, verdict in zip(channels, judged, strict=True):
            values = sorted(expected_w(channel, c, {leg: NEXT_LOAD_W}, last.power_factor, output) for c in verdict.possible)
            parted += sum(b - a > 2 * tolerance_w(NEXT_LOAD_W) for a, b in itertools.pairwise(values))
        if parted > told:
            best, told = leg, parted
    return best


def _instruction(judged: Sequence[CtVerdict], next_leg: str) -> str:
    """One thing to do, then the test again: a core that is moved and turned at once stays wrong where one of both was right."""
    by_word = {
        word: [v for v in judged if v.verdict == word]
        for word in ("none", "cannot tell", "silent", "two conductors", "reads low", "reads high", "reversed")
    }
    if all(v.verdict == "right" for v in judged):
        return "Nothing to do."
    if by_word["cannot tell"]:
        if next_leg:
            return f"Touch nothing yet: switch about {NEXT_LOAD_W:.0f} W on {next_leg} alone, the others off, and record that as the next test."
        return "Touch nothing yet: no single load would tell; make the test loads differ more, each above 200 W, and test again."
    moved = [v for v in judged if v.verdict in ("other leg", "other leg and reversed")]
    for one, other in itertools.combinations(moved, 2):
        if one.possible[0].legs == (other.expected_leg,) and other.possible[0].legs == (one.expected_leg,):
            return f"Exchange {one.channel} and {other.channel}; leave both arrows as they point. Then test again."
    if by_word["silent"]:
        return f"Look at {by_word['silent'][0].channel}: plug home, channel on. Then test again."
    if by_word["two conductors"]:
        return f"Put {by_word['two conductors'][0].channel} round {by_word['two conductors'][0].expected_leg} alone. Then test again."
    if moved:
        return f"Move {moved[0].channel} to {moved[0].expected_leg}; leave its arrow as it points. Then test again."
    if by_word["reversed"]:
        return f"Turn {by_word['reversed'][0].channel} round; leave it on {by_word['reversed'][0].expected_leg}. Then test again."
    if by_word["reads low"]:
        return f"Close {by_word['reads low'][0].channel} until it clicks, and compare its ratio with the meter's setting. Then test again."
    if by_word["reads high"]:
        return f"Set the ratio of {by_word['reads high'][0].channel} at the meter as its core's plate says. Then test again."
    return "Make the test again: PV off, battery idle, nothing else switching meanwhile."

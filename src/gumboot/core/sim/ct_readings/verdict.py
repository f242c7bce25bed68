"""What the readings say of each transformer, and what to do next."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

from gumboot.core.sim.ct_readings.causes import Cause, causes_of
from gumboot.core.sim.ct_readings.parts import ANGLES, Channel, Core, Leg, MeterTest, expected_w
from gumboot.core.sim.ct_readings.wirings import explains, plain_cores, rare_cores, settled_legs, tolerance_w, wirings

# The load that a next test switches on alone.
NEXT_LOAD_W = 1500.0


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
    causes: tuple[Cause, ...] = ()


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


def solve(channels: Sequence[Channel], tests: Sequence[MeterTest], output: str) -> MeterVerdict:
    """Judge every channel from tests with PV off; where more than one wiring fits, the answer is that the readings cannot tell."""
    last, legs = tests[-1], tuple(ANGLES[output])
    fitting = wirings(channels, tests, output)
    judged = []
    for channel in channels:
        cores = tuple(dict.fromkeys(w[channel.id] for w in fitting))
        if not cores:
            plain = [core for core in plain_cores(legs) if explains(channel, core, tests, output)]
            free = tuple(leg for leg in legs if leg not in settled_legs(channels, channel, tests, output))
            cores = tuple(plain or rare_cores(channel, free, tests, output))
        told = _judge(channel, last.change_w(channel.id), cores)
        judged.append(replace(told, causes=causes_of(channel, tests, output)))
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

"""What the readings say of each transformer, and what to do next."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

from gumboot.core.sim.ct_readings.causes import Cause, causes_of
from gumboot.core.sim.ct_readings.parts import ANGLES, Channel, Core, Leg, Tests, expected_w, telling
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
    """All channels, the one thing to do next, and the total that the inverter acts on beside the true one.

    ``concerns`` are the channels whose cores the instruction touches: they are tested again, the others stay as they were found. Without any, all
    are tested.
    """

    channels: tuple[CtVerdict, ...]
    instruction: str
    shown_total_w: float
    true_total_w: float
    next_leg: str = ""
    concerns: tuple[str, ...] = ()

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


def solve(channels: Sequence[Channel], tests: Tests, output: str) -> MeterVerdict:
    """Judge every channel from tests with PV off; where more than one wiring fits, the answer is that the readings cannot tell."""
    legs = tuple(ANGLES[output])
    tested = [channel for channel in channels if tests[channel.id]]
    fitting = wirings(tested, tests, output)
    judged = []
    for channel in channels:
        own = tests[channel.id]
        if not own:
            judged.append(CtVerdict(channel.id, channel.leg, 0.0, (), "none", f"{channel.id} has not been tested."))
            continue
        cores = tuple(dict.fromkeys(w[channel.id] for w in fitting))
        if not cores:
            plain = [core for core in plain_cores(legs) if explains(channel, core, own, output)]
            free = tuple(leg for leg in legs if leg not in settled_legs(tested, channel, tests, output))
            cores = tuple(plain or rare_cores(channel, free, own, output))
        told = _judge(channel, telling(channel, own).change_w(channel.id), cores)
        judged.append(replace(told, causes=causes_of(channel, own, output)))
    unsure = any(v.verdict == "cannot tell" for v in judged)
    next_leg = _next_leg(channels, judged, tests, output) if unsure else ""
    instruction, concerns = _instruction(judged, next_leg)
    shown, true = _totals(tests)
    return MeterVerdict(tuple(judged), instruction, shown, true, next_leg, concerns)


def _totals(tests: Tests) -> tuple[float, float]:
    """What all channels changed by, and what was switched on, W: of what was switched on alike the latest."""
    shown, loads = dict[tuple[str, frozenset[str]], float](), dict[frozenset[str], float]()
    for channel, own in tests.items():
        for test in own:
            on = frozenset(leg for leg, watts in test.loads_w.items() if watts)
            shown[channel, on], loads[on] = test.change_w(channel), sum(test.loads_w.values())
    return sum(shown.values()), sum(loads.values())


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


def _next_leg(channels: Sequence[Channel], judged: Sequence[CtVerdict], tests: Tests, output: str) -> str:
    """The leg whose load, switched on alone, tells most of what is still open apart; empty when none does."""
    best, told = "", 0
    for leg in ANGLES[output]:
        parted = 0
        for channel, verdict in zip(channels, judged, strict=True):
            factor = next((test.power_factor for test in reversed(tests[channel.id])), 1.0)
            values = sorted(expected_w(channel, c, {leg: NEXT_LOAD_W}, factor, output) for c in verdict.possible)
            parted += sum(b - a > 2 * tolerance_w(NEXT_LOAD_W) for a, b in itertools.pairwise(values))
        if parted > told:
            best, told = leg, parted
    return best


def _instruction(judged: Sequence[CtVerdict], next_leg: str) -> tuple[str, tuple[str, ...]]:
    """One thing to do, then the test again, and the channels that it touches: a core that is moved and turned at once stays wrong where one of
    both was right.
    """
    by_word = {word: [v for v in judged if v.verdict == word] for word in ("none", "cannot tell", *_CURES)}
    if all(v.verdict == "right" for v in judged):
        return "Nothing to do.", ()
    if by_word["cannot tell"]:
        if next_leg:
            return f"Touch nothing yet: test again with about {NEXT_LOAD_W:.0f} W on {next_leg} alone, the others off.", ()
        return "Touch nothing yet: no single load would tell; make each load larger than 200 W, and test again.", ()
    moved = [v for v in judged if v.verdict in ("other leg", "other leg and reversed")]
    for one, other in itertools.combinations(moved, 2):
        if one.possible[0].legs == (other.expected_leg,) and other.possible[0].legs == (one.expected_leg,):
            both = one.channel, other.channel
            return f"Exchange {one.channel} and {other.channel}; leave both arrows as they point. Then test both again.", both
    for word, cure in _CURES.items():
        if found := by_word[word] or (moved if word == "other leg" else []):
            return f"{cure.format(channel=found[0].channel, leg=found[0].expected_leg)}. Then test {found[0].channel} again.", (
                found[0].channel,
            )
    return "Make the test again: PV off, battery idle, nothing else switching meanwhile.", ()


# What is done about each fault, the first of them first.
_CURES = {
    "silent": "Look at {channel}: plug home, channel on",
    "two conductors": "Put {channel} round {leg} alone",
    "other leg": "Move {channel} to {leg}; leave its arrow as it points",
    "reversed": "Turn {channel} round; leave it on {leg}",
    "reads low": "Close {channel} until it clicks, and compare its ratio with the meter's setting",
    "reads high": "Set the ratio of {channel} at the meter as its core's plate says",
}

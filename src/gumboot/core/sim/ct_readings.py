"""Which way round, and on which leg, does each CT sit, given what the display shows?"""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

Leg = Literal["L1", "L2", "L3"]


@dataclass(frozen=True, slots=True)
class Hypothesis:
    """One way a CT may sit: on a leg, right way round or reversed."""

    leg: Leg
    reversed: bool

    def reads_w(self, loads_w: Mapping[str, float]) -> float:
        """What the display would show, import positive, in W."""
        return (-1.0 if self.reversed else 1.0) * loads_w[self.leg]


@dataclass(frozen=True, slots=True)
class CtVerdict:
    """What the readings say of one channel. ``verdict`` is 'right', 'reversed', 'other leg', 'other leg and reversed', 'cannot tell' or 'none'."""

    channel: str
    expected_leg: Leg
    reading_w: float
    possible: tuple[Hypothesis, ...]
    verdict: str
    text: str


def tolerance_w(load_w: float) -> float:
    """How far a reading may lie from its load: a tenth of it and 60 W of what stands by in a house (common practice)."""
    return 0.1 * abs(load_w) + 60.0


def _word(h: Hypothesis, expected: Leg) -> str:
    if h.leg == expected:
        return "reversed" if h.reversed else "right"
    return "other leg and reversed" if h.reversed else "other leg"


def solve(readings_w: Mapping[str, float], legs: Mapping[str, Leg], loads_w: Mapping[str, float]) -> tuple[CtVerdict, ...]:
    """Judge each channel from one reading, with known loads per leg and PV off.

    Two CTs cannot sit on one leg, so sets of hypotheses that share a leg are struck out; where more than
    one remains, the answer is that the readings cannot tell, never a guess.
    """
    fits: dict[str, list[Hypothesis]] = {}
    present: Sequence[Leg] = tuple(dict.fromkeys(legs.values()))
    for channel, reading in readings_w.items():
        every = [Hypothesis(leg, rev) for leg in present for rev in (False, True)]
        fits[channel] = [h for h in every if abs(reading - h.reads_w(loads_w)) <= tolerance_w(loads_w[h.leg])]
    channels = list(readings_w)
    if len(channels) > 1:
        # Two CTs cannot sit on one leg.
        whole = [c for c in itertools.product(*fits.values()) if len({h.leg for h in c}) == len(channels)]
        if whole:
            fits = {channel: [h for h in fits[channel] if any(c[i] == h for c in whole)] for i, channel in enumerate(channels)}
    return tuple(_judge(c, legs[c], readings_w[c], tuple(fits[c])) for c in channels)


def _judge(channel: str, expected: Leg, reading: float, possible: tuple[Hypothesis, ...]) -> CtVerdict:
    words = sorted({_word(h, expected) for h in possible})
    if not words:
        return CtVerdict(
            channel,
            expected,
            reading,
            possible,
            "none",
            f"{reading:.0f} W fits no place of {channel}: look for an open core, a load that changed, or PV still on.",
        )
    if len(words) > 1:
        return CtVerdict(
            channel,
            expected,
            reading,
            possible,
            "cannot tell",
            f"{channel} could be {' or '.join(words)}: make the two test loads differ more, and both above 200 W.",
        )
    text = {
        "right": f"{channel} is right: on {expected}, arrow as the card says.",
        "reversed": f"{channel} is on {expected} but reversed: turn the core round.",
        "other leg": f"{channel} sits on the other leg: move it to {expected}.",
        "other leg and reversed": f"{channel} sits on the other leg and reversed: move it to {expected} and turn it round.",
    }[words[0]]
    return CtVerdict(channel, expected, reading, possible, words[0], text)

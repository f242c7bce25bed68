"""What a resistance across a dead bus, or the voltages of one at rest, say of it (common practice; ISO 11898-2 from memory)."""

from __future__ import annotations

TERMINATOR_OHM = 120.0
# A tenth either way: terminators, cores and the meter together.
SHARE = 0.1
# Beyond this nothing but an open line is left.
OPEN_OHM = 1000.0
SHORT_OHM = 5.0
# More terminators than anybody fits: such a resistance has another cause.
MOST_ENDS = 8
# A receiver of RS-485 takes less than this between its cores for anything (TIA-485-A).
CLEAR_V = 0.2


def told_by_ohm(ohm: float) -> str:
    """What the resistance across a dead pair says, both ends being meant to carry 120 ohm. A negative one is no resistance."""
    if ohm < 0:
        return "A resistance is never negative: the bus is live, or the meter stands on volts. Switch everything on it off first."
    if ohm < SHORT_OHM:
        return "The two cores touch: look for a strand at a plug, a bridged terminal, a nail."
    if ohm > OPEN_OHM:
        return "No terminator is seen: the meter is not on the pair, a plug is out, or neither end is terminated."
    ends = round(TERMINATOR_OHM / ohm)
    if 0 < ends <= MOST_ENDS and abs(ohm - TERMINATOR_OHM / ends) <= SHARE * TERMINATOR_OHM / ends:
        if ends == 1:
            return "One terminator is seen: the other end has none, or the line is open between the two."
        if ends > 2:
            return f"{ends} terminators are seen, {ends - 2} too many: one sits in the middle, or is switched on in a unit that is no end."
        return "Both ends are terminated and the line between them is whole."
    return "No number of 120 ohm terminators makes this: a poor contact, a terminator of another value, or a device that loads the pair."


def told_by_volts(bus: str, high_v: float, low_v: float) -> str:
    """What the two cores of a powered bus at rest say, each measured against the reference: H and L of CAN, A and B of RS-485."""
    apart = high_v - low_v
    if abs(high_v) < CLEAR_V and abs(low_v) < CLEAR_V:
        return "Nothing drives the bus: no unit on it is awake, or the reference is not joined."
    if bus == "CAN":
        if max(high_v, low_v) > 4:
            return "A core stands near the supply: it touches a feed, or sits on the wrong pin."
        if min(high_v, low_v) < 1:
            return "A core stands near the reference: it touches it, or sits on the wrong pin."
        if apart < -CLEAR_V:
            return "L stands above H: the two cores are exchanged."
        if apart > CLEAR_V:
            return "H stands above L: the bus talks, as a live one does."
        return "Both cores stand together near 2.5 V: the bus is awake and silent."
    if apart < -CLEAR_V:
        return "B stands above A: the two cores are exchanged, or the maker calls them the other way round."
    if apart > CLEAR_V:
        return "A stands above B: the line has its bias and rests as it should."
    return "A and B stand within 0.2 V: the line has no bias, and its receivers may take noise for data."

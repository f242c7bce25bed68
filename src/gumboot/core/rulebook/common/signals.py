"""Which signals of two data sockets are one and the same, which of them a bus cannot do without, and how far a bus reaches."""

from __future__ import annotations

import re
from collections.abc import Iterable

from gumboot.core.rulebook.loader import read_table

# Names that makers print, without what stands between their letters, by what they mean.
_NAMES: dict[str, str] = {
    **dict.fromkeys(("CANH", "CANHI", "CANHIGH", "H", "HIGH"), "CAN H"),
    **dict.fromkeys(("CANL", "CANLO", "CANLOW", "L", "LOW"), "CAN L"),
    **dict.fromkeys(("RS485A", "485A", "A", "DATAA"), "RS-485 A"),
    **dict.fromkeys(("RS485B", "485B", "B", "DATAB"), "RS-485 B"),
    **dict.fromkeys(("GND", "CANGND", "RS485GND", "COM", "SG", "0V", "DCGND", "REF"), "GND"),
    **dict.fromkeys(("EN", "ENABLE", "WAKE", "WAKEUP"), "ENABLE"),
}
PAIRS: dict[str, tuple[str, str]] = {"CAN": ("CAN H", "CAN L"), "RS-485": ("RS-485 A", "RS-485 B")}
# What may end in the plug: references, screens, what nobody connects, and what feeds something small.
_MAY_END = frozenset({"GND", "PE", "SHIELD", "SCREEN", "DRAIN", "NC", "NONE", "RESERVED", "SPARE"})
# Cores of one twisted pair in an eight-way plug, T568A and T568B alike (ANSI/TIA-568).
TWISTED = (frozenset({1, 2}), frozenset({3, 6}), frozenset({4, 5}), frozenset({7, 8}))
_REACH = {(row["bus"], float(row["kbit_s"])): float(row["reach_m"]) for row in read_table("common/tables/bus_reach.csv")}


def meaning(signal: str) -> str:
    """A signal as its socket prints it, by what it means: CANH, CAN-H and CAN H are one."""
    letters = re.sub(r"[^A-Z0-9+]", "", signal.upper())
    return _NAMES.get(letters, signal.upper().strip())


def may_end(signal: str, bus: str) -> bool:
    """Whether a signal may stand at one end only: a reference, a screen, or the pair of a bus that is not spoken."""
    others = {name for spoken, pair in PAIRS.items() if spoken != bus for name in pair}
    means = meaning(signal)
    return means in _MAY_END or means in others or re.sub(r"[^A-Z]", "", means) in _MAY_END or bool(re.match(r"^\+?\d+ ?V\b", means))


def left_out(first: Iterable[str], second: Iterable[str], bus: str) -> list[tuple[str, int]]:
    """Signals that the link needs and one socket lacks: the name, and which socket has it (1, 2, or 0 where neither has)."""
    one, two = {meaning(s) for s in first}, {meaning(s) for s in second}
    wanted = [*PAIRS.get(bus, ()), *sorted(s for s in one ^ two if not may_end(s, bus))]
    found = dict.fromkeys(s for s in wanted if s not in one or s not in two)
    return [(s, 1 if s in one else 2 if s in two else 0) for s in found]


def is_pair(pins: Iterable[int]) -> bool:
    """Whether two pins of an eight-way plug carry one twisted pair of a ready-made lead."""
    return frozenset(pins) in TWISTED


def reach_m(bus: str, kbit_s: float) -> float | None:
    """How far a bus reaches at a speed: the reach at the next higher speed that the table has; None beyond it."""
    return min(((speed, m) for (name, speed), m in _REACH.items() if name == bus and speed >= kbit_s), default=(0.0, None))[1]

"""May this source join this supply: notification, phase imbalance, main switch?"""

from __future__ import annotations

from collections.abc import Sequence


def notification_only(current_a: float, limit_a: float) -> bool:
    """Whether a source is in the connect-and-tell class: at most 16 A per phase (EN 50549-1 scope, EN 50438)."""
    return current_a <= limit_a + 1e-9


def imbalance_a(phase_currents_a: Sequence[float]) -> float:
    """Largest difference in A between phases of what is fed in (AS/NZS 4777.1 2.4)."""
    return max(phase_currents_a) - min(phase_currents_a)


def board_current_a(main_a: float, sources_a: Sequence[float]) -> float:
    """Sum in A that the board's busbar and main switch may see, supply and sources together (IEC 60364-7-712, 551.7.2)."""
    return main_a + sum(sources_a)

"""May this source join this supply: phase imbalance, main switch?"""

from __future__ import annotations

from gumboot.core.expression import Amount, Expression, largest, least


def imbalance_a(*phase_currents_a: Expression | float) -> Expression | float:
    """Largest difference in A between phases of what is fed in (AS/NZS 4777.1 2.4)."""
    return largest(*phase_currents_a) - least(*phase_currents_a)


def board_current_a(main_a: Amount, sources_a: Amount) -> Amount:
    """Sum in A that the board's busbar and main switch may see, supply and sources together (IEC 60364-7-712, 551.7.2)."""
    return main_a + sources_a

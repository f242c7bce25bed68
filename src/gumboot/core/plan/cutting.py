"""How long is a cable cut?"""

from __future__ import annotations

from gumboot.core.expression import Expression
from gumboot.core.figure import Figure

# Free ends inside two boxes, common practice: enough to reach the farthest terminal and leave a service loop.
TAIL_M = 0.3


def cut_m(length: Figure, slack_pct: Figure) -> Expression:
    """Length to cut in m: the way with its slack, and a free end in each of two boxes."""
    return length * (1 + slack_pct / 100) + 2 * TAIL_M

"""What the station Prove is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.plan.prove import Check
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class ProveView:
    """The station Prove: its checks in order, and the next that is open."""

    checks: list[Check]
    next: Check | None


def view_of(b: Bench) -> ProveView:
    """The station as its page needs it."""
    checks = list(b.plan.proved)
    return ProveView(checks, next((c for c in checks if not b.standing.checks[c.id].good), None))

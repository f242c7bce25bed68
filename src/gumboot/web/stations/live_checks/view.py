"""What the station Live checks is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.plan.prove import Check
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class LiveChecksView:
    """The station Live checks."""

    checks: list[Check]


def view_of(b: Bench) -> LiveChecksView:
    """The station as its page needs it."""
    return LiveChecksView(list(b.plan.live_checks))

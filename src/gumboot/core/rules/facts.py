"""What a rule is asked about."""

from __future__ import annotations

from gumboot.core.record import Record


class Facts(Record):
    """The facts that one rule judges, or several."""

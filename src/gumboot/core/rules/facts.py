"""What a rule is asked about."""

from __future__ import annotations

from gumboot.core.values import Values


class Facts(Values):
    """The facts that one rule judges, or several."""

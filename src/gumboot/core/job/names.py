"""Names that a title gives: short, plain, and not among those taken."""

from __future__ import annotations

import re
from collections.abc import Collection


def slug(title: str, taken: Collection[str], stem: str = "load", most: int = 30) -> str:
    """An id from a title, of at most ``most`` letters before its number; ``stem`` where the title has none."""
    base = re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:most] or stem
    return next(name for name in (base, *(f"{base}-{n}" for n in range(2, 10_000))) if name not in taken)

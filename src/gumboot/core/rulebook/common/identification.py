"""Which colour has each conductor?"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from gumboot.core.errors import NotInTable
from gumboot.core.rulebook.loader import read_table


@dataclass(frozen=True, slots=True)
class Identification:
    """Colour of one conductor role, another that is allowed, and where that stands."""

    role: str
    colour: str
    also: str
    source: str


_ROWS = read_table("common/tables/identification.csv")


@lru_cache(maxsize=256)
def identification(scheme: str, role: str) -> Identification:
    """Colour of a role under a scheme; a variant falls back to IEC 60445 only where its own rows are silent. Raises NotInTable."""
    for name in (scheme, *(("iec-60364",) if scheme != "nec" else ())):
        for row in _ROWS:
            if row["family"] == name and row["role"] == role:
                return Identification(role, row["colour"], row["also"], row["source"])
    raise NotInTable(
        "conductor role",
        role,
        "line1, line2, line3, neutral, earth, positive, negative",
        f"colours of {scheme}",
        "Name the conductor's role.",
    )

"""What the books say of raceways: the area that a conductor takes, the share that may be filled, and the usual kind."""

from __future__ import annotations

import math
from typing import Protocol

from gumboot.core.rulebook.books.wiring import Core
from gumboot.core.rulebook.books.wiring_iec import bare
from gumboot.core.rulebook.iec_family.raceway import outside_diameter_mm, space_factor
from gumboot.core.rulebook.north_american.raceway import FILL_NIPPLE, FILL_WIREWAY, fill_limit, insulated_area_mm2

BOXES = ("wireway", "trunking")
BUILDING_WIRE = ("THWN-2", "XHHW-2", "RHW-2")


class RacewayClauses(Protocol):
    """A family's clauses of raceways. Sources are keys of the register."""

    usual_kind: str
    bend_source: str
    wire_source: str

    def area_mm2(self, core: Core, size: str) -> float:
        """Outside area of an insulated conductor. Raises NotInTable."""

    def area_source(self, share_source: str) -> str:
        """Where the areas of conductors stand."""

    def share(self, kind: str, conductors: int, length_mm: float | None) -> tuple[float, str, str]:
        """Share of the inside that may be filled, its source, and what it holds for. Raises OutOfRange."""


class NecRaceways:
    """NEC Chapter 9 Tables 1, 4 and 5."""

    usual_kind, bend_source, wire_source = "EMT", "nec.ch9t2", "nec.ch9t1"

    def area_mm2(self, core: Core, size: str) -> float:
        """Chapter 9 Table 5; flexible cable as RHW-2."""
        fallback = "RHW-2" if core.cable == "flexible cable" else "THWN-2"
        # THWN has the dimensions of THWN-2; what may not lie in a raceway is told of by its own rule.
        return insulated_area_mm2(core.insulation if core.insulation in BUILDING_WIRE else fallback, size)

    def area_source(self, share_source: str) -> str:
        """Table 1 with Table 5."""
        return "nec.ch9t1"

    def share(self, kind: str, conductors: int, length_mm: float | None) -> tuple[float, str, str]:
        """Table 1 with Note 4, and 376.22 for a wireway."""
        if kind in BOXES:
            return FILL_WIREWAY, "nec.376.22", "A fifth of the cross-section."
        most = fill_limit(conductors, length_mm)
        return most, "nec.ch9t1", f"{conductors} conductors" + (", a nipple." if most == FILL_NIPPLE else ".")


class IecRaceways:
    """Common practice where IEC 61386 leaves it open."""

    usual_kind, bend_source, wire_source = "conduit", "cp.bend", "en.50525"

    def area_mm2(self, core: Core, size: str) -> float:
        """EN 50525-2-31 single cores."""
        return math.pi / 4 * outside_diameter_mm(bare(size)) ** 2

    def area_source(self, share_source: str) -> str:
        """Where the share stands."""
        return share_source

    def share(self, kind: str, conductors: int, length_mm: float | None) -> tuple[float, str, str]:
        """Space factors of straight runs and long bends."""
        return space_factor(kind in BOXES), "iec.trunking", "Straight runs and long bends."

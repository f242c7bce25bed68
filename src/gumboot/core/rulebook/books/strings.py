"""What the books say of PV strings: which clause caps the voltage, what a fuse must be, what a fire crew and the weather ask."""

from __future__ import annotations

from typing import Protocol

from gumboot.core.expression import Expression, least
from gumboot.core.figure import Figure
from gumboot.core.rulebook.iec_family import photovoltaic as iec
from gumboot.core.rulebook.north_american import photovoltaic as nec

COLDEST_IN_TABLE_C = -40.0


class StringClauses(Protocol):
    """A family's clauses of PV strings. Source attributes are keys of the register."""

    voltage_source: str
    current_source: str
    fuse_source: str
    asks_rapid_shutdown: bool
    # Whether an inverter with PV inputs must watch residual current and insulation inside.
    asks_monitor: bool
    wire_advice: str
    # What a PV run is laid in where nothing else is decided.
    usual_insulation: str

    def conductor_current(self, maximum: Figure) -> tuple[Expression, str] | None:
        """What the conductor is sized for before factors, with its source; None where it is the maximum current itself."""

    def tabulated_factor(self, coldest: Figure) -> Expression | None:
        """Correction of the voltage by a table of lowest ambient temperatures, where the book has one that holds."""

    def back_feed(self, parallel: Figure, isc: Figure) -> Expression:
        """What the other strings feed into a fault in one: above what a module bears, strings need fuses."""

    def fuse_range(self, isc: Figure, bears: Figure) -> tuple[Expression, Expression]:
        """Smallest and largest string fuse."""

    def takes_insulation(self, insulation: str | None) -> bool:
        """Whether an insulation is fit for PV runs; None is the book's own default."""


class NecStrings:
    """NEC Article 690."""

    voltage_source, current_source, fuse_source = "nec.690.7", "nec.690.8a", "nec.690.9"
    asks_rapid_shutdown, asks_monitor = True, False
    wire_advice = "Use 90 °C wet-rated conductors."
    usual_insulation = "THWN-2"

    def conductor_current(self, maximum: Figure) -> tuple[Expression, str] | None:
        """690.8(B)(1)."""
        return nec.conductor_current_a(maximum), "nec.690.8b"

    def tabulated_factor(self, coldest: Figure) -> Expression | None:
        """Table 690.7(A), for modules whose maker gives no coefficient."""
        return nec.tabulated_correction(coldest) if coldest.value >= COLDEST_IN_TABLE_C else None

    def back_feed(self, parallel: Figure, isc: Figure) -> Expression:
        """690.9(A) exception."""
        return nec.back_feed_a(parallel, isc)

    def fuse_range(self, isc: Figure, bears: Figure) -> tuple[Expression, Expression]:
        """690.9(B)(1), and the module's own limit."""
        return nec.string_fuse_minimum_a(isc), least(bears)

    def takes_insulation(self, insulation: str | None) -> bool:
        """90 °C wet-rated building wire is the default; PVC alone is not."""
        return insulation != "PVC"


class IecStrings:
    """IEC 62548 and its national editions."""

    voltage_source, current_source, fuse_source = "iec.62548.v", "iec.62548.i", "iec.62548.i"
    asks_rapid_shutdown, asks_monitor = False, True
    wire_advice = "Use cross-linked PV cable."
    usual_insulation = "XLPE"

    def conductor_current(self, maximum: Figure) -> tuple[Expression, str] | None:
        """The maximum current holds the margin already."""
        return None

    def tabulated_factor(self, coldest: Figure) -> Expression | None:
        """The maker's coefficient alone."""
        return None

    def back_feed(self, parallel: Figure, isc: Figure) -> Expression:
        """IEC 62548-1 6.3.3."""
        return iec.back_feed_a(parallel, isc)

    def fuse_range(self, isc: Figure, bears: Figure) -> tuple[Expression, Expression]:
        """IEC 62548-1 6.5.3."""
        return iec.string_fuse_range_a(isc, bears)

    def takes_insulation(self, insulation: str | None) -> bool:
        """Cross-linked, which is the default of PV runs; PVC, the default of all others, is not."""
        return insulation != "PVC"

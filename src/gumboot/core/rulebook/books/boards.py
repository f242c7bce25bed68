"""What the books say of a board that two sources feed: what its busbar sees, and what it may carry."""

from __future__ import annotations

from typing import Protocol

from gumboot.core.expression import Expression, largest
from gumboot.core.figure import Figure
from gumboot.core.rulebook.iec_family.connection import board_current_a
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rulebook.north_american.demand import PEAK_FACTOR


class BoardClauses(Protocol):
    """A family's clauses of boards. ``rule`` is the code of the rule that judges a busbar; sources are keys of the register."""

    rule: str
    source: str
    fault_source: str
    most_fault_source: str
    demand_name: str
    limit_name: str
    limit_holds: str
    bar: str
    act: str
    panel_name: str
    panel_source: str
    has_connections: bool
    asks_fastening: bool
    loads_device_warm: bool
    hours_factor: float
    # Up to this voltage a single line that feeds a board of two lines is asked for multiwire circuits; None: nobody asks.
    multiwire_v: float | None
    asks_demand: bool
    demand_source: str

    def demand(self, main: Figure, sources: Figure) -> Expression:
        """What a busbar sees of its main device and its sources."""

    def panel_demand(self, sources: Figure) -> Expression:
        """What the bar of a panel that combines sources alone must carry."""

    def limit(self, busbar: Figure, case: nec.BusbarCase) -> Expression:
        """What a busbar may carry."""

    def largest_main(self, busbar: Figure, sources: Figure, case: nec.BusbarCase) -> Expression | None:
        """The largest main device beside sources; None where the book has no such derating."""

    def largest_source(self, limit: Figure, main: Figure) -> Expression:
        """The largest output of sources that a busbar still takes beside its main device."""


class NecBoards:
    """NEC 705.11 to 705.13."""

    rule, source, fault_source, most_fault_source = "BUS-120", "nec.705.12", "physics", "physics"
    demand_name, limit_name = "Main device and 125 % of the sources", "What the busbar allows"
    limit_holds = "120 % only with the two feeds at opposite ends or in a centre-fed dwelling board; otherwise the plain rating."
    bar = "the busbar"
    act = "Move the breaker to the far end, reduce the main device, or connect on the supply side."
    panel_name, panel_source = "125 % of the sources", "nec.705.12"
    # The supply side and a power control are ways of their own; a back-fed plug-in breaker is asked about.
    has_connections, asks_fastening, loads_device_warm = True, True, False
    # A measured peak and what runs for hours count by 125 % (220.87, 230.42(A)).
    hours_factor, asks_demand, demand_source = PEAK_FACTOR, True, "nec.220.87"
    multiwire_v: float | None = 150.0

    def demand(self, main: Figure, sources: Figure) -> Expression:
        """705.12(B)(1) and (2)."""
        return nec.busbar_demand_a(main, sources)

    def panel_demand(self, sources: Figure) -> Expression:
        """705.12(B)(1): sources at 125 %."""
        return sources * 1.25

    def limit(self, busbar: Figure, case: nec.BusbarCase) -> Expression:
        """705.12(B)."""
        return nec.busbar_limit_a(busbar, case)

    def largest_main(self, busbar: Figure, sources: Figure, case: nec.BusbarCase) -> Expression | None:
        """What a main-breaker derate must reach."""
        return nec.largest_main_a(busbar, sources, case)

    def largest_source(self, limit: Figure, main: Figure) -> Expression:
        """705.12(B): at 125 %."""
        return largest(0.0, limit - main) / 1.25


class IecBoards:
    """IEC 60364-7-712 and 551.7.2."""

    rule, source, fault_source, most_fault_source = "GRID-MAIN-SWITCH", "iec.712.main", "iec.43.434", "iec.60909"
    demand_name, limit_name, limit_holds = "Main device and sources", "What the busbar carries", ""
    bar = "busbar and main switch"
    act = "Reduce the main device, or connect the inverter ahead of this board."
    panel_name, panel_source = "Sources together", "iec.712.main"
    has_connections, asks_fastening, loads_device_warm = False, False, True
    # No way of telling a demand is prescribed: what somebody measured is judged, nobody is asked.
    hours_factor, asks_demand, demand_source = 1.0, False, "iec.43.433"
    multiwire_v: float | None = None

    def demand(self, main: Figure, sources: Figure) -> Expression:
        """Supply and sources together."""
        return board_current_a(main, sources)

    def panel_demand(self, sources: Figure) -> Expression:
        """The sources themselves."""
        return sources * 1.0

    def limit(self, busbar: Figure, case: nec.BusbarCase) -> Expression:
        """The rating itself."""
        return busbar

    def largest_main(self, busbar: Figure, sources: Figure, case: nec.BusbarCase) -> Expression | None:
        """No such derating."""
        return None

    def largest_source(self, limit: Figure, main: Figure) -> Expression:
        """What the rating leaves."""
        return largest(0.0, limit - main)

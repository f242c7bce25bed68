"""May this source join this board, what must a feeder or tap carry, and what does a dwelling ask?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.plan.connection.boards import JUDGES
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rules import connection as rules
from gumboot.core.sums.ask import Ask, choice, quantities, quantity, told
from gumboot.core.workbook import Workbook


class Busbar(Ask):
    """Whether a source may be joined to a board."""

    main: float = quantity("A", "Main device", symbol="I_main", gt=0, le=2000)
    busbar: float = quantity("A", "Busbar rating", symbol="I_bus", gt=0, le=2000)
    source: float = quantity("A", "Output of every source together", symbol="I_src", gt=0, le=2000)
    case: nec.BusbarCase = choice("Case (NEC)", "opposite ends")
    devices: tuple[float, ...] = quantities("A", "Every device but the main, for the sum of devices (NEC)", default=(), max_length=100)

    def unfit(self, family: str) -> tuple[str, str] | None:
        """The sum of devices needs the devices, and only that sum does."""
        if family == "nec" and self.case == "sum of devices" and not self.devices:
            return "devices", "this is needed for the sum of devices: give every device but the main, such as 20; 20; 30."
        if self.case != "sum of devices" and self.devices:
            return "devices", "this is used for the sum of devices only. Leave it out, or choose that case."
        return None


def busbar(w: Workbook, q: Busbar) -> Figure:
    """Margin in A of the busbar; below nothing it is refused."""
    clauses, main, bar, source = w.book.boards, told(w, q, "main"), told(w, q, "busbar"), told(w, q, "source")
    if clauses.has_connections and q.case == "sum of devices":
        total = w.work("sum", "I_sum", "Every device but the main", nec.devices_sum_a(q.devices), "A", source=clauses.source)
    else:
        total = w.work("sum", "I_sum", clauses.demand_name, clauses.demand(main, source), "A", source=clauses.source)
        if (most := clauses.largest_main(bar, source, q.case)) is not None:
            w.work("main_most", "I_main_max", "Largest main device beside these sources", most, "A", source=clauses.source)
    limit = w.work("limit", "I_lim", clauses.limit_name, clauses.limit(bar, q.case), "A", source=clauses.source)
    if q.case != "sum of devices":
        name = "Largest source that this board still takes"
        w.work("source_most", "I_src_max", name, clauses.largest_source(limit, main), "A", source=clauses.source)
    feeds, act = "These", "Reduce the main device, move the feed to the far end, or connect ahead of the board."
    w.ask(JUDGES[clauses.rule], rules.Bar(where="board", total=total, limit=limit, feeds=feeds, bar=clauses.bar, act=act))
    return w.work("margin", "I_m", "Margin", limit - total, "A", source=clauses.source)


class FeederTap(Ask):
    """Feeder or tap that a source feeds into (NEC 705.12(A))."""

    primary: float = quantity("A", "Device of the primary source", symbol="I_p", gt=0, le=2000)
    source: float = quantity("A", "Output of the source", symbol="I_src", gt=0, le=2000)
    length: float | None = quantity("m", "Length of the tap; empty for a feeder", None, symbol="L", gt=0, le=100)


def feeder_tap(w: Workbook, q: FeederTap) -> Figure:
    """Least ampacity of the conductor."""
    amps = nec.feeder_ampacity_a(told(w, q, "primary"), told(w, q, "source"))
    feeder = w.work("feeder", "I_f", "Feeder's ampacity at least", amps, "A", source="nec.705.12a")
    if q.length is None:
        return feeder
    told(w, q, "length")
    least, limits = nec.tap_ampacity_a(feeder, q.length), "To 10 ft a tenth, to 25 ft a third."
    return w.work("tap", "I_tap", "Tap's ampacity at least", least, "A", source="nec.705.12a", limits=limits)


class DwellingLoad(Ask):
    """Demand of a dwelling by the optional method (NEC 220.82)."""

    general: float = quantity("W", "General load and appliances", symbol="P_g", ge=0, le=500000)
    climate: float = quantity("W", "Heating or cooling, the larger", 0.0, symbol="P_c", ge=0, le=200000)
    voltage: float = quantity("V", "Voltage of the service", 240.0, symbol="U", gt=0, le=1000)


def dwelling_load(w: Workbook, q: DwellingLoad) -> Figure:
    """Service current in A."""
    watts = nec.optional_dwelling_va(told(w, q, "general"), told(w, q, "climate"))
    holds = "One dwelling, service of 100 A or more."
    demand = w.work("demand", "P_d", "Demand", watts, "W", source="nec.220.82", limits=holds)
    return w.work("service", "I_d", "Service current", demand / told(w, q, "voltage"), "A", source="nec.220.82")

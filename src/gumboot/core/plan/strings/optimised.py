"""An input whose modules each have an optimiser: one string voltage, limits of count and power from the optimiser's card."""

from __future__ import annotations

from gumboot.core.card import ModuleCard
from gumboot.core.card.inverter import Tracker
from gumboot.core.card.solar import OptimiserCard
from gumboot.core.figure import Figure
from gumboot.core.plan.strings.voltages import limit
from gumboot.core.rules.strings import Optimised, Volts
from gumboot.core.seats import Converter
from gumboot.core.workbook import Workbook


def string(w: Workbook, key: str, place: str, count: Figure, module: ModuleCard, *, card: OptimiserCard, field: str = "") -> Optimised:
    """One optimised string: its count and power against the card."""
    power = w.work(f"{key}.power", "P_str", f"Power of {place}", count * w.read(module, "power_w"), "W", source="cp.optimiser")
    return Optimised(
        place=place,
        modules=count,
        fewest=w.read(card, "count_min"),
        most=w.read(card, "count_max"),
        power=power,
        power_most=w.read(card, "string_max_w"),
        field=field,
    )


def maximum(w: Workbook, key: str, strings: Figure, card: OptimiserCard) -> Figure:
    """Current of optimised strings in parallel."""
    return w.work(
        f"{key}.maximum_a", "I_max", "Maximum circuit current", strings * w.read(card, "output_max_a"), "A", source="cp.optimiser"
    )


def volts(
    w: Workbook, key: str, hung: tuple[str, ModuleCard, str], card: OptimiserCard, *, converter: Converter, tracker: Tracker
) -> Volts:
    """The voltage at which the inverter holds an optimised string; ``hung`` is its place, its module and where its circuits run."""
    place, module, building = hung
    held = w.read(card, "string_v")
    low, start = w.read(converter, f"trackers.{tracker.id}.v_min"), w.read(converter, f"trackers.{tracker.id}.v_start")
    top = limit(w, key, converter, tracker, module, building=building)
    return Volts(place=place, cold=held, limit=top, hot=held, low=low, start=start, held=True)

"""How full may this conduit be, and what room does a conductor need to bend?"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.rulebook.loader import read_table
from gumboot.core.rulebook.north_american.conductors import NIPPLE_MM, conductor
from gumboot.core.units import MM_PER_INCH

MM2_PER_IN2 = MM_PER_INCH**2
FILL = {1: 0.53, 2: 0.31}
FILL_MORE, FILL_NIPPLE, FILL_WIREWAY = 0.40, 0.60, 0.20
_RACEWAYS = {(r["kind"], r["trade_size"]): float(r["area_in2"]) * MM2_PER_IN2 for r in read_table("north_american/tables/raceways.csv")}
_INSULATED = {
    (r["insulation"], r["size"]): float(r["area_in2"]) * MM2_PER_IN2 for r in read_table("north_american/tables/insulated_conductors.csv")
}
_BENDING = [(r["size_max"], float(r["one_wire_in"]) * MM_PER_INCH) for r in read_table("north_american/tables/bending_space.csv")]
_BEND_RADIUS = {r["trade_size"]: float(r["radius_in"]) * MM_PER_INCH for r in read_table("north_american/tables/bend_radius.csv")}
KINDS = tuple(dict.fromkeys(kind for kind, _ in _RACEWAYS))
INSULATIONS = tuple(dict.fromkeys(kind for kind, _ in _INSULATED))


@cache
def trade_sizes(kind: str) -> tuple[str, ...]:
    """Trade sizes of a raceway kind, smallest first. Raises NotInTable."""
    sizes = tuple(size for k, size in _RACEWAYS if k == kind)
    if not sizes:
        raise NotInTable("raceway", kind, ", ".join(KINDS), "NEC 2023 Chapter 9 Table 4", "Choose one of these.")
    return sizes


def raceway_area_mm2(kind: str, trade_size: str) -> float:
    """Inside area of a raceway in mm2 (Chapter 9 Table 4). Raises NotInTable."""
    trade_sizes(kind)
    try:
        return _RACEWAYS[kind, trade_size]
    except KeyError:
        raise NotInTable(
            "trade size", trade_size, ", ".join(trade_sizes(kind)), "NEC 2023 Chapter 9 Table 4", "Choose one of these."
        ) from None


def insulated_area_mm2(insulation: str, size: str) -> float:
    """Area of an insulated conductor in mm2 (Chapter 9 Table 5). Raises NotInTable."""
    try:
        return _INSULATED[insulation, size]
    except KeyError:
        raise NotInTable(
            "insulated conductor",
            f"{insulation} {size}",
            ", ".join(INSULATIONS) + " in their sizes",
            "NEC 2023 Chapter 9 Table 5",
            "Choose one in the table.",
        ) from None


def fill_limit(conductors: int, length_mm: float | None = None) -> float:
    """Share of the inside area that may be filled (Chapter 9 Table 1); 60 % in a nipple of 600 mm (24 in) or less (Note 4)."""
    if conductors < 1:
        raise OutOfRange("conductors", conductors, "1 or more", "NEC 2023 Chapter 9 Table 1", "Count them, earth conductors too.")
    if length_mm is not None and length_mm <= NIPPLE_MM:
        return FILL_NIPPLE
    return FILL.get(conductors, FILL_MORE)


def smallest_raceway(kind: str, areas_mm2: Sequence[float], length_mm: float | None = None) -> str:
    """Smallest trade size that takes conductors of these areas. Raises OutOfRange when none does."""
    total, share = sum(areas_mm2), fill_limit(len(areas_mm2), length_mm)
    for size in trade_sizes(kind):
        if total <= share * raceway_area_mm2(kind, size) + 1e-9:
            return size
    raise OutOfRange(
        "conductor area",
        f"{total:.0f} mm2",
        f"up to {trade_sizes(kind)[-1]} {kind}",
        "NEC 2023 Chapter 9 Table 1",
        "Use two raceways or a wireway.",
    )


def bend_radius_mm(trade_size: str) -> float:
    """Least radius in mm of a conduit bend to its centre line, one shot or full shoe (Chapter 9 Table 2). Raises NotInTable."""
    try:
        return _BEND_RADIUS[trade_size]
    except KeyError:
        raise NotInTable("trade size", trade_size, ", ".join(_BEND_RADIUS), "NEC 2023 Chapter 9 Table 2", "Choose one of these.") from None


def bending_space_mm(size: str) -> float:
    """Least bending space in mm at a terminal, one wire each, L or Z bend (Table 312.6(A)). 0 up to 10 AWG, where none is asked."""
    if conductor(size).ordinal <= conductor("10 AWG").ordinal:
        return 0.0
    for most, space_mm in _BENDING:
        if conductor(size).ordinal <= conductor(most).ordinal:
            return space_mm
    raise NotInTable("conductor size", size, "up to 500 kcmil", "NEC 2023 Table 312.6(A)", "Choose a size in the table.")

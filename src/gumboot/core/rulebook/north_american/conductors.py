"""How much current may this copper conductor carry, and what does its length cost?"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.rulebook.loader import read_table
from gumboot.core.units import M_PER_FOOT, MM2_PER_KCMIL

Column = Literal[60, 75, 90]


@dataclass(frozen=True, slots=True)
class Conductor:
    """One row of Table 310.16 joined with Chapter 9 Table 8. Resistance is DC at 75 °C, stranded, uncoated."""

    size: str
    ordinal: int
    area_mm2: float
    resistance_ohm_per_km: float
    ampacity_a: dict[int, float]


def _load() -> dict[str, Conductor]:
    rows = read_table("north_american/tables/conductors_copper.csv")
    return {
        r["size"]: Conductor(
            r["size"],
            int(r["ordinal"]),
            float(r["area_kcmil"]) * MM2_PER_KCMIL,
            float(r["resistance_ohm_per_kft_75c"]) / M_PER_FOOT,
            {t: float(r[f"ampacity_{t}c_a"]) for t in (60, 75, 90)},
        )
        for r in rows
    }


COPPER = _load()
SIZES = tuple(COPPER)
_AMBIENT = read_table("north_american/tables/ambient_correction.csv")
_GROUPING = read_table("north_american/tables/grouping.csv")


def conductor(size: str) -> Conductor:
    """The copper conductor of a trade size. Raises NotInTable for a size outside 14 AWG to 500 kcmil."""
    try:
        return COPPER[size]
    except KeyError:
        raise NotInTable(
            "conductor size", size, f"{SIZES[0]} to {SIZES[-1]}", "NEC 2023 Table 310.16", "Choose a size in the table."
        ) from None


def ampacity_a(size: str, column_c: Column) -> float:
    """Ampacity in A of one copper conductor, at most three in raceway, 30 °C ambient (Table 310.16)."""
    return conductor(size).ampacity_a[column_c]


def ambient_factor(ambient_c: float, column_c: Column) -> float:
    """Correction factor for the ambient temperature (Table 310.15(B)(1)(1)).

    Raises OutOfRange where the table gives no factor: the insulation may not be used there.
    """
    for row in _AMBIENT:
        if ambient_c <= float(row["ambient_max_c"]) and row[f"factor_{column_c}c"]:
            return float(row[f"factor_{column_c}c"])
    raise OutOfRange(
        "ambient temperature",
        f"{ambient_c} °C",
        f"within the {column_c} °C column",
        "NEC 2023 Table 310.15(B)(1)(1)",
        "Re-route the conductor through a cooler place or use a hotter-rated insulation.",
    )


def grouping_factor(current_carrying: int) -> float:
    """Adjustment factor for the number of current-carrying conductors in one raceway (Table 310.15(C)(1))."""
    if current_carrying < 1:
        raise OutOfRange("conductors in the raceway", current_carrying, "1 or more", "NEC 2023 Table 310.15(C)(1)", "Count them.")
    for row in _GROUPING:
        if current_carrying <= int(row["conductors_max"]):
            return float(row["factor"])
    raise OutOfRange("conductors in the raceway", current_carrying, "up to 400", "NEC 2023 Table 310.15(C)(1)", "Split the run.")


def terminal_column_c(device_a: float, terminal_rating_c: int) -> Column:
    """Ampacity column that the terminations allow (110.14(C)(1)): 60 °C to 100 A unless both ends are listed for more."""
    if terminal_rating_c >= 75 or device_a > 100:
        return 75
    return 60


def derated_ampacity_a(size: str, insulation_c: Column, ambient_c: float, current_carrying: int) -> float:
    """Ampacity in A after ambient and grouping factors, from the insulation's own column (310.15)."""
    return ampacity_a(size, insulation_c) * ambient_factor(ambient_c, insulation_c) * grouping_factor(current_carrying)


def loop_resistance_ohm(size: str, one_way_m: float) -> float:
    """Resistance in ohm there and back at 75 °C (Chapter 9 Table 8)."""
    return 2.0 * one_way_m / 1000.0 * conductor(size).resistance_ohm_per_km


def voltage_drop_v(current_a: float, size: str, one_way_m: float) -> float:
    """Two-wire drop in V: current times loop resistance at 75 °C. Reactance is left out: below 4/0 AWG it adds under 5 %."""
    return current_a * loop_resistance_ohm(size, one_way_m)


def next_size_for(minimum_a: float, column_c: Column) -> str:
    """Smallest trade size whose table ampacity reaches ``minimum_a``. Raises OutOfRange when exhausted."""
    for size in SIZES:
        if ampacity_a(size, column_c) >= minimum_a - 1e-9:
            return size
    raise OutOfRange("current", f"{minimum_a:.0f} A", "up to 500 kcmil copper", "NEC 2023 Table 310.16", "Use parallel sets.")


def larger(first: str, second: str) -> str:
    """The larger of two trade sizes."""
    return first if conductor(first).ordinal >= conductor(second).ordinal else second

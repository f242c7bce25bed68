"""How much current may this conductor carry, and what does its length cost?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import Amount, named
from gumboot.core.rulebook.loader import read_table
from gumboot.core.units import M_PER_FOOT, MM2_PER_KCMIL

# Length of a raceway that is a nipple, and conductors in a metal wireway that are not yet grouped.
NIPPLE_MM, MOST_IN_WIREWAY = 600.0, 30

Column = Literal[60, 75, 90]
Material = Literal["copper", "aluminium"]
TABLE_BASE_C = 30.0
ROOFTOP_ADDER_K = 33.0
ROOFTOP_HEIGHT_MM = 22.0
SMALLEST_PARALLEL = "1/0 AWG"
USUAL = "THWN-2"
# Insulation limit of Table 310.4(1), °C; NM-B is made of 90 °C conductors and used as if of 60 °C (334.80).
INSULATION_C: dict[str, Column] = {"THWN-2": 90, "XHHW-2": 90, "RHW-2": 90, "THWN": 75, "NM-B": 90}
USED_AT_60 = frozenset({"NM-B"})
# No type of this book: nothing is known of it, the lowest column is taken.
UNKNOWN_C: Column = 60


@dataclass(frozen=True, slots=True)
class Conductor:
    """One row of Table 310.16 joined with Chapter 9 Table 8. Resistance is DC at 75 °C, stranded, uncoated."""

    size: str
    ordinal: int
    area_mm2: float
    resistance_ohm_per_km: float
    ampacity_a: dict[int, float]


def _load(material: str) -> dict[str, Conductor]:
    rows = read_table(f"north_american/tables/conductors_{material}.csv")
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


COPPER = _load("copper")
ALUMINIUM = _load("aluminium")
TABLE: dict[str, dict[str, Conductor]] = {"copper": COPPER, "aluminium": ALUMINIUM}
SIZES = tuple(COPPER)
_AMBIENT = [
    (float(r["ambient_max_c"]), {c: r[f"factor_{c}c"] for c in (60, 75, 90)})
    for r in read_table("north_american/tables/ambient_correction.csv")
]
_GROUPING = read_table("north_american/tables/grouping.csv")
_REACTANCE = {
    r["size"]: {"pvc": float(r["pvc_ohm_per_kft"]) / M_PER_FOOT, "steel": float(r["steel_ohm_per_kft"]) / M_PER_FOOT}
    for r in read_table("north_american/tables/reactance.csv")
}
_CABLE = {
    r["size"]: {t: float(r[f"ampacity_{t}c_a"]) for t in (60, 75, 90)} for r in read_table("north_american/tables/flexible_cable.csv")
}
_CORD = {r["size"]: {3: float(r["three_carrying_a"]), 2: float(r["two_carrying_a"])} for r in read_table("north_american/tables/cord.csv")}


def conductor(size: str, material: str = "copper") -> Conductor:
    """The conductor of a trade size. Raises NotInTable for a size that Table 310.16 does not give here."""
    try:
        return TABLE[material][size]
    except KeyError:
        sizes = tuple(TABLE.get(material, COPPER))
        raise NotInTable(
            f"{material} conductor size", size, f"{sizes[0]} to {sizes[-1]}", "NEC 2023 Table 310.16", "Choose a size in the table."
        ) from None


@lru_cache(maxsize=1024)
def ampacity_a(size: str, column_c: Column, material: str = "copper") -> float:
    """Ampacity in A of one conductor, at most three in raceway, 30 °C ambient (Table 310.16)."""
    return conductor(size, material).ampacity_a[column_c]


def ambient_factor(ambient_c: Amount, column_c: Column) -> Amount:
    """Correction factor for the ambient temperature (Table 310.15(B)(1)(1)).

    Raises OutOfRange where the table gives no factor: the insulation may not be used there.
    """
    for most_c, factors in _AMBIENT:
        if float(ambient_c) <= most_c and factors[column_c]:
            return named("row of Table 310.15(B)(1)(1) for {0}", float(factors[column_c]), ambient_c)
    raise OutOfRange(
        "ambient temperature",
        f"{float(ambient_c)} °C",
        f"within the {column_c} °C column",
        "NEC 2023 Table 310.15(B)(1)(1)",
        "Re-route the conductor through a cooler place or use a hotter-rated insulation.",
    )


def rooftop_ambient_c(ambient_c: float, height_mm: float) -> float:
    """Ambient in °C for a raceway in the sun on a roof: 33 K more below 22 mm (7/8 in) above it (310.15(B)(2))."""
    if height_mm < 0:
        raise OutOfRange(
            "height above the roof", f"{height_mm} mm", "0 mm or more", "NEC 2023 310.15(B)(2)", "Measure to the raceway's underside."
        )
    return ambient_c + (ROOFTOP_ADDER_K if height_mm < ROOFTOP_HEIGHT_MM else 0.0)


def current_carrying(poles: Sequence[int], kind: str = "", length_mm: float | None = None) -> int:
    """Conductors that count for grouping in a raceway (310.15(C)(1)): the poles of each circuit, two at least.

    A neutral that carries only what its lines do not share is not counted (310.15(E)(1)); that of one line is its other pole. None
    counts in a raceway of 600 mm or less, nor up to 30 in a metal wireway (376.22(B)).
    """
    count = sum(max(2, n) for n in poles)
    short = length_mm is not None and length_mm <= NIPPLE_MM
    return 0 if short or (kind == "wireway" and count <= MOST_IN_WIREWAY) else count


def grouping_factor(current_carrying: Amount) -> Amount:
    """Adjustment factor for the number of current-carrying conductors in one raceway (Table 310.15(C)(1))."""
    count = float(current_carrying)
    if count < 1:
        raise OutOfRange("conductors in the raceway", f"{count:g}", "1 or more", "NEC 2023 Table 310.15(C)(1)", "Count them.")
    for row in _GROUPING:
        if count <= int(row["conductors_max"]):
            return named("row of Table 310.15(C)(1) for {0}", float(row["factor"]), current_carrying)
    raise OutOfRange("conductors in the raceway", f"{count:g}", "up to 400", "NEC 2023 Table 310.15(C)(1)", "Split the run.")


def insulation_c(insulation: str | None) -> Column:
    """Temperature limit of a conductor's insulation, °C (Table 310.4(1)); the lowest column for one that is no type of this book."""
    return INSULATION_C.get(insulation or USUAL, UNKNOWN_C)


def cable_column_c(insulation: str | None, column: Column) -> Column:
    """The column that terminals allow, lowered to 60 °C for cable that may be used no higher (334.80)."""
    kept: Column = 60
    return kept if insulation in USED_AT_60 or insulation_c(insulation) == UNKNOWN_C else column


def terminal_column_c(device_a: float, terminal_rating_c: int) -> Column:
    """Ampacity column that the terminations allow (110.14(C)(1)): 60 °C to 100 A unless both ends are listed for more."""
    if terminal_rating_c >= 75 or device_a > 100:
        return 75
    return 60


def parallel_sets_allowed(size: str, material: str = "copper") -> bool:
    """Whether conductors of this size may be run in parallel sets: 1/0 AWG and larger (310.10(G)(1))."""
    return conductor(size, material).ordinal >= COPPER[SMALLEST_PARALLEL].ordinal


def flexible_cable_ampacity_a(size: str, column_c: Column) -> float:
    """Ampacity in A of one single-conductor fine-strand cable in free air, 30 °C (Table 400.5(A)(2)).

    Raises NotInTable below 8 AWG. Whether such a cable may stay as fixed wiring is a question for ``battery_cable_allowed``.
    """
    try:
        return _CABLE[size][column_c]
    except KeyError:
        raise NotInTable(
            "flexible cable size", size, "8 AWG to 300 kcmil", "NEC 2023 Table 400.5(A)(2)", "Choose a size in the table."
        ) from None


def battery_cable_allowed(size: str) -> bool:
    """Whether a flexible cable may join battery terminals to a nearby box: 2/0 AWG and larger, listed for hard service (706.32(A))."""
    return conductor(size).ordinal >= COPPER["2/0 AWG"].ordinal


def cord_ampacity_a(size: str, carrying: Literal[2, 3]) -> float:
    """Ampacity in A of a flexible cord with two or three current-carrying conductors (Table 400.5(A)(1)). Raises NotInTable."""
    try:
        return _CORD[size][carrying]
    except KeyError:
        raise NotInTable("cord size", size, "18 AWG to 2 AWG", "NEC 2023 Table 400.5(A)(1)", "Choose a size in the table.") from None


def resistance_ohm_per_km(size: str, material: str = "copper") -> float:
    """DC resistance in ohm/km at 75 °C (Chapter 9 Table 8)."""
    return conductor(size, material).resistance_ohm_per_km


# Table 8 note 2, 1/K at 75 °C.
ALPHA_75 = {"copper": 0.00323, "aluminium": 0.00330}


def resistance_at(at_75c_ohm_per_km: Amount, material: str, conductor_c: float) -> Amount:
    """Resistance in ohm/km of a conductor at a temperature, from that at 75 °C (Chapter 9 Table 8 note 2)."""
    return at_75c_ohm_per_km * (1.0 + ALPHA_75[material] * (conductor_c - 75.0))


def reactance_ohm_per_km(size: str, raceway: Literal["pvc", "steel"] = "pvc") -> float:
    """Reactance to neutral in ohm/km at 60 Hz, three conductors in raceway (Chapter 9 Table 9). Raises NotInTable."""
    try:
        return _REACTANCE[size][raceway]
    except KeyError:
        raise NotInTable(
            "conductor size", size, f"{SIZES[0]} to {SIZES[-1]}", "NEC 2023 Chapter 9 Table 9", "Choose a size in the table."
        ) from None


def larger(first: str, second: str) -> str:
    """The larger of two trade sizes."""
    return first if conductor(first).ordinal >= conductor(second).ordinal else second

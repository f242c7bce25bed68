"""How much current may this conductor carry as it is laid, and what resistance has it?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import Amount, named
from gumboot.core.rulebook.loader import read_table

Insulation = Literal["PVC", "XLPE"]
Method = Literal["A1", "A2", "B1", "B2", "C", "D1", "D2", "E"]
METHODS: dict[str, str] = {
    "A1": "single cores in conduit in an insulated wall",
    "A2": "a cable in conduit in an insulated wall",
    "B1": "single cores in conduit on a wall",
    "B2": "a cable in conduit on a wall",
    "C": "a cable clipped to a wall",
    "D1": "a cable in a duct in the ground",
    "D2": "a cable buried directly",
    "E": "a cable in free air",
}
LIMIT_C = {"PVC": 70.0, "XLPE": 90.0}
ALPHA = {"copper": 0.00393, "aluminium": 0.00403}
REACTANCE_OHM_PER_KM = 0.08
_ROWS = read_table("iec_family/tables/current_capacity.csv")
_CAPACITY: dict[tuple[str, int, str, str], dict[str, float]] = {
    (r["insulation"], int(r["loaded_conductors"]), r["material"], r["size_mm2"]): {m: float(r[f"{m}_a"]) for m in METHODS if r[f"{m}_a"]}
    for r in _ROWS
}
SIZES = tuple(dict.fromkeys(r["size_mm2"] for r in _ROWS if r["material"] == "copper"))
_AIR = [(float(r["ambient_c"]), r) for r in read_table("iec_family/tables/ambient_air.csv")]
_GROUND = [(float(r["ambient_c"]), r) for r in read_table("iec_family/tables/ambient_ground.csv")]
_SOIL = [(float(r["resistivity_km_per_w"]), r) for r in read_table("iec_family/tables/soil_resistivity.csv")]
_GROUPING = [(int(r["circuits_max"]), r) for r in read_table("iec_family/tables/grouping.csv")]
_RESISTANCE = {r["size_mm2"]: r for r in read_table("iec_family/tables/resistance.csv")}


def sizes(material: str = "copper", method: Method | None = None) -> tuple[str, ...]:
    """Cross-sections in mm2 as text, smallest first. Aluminium begins at 10 mm2 (IEC 60364-5-52 Table 52.2; the smallest of IEC 60228);
    some methods begin above (buried directly at 16 mm2)."""
    found = SIZES if material == "copper" else tuple(s for s in SIZES if _RESISTANCE[s]["aluminium_ohm_per_km_20c"])
    if method is None:
        return found
    return tuple(s for s in found if method in _CAPACITY["PVC", 2, material, s])


def capacity_a(size_mm2: str, method: Method, insulation: Insulation = "PVC", loaded: int = 2, material: str = "copper") -> float:
    """Current-carrying capacity in A, 30 °C air or 20 °C ground (Tables B.52.2 to B.52.5, method E B.52.10 to B.52.13).

    ``loaded`` is 2 or 3 loaded conductors. Raises NotInTable where the table gives none.
    """
    try:
        return _CAPACITY[insulation, loaded, material, size_mm2][method]
    except KeyError:
        raise NotInTable(
            "conductor",
            f"{size_mm2} mm2 {material} {insulation}, method {method}, {loaded} loaded",
            f"{sizes(material)[0]} to {SIZES[-1]} mm2, methods {', '.join(METHODS)}",
            "IEC 60364-5-52 Annex B",
            "Choose a size and method in the table.",
        ) from None


def _banded(rows: list[tuple[float, dict[str, str]]], value: Amount, column: str, quantity: str, unit: str, *, table: str) -> Amount:
    asked = float(value)
    for bound, row in rows:
        if asked <= bound + 1e-9 and row[column]:
            return named(f"row of {table} for {{0}}", float(row[column]), value)
    most = max(bound for bound, row in rows if row[column])
    raise OutOfRange(
        quantity,
        f"{asked:g} {unit}",
        f"up to {most:g} {unit}",
        f"IEC 60364-5-52 {table}",
        "Re-route the conductor or choose another insulation.",
    )


def ambient_factor(ambient_c: Amount, insulation: Insulation, in_ground: bool = False) -> Amount:
    """Factor for the ambient: air from 30 °C (Table B.52.14), ground from 20 °C (B.52.15). The next hotter row is taken.

    Raises OutOfRange where the table gives none.
    """
    rows, table = (_GROUND, "Table B.52.15") if in_ground else (_AIR, "Table B.52.14")
    return _banded(rows, ambient_c, insulation.lower(), "ambient temperature", "°C", table=table)


def soil_factor(resistivity_km_per_w: Amount, direct: bool = False) -> Amount:
    """Factor for the soil's thermal resistivity, from 2.5 K m/W (Table B.52.16). The next drier row is taken. Raises OutOfRange above 3."""
    return _banded(_SOIL, resistivity_km_per_w, "direct" if direct else "in_duct", "soil resistivity", "K m/W", table="Table B.52.16")


def grouping_factor(circuits: Amount, single_layer: bool = False) -> Amount:
    """Factor for circuits or multi-core cables together (Table B.52.17, items 1 and 2). Raises OutOfRange outside 1 to 20."""
    count = float(circuits)
    if count >= 1:
        for most, row in _GROUPING:
            if count <= most:
                return named("row of Table B.52.17 for {0}", float(row["single_layer" if single_layer else "bunched"]), circuits)
    raise OutOfRange("circuits together", f"{count:g}", "1 to 20", "IEC 60364-5-52 Table B.52.17", "Split the run.")


def resistance_20c_ohm_per_km(size_mm2: str, material: str = "copper", flexible: bool = False) -> float:
    """Largest DC resistance in ohm/km at 20 °C: class 2 (class 1 alike), class 5 where flexible (IEC 60228 Tables 1 to 3). Raises NotInTable."""
    column = "aluminium_ohm_per_km_20c" if material == "aluminium" else f"copper_class_{5 if flexible else 2}_ohm_per_km_20c"
    text = _RESISTANCE.get(size_mm2, {}).get(column, "")
    if not text:
        raise NotInTable(
            "conductor",
            f"{size_mm2} mm2 {material}",
            "the table's sizes; aluminium from 10 mm2",
            "IEC 60228",
            "Choose a size in the table.",
        )
    return float(text)


def warmed_ohm_per_km(at_20c_ohm_per_km: Amount, material: str, conductor_c: float) -> Amount:
    """Resistance in ohm/km of a conductor at a temperature, from that at 20 °C, by the linear law (IEC 60228 and IEC 60909-0)."""
    return at_20c_ohm_per_km * (1.0 + ALPHA[material] * (conductor_c - 20.0))


def resistance_ohm_per_km(size_mm2: str, material: str = "copper", conductor_c: float = 70.0, flexible: bool = False) -> float:
    """Resistance in ohm/km of the warm conductor."""
    return warmed_ohm_per_km(resistance_20c_ohm_per_km(size_mm2, material, flexible), material, conductor_c)

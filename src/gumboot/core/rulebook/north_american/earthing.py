"""How large must the equipment grounding and the electrode conductor be?"""

from __future__ import annotations

from collections.abc import Mapping

from gumboot.core.errors import OutOfRange
from gumboot.core.rulebook.loader import read_table
from gumboot.core.rulebook.north_american.conductors import TABLE, conductor

_TABLE = [
    (float(r["device_max_a"]), {"copper": r["copper_size"], "aluminium": r["aluminium_size"]})
    for r in read_table("north_american/tables/equipment_grounding.csv")
]
_ELECTRODE = read_table("north_american/tables/electrode_conductor.csv")
# What suffices to an electrode that cannot pass more into the ground (250.66(A) and (B)).
SUFFICES: Mapping[str, Mapping[str, str]] = {
    "rod, pipe or plate": {"copper": "6 AWG", "aluminium": "4 AWG"},
    "concrete-encased": {"copper": "4 AWG"},
}
IN_THE_EARTH = frozenset({"rod, pipe or plate", "concrete-encased", "ground ring"})


def grounding_size(device_a: float, material: str = "copper") -> str:
    """Equipment grounding conductor by overcurrent device (Table 250.122)."""
    for maximum_a, sizes in _TABLE:
        if device_a <= maximum_a:
            return sizes[material]
    raise OutOfRange("device rating", f"{device_a:.0f} A", f"up to {_TABLE[-1][0]:g} A", "NEC 2023 Table 250.122", "Split the circuit.")


def upsized_grounding(base_size: str, required_size: str, installed_size: str, material: str = "copper") -> str:
    """Earth conductor grown in proportion to the circuit conductor's area (250.122(B))."""
    ratio = max(1.0, conductor(installed_size, material).area_mm2 / conductor(required_size, material).area_mm2)
    area_mm2 = conductor(base_size, material).area_mm2 * ratio
    for size, row in TABLE[material].items():
        if row.area_mm2 >= area_mm2 - 1e-9:
            # The earth conductor need never exceed the circuit conductor (250.122(A)).
            return size if row.ordinal <= conductor(installed_size, material).ordinal else installed_size
    return installed_size


def electrode_size(
    service_size: str, material: str = "copper", electrode: str = "copper", *, kind: str = "water pipe or steel", ring: str | None = None
) -> str:
    """Grounding electrode conductor by the largest service conductor (Table 250.66) and by what it leads to.

    ``kind`` is that of the only electrode it leads to: to a rod, pipe or plate 6 AWG copper or 4 AWG aluminium suffices (250.66(A)), to a
    concrete-encased one 4 AWG copper (B), to a ground ring the conductor of the ring (C); one of unknown size takes the table's.
    Raises OutOfRange above 500 kcmil, where this table is not carried further.
    """
    for row in _ELECTRODE:
        most = row[f"{material}_max_size"]
        if most and conductor(service_size, material).ordinal <= conductor(most, material).ordinal:
            size = row[f"electrode_{electrode}"]
            enough = ring if kind == "ground ring" else SUFFICES.get(kind, {}).get(electrode)
            return enough if enough and conductor(size, electrode).ordinal > conductor(enough, electrode).ordinal else size
    raise OutOfRange("service conductor", service_size, "up to 500 kcmil", "NEC 2023 Table 250.66", "Read the table for larger services.")

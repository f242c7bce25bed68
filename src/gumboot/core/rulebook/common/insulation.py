"""At which voltage is the insulation of a PV array tested, and what must it reach (IEC 62446-1, Table 1)?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.errors import OutOfRange
from gumboot.core.rulebook.loader import read_table

# The system voltage is the open-circuit voltage at standard conditions times this (IEC 62446-1, Table 1).
SYSTEM_FACTOR = 1.25


@dataclass(frozen=True, slots=True)
class InsulationTest:
    """Test voltage in V, least resistance in Mohm."""

    test_v: float
    least_mohm: float


_ROWS = [
    (
        float(r["system_above_v"]),
        float(r["system_to_v"]),
        r["includes_lower"] == "yes",
        InsulationTest(float(r["test_v"]), float(r["least_mohm"])),
    )
    for r in read_table("common/tables/pv_insulation.csv")
]


def insulation_test(system_v: float) -> InsulationTest:
    """The test for a system voltage in V: below 120 V 250 V, 120 to 500 V 500 V, to 1000 V 1000 V, above that 1500 V. Raises OutOfRange."""
    for above, to, includes, test in _ROWS:
        begins = system_v >= above if includes else system_v > above
        # 120 V itself is of the second class: the first is "below 120 V".
        ends = system_v < to if to == 120 else system_v <= to
        if begins and ends:
            return test
    raise OutOfRange("system voltage", system_v, "above 0 to 1500 V", "IEC 62446-1 Table 1", "Check the count of modules.")

"""Which class of battery fuse breaks this fault current?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.rulebook.loader import read_table


@dataclass(frozen=True, slots=True)
class FuseClass:
    """A class of battery fuse with what makers usually rate it for: the marking on the fuse itself decides."""

    name: str
    kind: str
    dc_max_v: float
    interrupting_a: float
    rating_max_a: float


CLASSES = tuple(
    FuseClass(r["class"], r["kind"], float(r["dc_max_v"]), float(r["interrupting_a"]), float(r["rating_max_a"]))
    for r in read_table("common/tables/battery_fuse_classes.csv")
)


def classes_for(fault_a: float, voltage_v: float) -> tuple[FuseClass, ...]:
    """Classes whose usual DC voltage and interrupting rating both suffice; empty when none does."""
    return tuple(c for c in CLASSES if c.interrupting_a >= fault_a and c.dc_max_v >= voltage_v)

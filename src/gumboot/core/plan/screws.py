"""Do the screws of a box hold in timber?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.figure import Figure, constant
from gumboot.core.units import MM_PER_INCH, NEWTON_PER_LBF, STANDARD_GRAVITY_M_PER_S2
from gumboot.core.workbook import Workbook


@dataclass(frozen=True, slots=True)
class Screws:
    """What the use of the top screws rests on."""

    mass: Figure
    depth: Figure
    arm: Figure
    n_all: Figure
    n_top: Figure
    gravity: Figure
    diameter: Figure
    length: Figure
    through: Figure
    lateral: Figure


# A box hangs there for ever: load duration factor for permanent load (NDS 2.3.2, Table 2.3.2).
PERMANENT = constant("C_D", "Load duration factor, permanent load", 0.9, "", "nds.2.3.2", "Ten years of load would be 1.")


def withdrawal_n_per_mm(gravity: float, diameter_mm: float) -> float:
    """Reference withdrawal of a lag screw in N per mm of thread, from W = 1800 G^1.5 D^0.75 lbf/in (NDS 12.2-1)."""
    pounds_per_inch = 1800.0 * gravity**1.5 * (diameter_mm / MM_PER_INCH) ** 0.75
    return float(pounds_per_inch * NEWTON_PER_LBF / MM_PER_INCH)


def screw_use(w: Workbook, shared: str, box: str, s: Screws) -> Figure | None:
    """Use of the top screws, 1 at most; None when the screw does not reach the timber. ``shared`` and ``box`` prefix the figures' keys."""
    weight_n = s.mass.value * STANDARD_GRAVITY_M_PER_S2
    shear = w.work(
        f"{box}.shear", "V", "Shear on each screw", weight_n / s.n_all.value, "N", "physics", "m * 9.80665 / n", (s.mass, s.n_all)
    )
    pull = w.work(
        f"{box}.pull",
        "T",
        "Pull on each top screw",
        weight_n * s.depth.value / 2 / s.arm.value / s.n_top.value,
        "N",
        "physics",
        "m * 9.80665 * d / 2 / h / n_t",
        (s.mass, s.depth, s.arm, s.n_top),
        limits="Weight acts at half the depth; the box turns about its lower edge.",
    )
    unit = w.work(
        f"{shared}.withdrawal",
        "w",
        "Withdrawal per mm of thread",
        withdrawal_n_per_mm(s.gravity.value, s.diameter.value),
        "N/mm",
        "nds.12.2",
        "1800 * G ** 1.5 * (D / 25.4) ** 0.75 * 4.4482216152605 / 25.4",
        (s.gravity, s.diameter),
    )
    thread = w.work(
        f"{shared}.thread",
        "t",
        "Thread in the stud",
        max(0.0, min(s.length.value / 2 + 12.7, s.length.value - s.through.value)),
        "mm",
        "asme.b18",
        "max(0, min(L / 2 + 12.7, L - b))",
        (s.length, s.through),
    )
    allow = w.work(
        f"{shared}.pull_allowable",
        "W",
        "Allowable pull-out of one screw",
        unit.value * thread.value * PERMANENT.value,
        "N",
        "nds.12.2",
        "w * t * C_D",
        (unit, thread, w.keep(PERMANENT)),
        limits="Dry timber, permanent load.",
    )
    if allow.value <= 0:
        return None
    return w.work(
        f"{box}.ratio",
        "u",
        "Use of the top screws",
        shear.value / (s.lateral.value * PERMANENT.value) + pull.value / allow.value,
        "",
        "nds.12.2",
        "V / (Z * C_D) + T / W",
        (shear, s.lateral, pull, allow, PERMANENT),
        limits="Linear sum of shear and pull-out: the safe side of the interaction. 1 is full use.",
    )

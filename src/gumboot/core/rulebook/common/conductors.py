"""What is lost along a conductor, whatever the code family?"""

from __future__ import annotations

import math
from typing import Literal

Circuit = Literal["DC", "single-phase", "split-phase", "three-phase"]
# A two-wire circuit loses along both wires; a balanced three-phase one along one wire, seen between lines as root three.
PATHS = {"DC": 2.0, "single-phase": 2.0, "split-phase": 2.0, "three-phase": math.sqrt(3.0)}


def drop_v(
    current_a: float, length_m: float, r_ohm_per_km: float, x_ohm_per_km: float = 0.0, power_factor: float = 1.0, circuit: Circuit = "DC"
) -> float:
    """Voltage drop in V along a route of ``length_m``: b I L (r cos phi + x sin phi) (IEC 60364-5-52 Annex G, NEC Chapter 9 Table 9 note 2).

    Between the lines of a three-phase or the outer lines of a split-phase circuit, else between the two wires. A negative
    current is fed back, and its drop a rise.
    """
    sine = math.sqrt(max(0.0, 1.0 - power_factor * power_factor))
    return PATHS[circuit] * current_a * length_m / 1000.0 * (r_ohm_per_km * power_factor + x_ohm_per_km * sine)


def neutral_current_a(leg1_a: float, leg2_a: float) -> float:
    """Neutral current in A of a split-phase circuit: the difference of its legs at one power factor."""
    return abs(leg1_a - leg2_a)


def leg_drop_v(leg_a: float, other_leg_a: float, length_m: float, r_ohm_per_km: float) -> float:
    """Drop in V between one leg and neutral of a split-phase circuit: its own wire, and the neutral's share, which may help."""
    return length_m / 1000.0 * r_ohm_per_km * (leg_a + (leg_a - other_leg_a))


def warm_conductor_c(ambient_c: float, limit_c: float, current_a: float, capacity_a: float) -> float:
    """Conductor temperature in °C at a load: ambient plus the square of the load's share of the capacity (IEC 60364-5-52 523)."""
    return ambient_c + (limit_c - ambient_c) * (current_a / capacity_a) ** 2


def far_fault_current_a(source_v: float, source_fault_a: float, cable_ohm: float) -> float:
    """Prospective fault current in A at the far end of a cable, from the fault current at its near end.

    Source impedance and cable resistance are added as numbers: the true current lies at or above this, so it judges whether a
    device still operates, never what it must break.
    """
    return source_v / (source_v / source_fault_a + cable_ohm)

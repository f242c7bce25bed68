"""What is lost along a conductor, whatever the code family?"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from gumboot.core.expression import Amount, root_three, square_root, total

Circuit = Literal["DC", "single-phase", "split-phase", "three-phase"]
# A two-wire circuit loses along both wires; a balanced three-phase one along one wire, seen between lines as root three.


def drop_v(current_a: Amount, length_m: Amount, r_ohm_per_km: Amount, circuit: Circuit = "DC") -> Amount:
    """Voltage drop in V along a route of ``length_m`` at unity power factor: b I L r (IEC 60364-5-52 Annex G).

    Between the lines of a three-phase or the outer lines of a split-phase circuit, else between the two wires. A negative
    current is fed back, and its drop a rise.
    """
    along = length_m / 1000.0 * r_ohm_per_km * current_a
    return root_three(along) * along if circuit == "three-phase" else 2.0 * along


def reactive_drop_v(
    current_a: Amount, length_m: Amount, impedance: tuple[Amount, Amount], power_factor: Amount, circuit: Circuit
) -> Amount:
    """Voltage drop in V with reactance: b I L (r cos phi + x sin phi) (IEC 60364-5-52 Annex G, NEC Chapter 9 Table 9 note 2).

    ``impedance`` is resistance and reactance, ohm/km.
    """
    r, x = impedance
    sine = square_root(1.0 - power_factor**2)
    along = length_m / 1000.0 * (r * power_factor + x * sine) * current_a
    return root_three(along) * along if circuit == "three-phase" else 2.0 * along


def neutral_current_a(heavy_a: Amount, light_a: Amount) -> Amount:
    """Neutral current in A of a split-phase circuit: the difference of its legs at one power factor."""
    return heavy_a - light_a


def leg_drop_v(leg_a: Amount, neutral_a: Amount, length_m: Amount, r_ohm_per_km: Amount) -> Amount:
    """Drop in V between one leg and neutral of a split-phase circuit: its own wire, and the neutral's, below 0 where that helps."""
    return length_m / 1000.0 * r_ohm_per_km * (leg_a + neutral_a)


def warm_conductor_c(ambient_c: Amount, limit_c: float, current_a: Amount, capacity_a: Amount) -> Amount:
    """Conductor temperature in °C at a load: ambient plus the square of the load's share of the capacity (IEC 60364-5-52 523)."""
    return ambient_c + (limit_c - ambient_c) * (current_a / capacity_a) ** 2


def ways_together(ways: Sequence[Amount]) -> Amount:
    """Resistance of several ways side by side, in the unit of each, as if none shared a conductor with another: at most the true one (Rayleigh)."""
    if len(ways) == 1:
        return ways[0]
    conductances = [1.0 / way for way in ways]
    return 1.0 / total(conductances, conductances[0])


def largest_fault_current_a(source_v: Amount, source_fault_a: Amount, cable_ohm: Amount) -> Amount:
    """Prospective fault current in A at the far end of a cable, from the fault current at its near end, at most.

    The impedance of the source and the resistance of the cable are added at right angles: whatever the angle of the source's
    impedance, the true current lies at or below this, so it judges what a device must break.
    """
    return source_v / square_root((source_v / source_fault_a) ** 2 + cable_ohm**2)


def far_fault_current_a(source_v: Amount, source_fault_a: Amount, cable_ohm: Amount) -> Amount:
    """Prospective fault current in A at the far end of a cable, from the fault current at its near end.

    Source impedance and cable resistance are added as numbers: the true current lies at or above this, so it judges whether a
    device still operates, never what it must break.
    """
    return source_v / (source_v / source_fault_a + cable_ohm)

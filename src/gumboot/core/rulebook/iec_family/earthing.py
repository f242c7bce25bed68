"""How large must the protective conductor be, and does the fault trip the device in time?"""

from __future__ import annotations

from typing import Literal

from gumboot.core.errors import NotInTable, OutOfRange
from gumboot.core.expression import Amount, square_root
from gumboot.core.rulebook.loader import read_table

System = Literal["TN-S", "TN-C-S", "TT", "IT"]
_K = {(r["material"], r["insulation"], r["laid"]): float(r["k"]) for r in read_table("iec_family/tables/adiabatic_k.csv")}
_TIMES = read_table("iec_family/tables/disconnection_time.csv")
TOUCH_VOLTAGE_V = 50.0
FIRE_LIMIT_MA = 300.0
ADDITIONAL_LIMIT_MA = 30.0


def protective_area_mm2(line_mm2: float) -> float:
    """Least protective conductor in mm2 by the line conductor: S to 16, 16 to 35, S/2 above (IEC 60364-5-54 Table 54.2)."""
    if line_mm2 <= 16:
        return line_mm2
    return 16.0 if line_mm2 <= 35 else line_mm2 / 2


# Main bonding by the supply's neutral where that is earthed by the network (BS 7671 Table 54.8): largest neutral, least bonding, mm2.
_PME = ((35.0, 10.0), (50.0, 16.0), (95.0, 25.0), (150.0, 35.0))
LEAST_BONDING_MM2, MOST_BONDING_MM2 = 6.0, 25.0
# A protective conductor that is no part of a cable and lies in no common enclosure with its lines (543.1.3), mm2 copper, aluminium 16.
APART_MM2 = {("copper", True): 2.5, ("copper", False): 4.0, ("aluminium", True): 16.0, ("aluminium", False): 16.0}


def bonding_area_mm2(supply_mm2: float, *, earthed_neutral: bool = False) -> float:
    """Least main bonding conductor in mm2 copper (IEC 60364-5-54 544.1): half the largest protective conductor, 6 at least, 25 at most.

    ``earthed_neutral`` takes BS 7671 Table 54.8 by the neutral instead. Raises OutOfRange above its last row.
    """
    if not earthed_neutral:
        return min(MOST_BONDING_MM2, max(LEAST_BONDING_MM2, protective_area_mm2(supply_mm2) / 2))
    for most, least in _PME:
        if supply_mm2 <= most:
            return least
    raise OutOfRange("supply neutral", f"{supply_mm2:g} mm2", "up to 150 mm2", "BS 7671 Table 54.8", "Ask the network operator.")


def apart_area_mm2(material: str, *, protected: bool) -> float:
    """Least protective conductor in mm2 that is no part of a cable, with or without mechanical protection (IEC 60364-5-54 543.1.3)."""
    return APART_MM2[material, protected]


def factor_k(material: str = "copper", insulation: str = "PVC", laid: str = "core of a cable") -> float:
    """k in A s^0.5 / mm2 (IEC 60364-5-54 Tables A.54.2 and A.54.4). Raises NotInTable."""
    try:
        return _K[material, insulation, laid]
    except KeyError:
        raise NotInTable(
            "conductor", f"{material} {insulation}, {laid}", "the rows of Annex A", "IEC 60364-5-54 Annex A", "Choose one of these."
        ) from None


def adiabatic_area_mm2(fault_a: Amount, time_s: Amount, k: Amount) -> Amount:
    """Least protective conductor in mm2 by heat: sqrt(I^2 t) / k, for at most 5 s (543.1.2). Raises OutOfRange above."""
    if not 0 < float(time_s) <= 5:
        raise OutOfRange("disconnection time", f"{float(time_s)} s", "above 0 to 5 s", "IEC 60364-5-54 543.1.2", "Disconnect within 5 s.")
    return square_root(fault_a**2 * time_s) / k


def disconnection_time_s(to_earth_v: float, system: System, final_circuit: bool = True) -> float:
    """Longest disconnection time in s (IEC 60364-4-41 Table 41.1; distribution circuits 5 s in TN, 1 s in TT).

    Raises OutOfRange for a voltage outside 50 to 400 V.
    """
    if not final_circuit:
        return 1.0 if system == "TT" else 5.0
    for row in _TIMES:
        if float(row["to_earth_above_v"]) < to_earth_v <= float(row["to_earth_max_v"]):
            return float(row["tt_ac_s" if system == "TT" else "tn_ac_s"])
    raise OutOfRange(
        "voltage to earth", f"{to_earth_v} V", "above 50 to 400 V", "IEC 60364-4-41 Table 41.1", "Read the table for other voltages."
    )


def loop_impedance_max_ohm(to_earth_v: Amount, trip_a: Amount, margin: float = 1.0) -> Amount:
    """Largest earth-fault loop impedance in ohm: margin U0 / Ia (411.4.4; BS 7671 takes 0.95 for a low supply)."""
    return margin * to_earth_v / trip_a


def residual_resistance_max_ohm(touch_v: Amount, residual_ma: Amount) -> Amount:
    """Largest electrode resistance in ohm behind a residual device: touch voltage that may stand (50 V) / I_dn (411.5.3)."""
    return touch_v / (residual_ma / 1000.0)


def residual_type(waveform: Literal["pulsating", "smooth"], internal_monitoring: bool, maker_allows_a: bool) -> str:
    """Residual device type for an inverter: B, unless its maker states that it feeds no smooth DC fault current (60364-7-712 712.531.3)."""
    if waveform == "smooth" and not (internal_monitoring and maker_allows_a):
        return "B"
    return "A"

"""Unit conversions the trade uses every hour, exact by definition.

Factors: BIPM SI brochure and NIST SP 811 (1 in = 25.4 mm and 1 lbf = 4.4482216152605 N exactly).
"""

from __future__ import annotations

MM_PER_INCH = 25.4
M_PER_FOOT = 0.3048
NEWTON_PER_LBF = 4.4482216152605
NM_PER_LBF_IN = NEWTON_PER_LBF * MM_PER_INCH / 1000.0
NM_PER_LBF_FT = NM_PER_LBF_IN * 12.0
STANDARD_GRAVITY_M_PER_S2 = 9.80665
MM2_PER_KCMIL = 0.25 * 3.141592653589793 * (MM_PER_INCH / 1000.0) ** 2 * 1000.0


def lbf_in_from_nm(torque_nm: float) -> float:
    """Torque in pound-force inches from newton metres."""
    return torque_nm / NM_PER_LBF_IN


def lbf_ft_from_nm(torque_nm: float) -> float:
    """Torque in pound-force feet from newton metres."""
    return torque_nm / NM_PER_LBF_FT


def feet_from_m(length_m: float) -> float:
    """Length in feet from metres."""
    return length_m / M_PER_FOOT


def square_feet_from_m2(area_m2: float) -> float:
    """Area in square feet."""
    return area_m2 / M_PER_FOOT**2


def square_inches_from_cm2(area_cm2: float) -> float:
    """Area in square inches."""
    return area_cm2 / 2.54**2


def inches_from_mm(length_mm: float) -> float:
    """Length in inches from millimetres."""
    return length_mm / MM_PER_INCH


def fahrenheit_from_c(temperature_c: float) -> float:
    """Temperature in degrees Fahrenheit from Celsius."""
    return temperature_c * 9.0 / 5.0 + 32.0


def pounds_from_kg(mass_kg: float) -> float:
    """Mass in avoirdupois pounds from kilograms (1 lb = 0.45359237 kg exactly)."""
    return mass_kg / 0.45359237

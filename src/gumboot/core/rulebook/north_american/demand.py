"""What does a dwelling ask of its service (NEC 220 part IV), and what must its service conductor carry (310.12)?"""

from __future__ import annotations

from gumboot.core.expression import Amount, Expression, largest, least
from gumboot.core.figure import constant
from gumboot.core.job.demand import Heating

# 3 VA a square foot (220.82(B)(1)), 1500 VA a small-appliance or laundry circuit.
GENERAL = constant("p", "General lighting and outlets", 33.0, "W/m2", "nec.220.82", limits="3 VA for a square foot.")
CIRCUIT = constant("P_c", "One small-appliance or laundry circuit", 1500.0, "W", "nec.220.82")
# A dwelling's service conductor carries 83 % of the service rating (310.12(A)), from 100 to 400 A.
SERVICE_SHARE = constant("k", "Share of the service rating that its conductor carries", 0.83, "", "nec.310.12")
SHARE_FROM_A, SHARE_TO_A = 100.0, 400.0
# The measured peak counts by this much (220.87(2)), and a load that runs for hours as well (230.42(A)).
PEAK_FACTOR = 1.25

# Share of heating that counts (220.82(C)).
SHARES: dict[str, float] = {
    "none": 0.0,
    "heat pump alone": 1.0,
    "heat pump with supplement": 1.0,
    "central or fewer than four units": 0.65,
    "four units or more": 0.4,
    "storage": 1.0,
}
SUPPLEMENT = 0.65


def general_va(area_m2: Expression, circuits: Expression, appliances_w: Expression) -> Expression:
    """General load in VA of a dwelling (220.82(B)): area, small-appliance and laundry circuits, nameplates of what is fastened."""
    return GENERAL * area_m2 + circuits * CIRCUIT + appliances_w


def general_counted_va(general: Amount) -> Amount:
    """What counts of the general load in VA: 10 kVA in full, 40 % of the rest (220.82(B))."""
    return least(general, 10000.0) + 0.4 * largest(0.0, general - 10000.0)


def heating_va(kind: Heating, heating_w: Expression, supplement_w: Expression) -> Expression:
    """Heating that counts in VA (220.82(C)(1) to (6))."""
    counted = SHARES[kind] * heating_w
    return counted + SUPPLEMENT * supplement_w if kind == "heat pump with supplement" else counted


def existing_va(whole_w: Expression, climate_w: Expression | float) -> Expression:
    """Demand in VA of an existing dwelling: 8 kVA of its load in full, 40 % of the rest, an added heating or cooling in full (220.83)."""
    return least(whole_w, 8000.0) + 0.4 * largest(0.0, whole_w - 8000.0) + climate_w

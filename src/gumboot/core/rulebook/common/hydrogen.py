"""How much air does a lead-acid bank want (IEC 62485-2 7.2)?"""

from __future__ import annotations

from gumboot.core.expression import Amount

# Gas current in mA for each Ah, on float and on boost (Table 1).
GAS: dict[str, tuple[float, float]] = {"vented": (5.0, 20.0), "sealed": (1.0, 8.0)}
OPENING_CM2 = 28.0


def air_m3_h(cells: Amount, gas_ma_per_ah: Amount, capacity_ah: Amount) -> Amount:
    """Air in m3/h that keeps hydrogen below 4 % by a safety of five: 0.05 n I_gas Q / 1000."""
    return 0.05 * cells * gas_ma_per_ah * capacity_ah / 1000


def opening_cm2(air: Amount) -> Amount:
    """Each of two openings of a natural draught, cm2: 28 q."""
    return OPENING_CM2 * air

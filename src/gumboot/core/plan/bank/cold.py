"""What is left of the bank's energy on the coldest day at the equipment?"""

from __future__ import annotations

from gumboot.core.expression import largest, least
from gumboot.core.figure import Figure, constant
from gumboot.core.plan.bank.one import OneBank

# Capacity lost to cold: where the loss begins and its slope.
LITHIUM_COLD = (
    constant("T_knee", "Cell temperature below which lithium gives less", 10, "°C", "cp.cold"),
    constant("k_T", "Capacity lost for each kelvin below", 0.005, "1/K", "cp.cold", limits="lithium"),
)
LEAD_COLD = (
    Figure("const.cp.cold.T_knee_lead", "T_knee", "Cell temperature below which lead-acid gives less", 25, "°C", source="cp.cold"),
    Figure("const.cp.cold.k_T_lead", "k_T", "Capacity lost for each kelvin below", 0.008, "1/K", source="cp.cold", limits="lead-acid"),
)
COLD_SPAN_K = 50.0


def usable_when_cold(bank: OneBank, usable: Figure) -> None:
    """Usable energy with cells as cold as the air; the question of the coldest air is asked by the check of charging."""
    ledger = bank.ledger
    air = bank.coldest
    if air.value is None:
        return
    knee, slope = LEAD_COLD if bank.card.is_lead_acid else LITHIUM_COLD
    below = least(largest(0.0, knee - ledger.decided(air.path)), COLD_SPAN_K)
    bank.work(
        "bank.usable_cold",
        "E_cold",
        "Usable energy on the coldest day",
        usable * (1 - slope * below),
        "Wh",
        source="cp.cold",
        limits=f"Cells as cold as the air; down to {COLD_SPAN_K:g} K below the knee. The maker's curve wins.",
    )

"""What string voltage and current does an array under IEC 62548 reach?"""

from __future__ import annotations

from gumboot.core.expression import Amount, least


def conductor_current_a(short_circuit_a: float, parallel_strings: int = 1) -> float:
    """Least current in A of a string or array cable: 1.25 Isc of what can feed it (IEC 62548-1 Table 6)."""
    return 1.25 * short_circuit_a * parallel_strings


def back_feed_a(parallel_strings: Amount, short_circuit_a: Amount) -> Amount:
    """What the other strings of an input can feed into a fault in one, A: (N - 1) Isc (IEC 62548-1 6.3.3)."""
    return (parallel_strings - 1) * short_circuit_a


def string_fuse_range_a(short_circuit_a: Amount, fuse_max_a: Amount) -> tuple[Amount, Amount]:
    """String fuse rating in A: above 1.5 Isc, below 2.4 Isc, and at most the module's rating (IEC 62548-1 6.5.3)."""
    return 1.5 * short_circuit_a, least(2.4 * short_circuit_a, fuse_max_a)


def frame_earth_mm2(lightning_protection: bool) -> float:
    """Least frame bonding conductor in mm2 copper: 4; 16 where it is part of a lightning protection system (IEC 62548-1 7.4)."""
    return 16.0 if lightning_protection else 4.0

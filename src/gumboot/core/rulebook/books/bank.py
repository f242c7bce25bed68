"""What the books say of a battery's circuit: whose clause asks for its current, and what its device carries for hours."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class BankClauses:
    """A family's answers for the battery circuit. Sources are keys of the register.

    ``device_share`` is the share of its rating that an overcurrent device carries for hours.
    """

    current_source: str
    device_share: float
    device_source: str
    # DC volts in a dwelling: with live parts in reach during maintenance, and at all; None where the book leaves it open.
    dwelling_v: tuple[float, float] | None = None


# NEC 706.30(A) asks for the inverter's input current at its lowest voltage; by IEC it is plain energy balance.
# NEC 210.19 and 215.3 load a device to 80 % for hours; an IEC device carries its rating.
BANK = {"nec": BankClauses("nec.706.30", 0.8, "nec.210.19", (100, 600)), "iec": BankClauses("physics", 1.0, "iec.43.433")}

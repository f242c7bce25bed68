"""How much does an AC-coupled PV inverter give as the battery inverter raises the frequency?"""

from __future__ import annotations

from dataclasses import dataclass

from gumboot.core.errors import NotInTable
from gumboot.core.expression import Amount, largest, least
from gumboot.core.rulebook.loader import read_table


@dataclass(frozen=True, slots=True)
class Droop:
    """Published default settings: full power up to ``begins_hz``, none from ``zero_hz``; off at ``trips_hz``, back after ``reconnect_s``."""

    standard: str
    nominal_hz: float
    begins_hz: float
    zero_hz: float
    trips_hz: float
    reconnect_s: float
    source: str


DROOPS = {
    r["standard"]: Droop(
        r["standard"],
        float(r["nominal_hz"]),
        float(r["begins_hz"]),
        float(r["zero_hz"]),
        float(r["trips_hz"]),
        float(r["reconnect_s"]),
        r["source"],
    )
    for r in read_table("common/tables/droop.csv")
}


def droop(standard: str) -> Droop:
    """Default droop of a standard. Raises NotInTable."""
    try:
        return DROOPS[standard]
    except KeyError:
        raise NotInTable("standard", standard, ", ".join(DROOPS), "published default settings", "Choose one of these.") from None


def power_share(frequency_hz: Amount, begins_hz: Amount, zero_hz: Amount) -> Amount:
    """Share 0 to 1 of its power that the PV inverter gives at a frequency, falling in a straight line."""
    return least(1.0, largest(0.0, (zero_hz - frequency_hz) / (zero_hz - begins_hz)))


def frequency_for(share: float, begins_hz: Amount, zero_hz: Amount) -> Amount:
    """Frequency in Hz at which the PV inverter gives a share 0 to 1 of its power."""
    return zero_hz - share * (zero_hz - begins_hz)

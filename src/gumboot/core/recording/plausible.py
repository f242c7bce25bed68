"""Does a value outside its band look like a slip: a decimal, a unit? Then it is asked about before it is kept."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gumboot.core.acts import Act, Kind
from gumboot.core.record import AnyRecord, Landing, Reading, Words
from gumboot.core.standing import Standing
from gumboot.core.units import NM_PER_LBF_IN

# How near to a slip a value must be to be taken for one, as a share of it.
NEAR = 0.08
TEN = ((10.0, "a decimal point"), (0.1, "a decimal point"))
THOUSAND = ((1000.0, "the unit, k or m"), (0.001, "the unit, k or m"))


class Slip(NamedTuple):
    """What a value may have been meant to be, and what was mistaken."""

    meant: float
    what: str


def _torque_slips() -> Sequence[tuple[float, str]]:
    """How many times too large a torque is that was read in another unit than it was typed in."""
    return [
        (1 / NM_PER_LBF_IN, "the unit, lbf in for N m"),
        (NM_PER_LBF_IN, "the unit, N m for lbf in"),
        (12.0, "the unit, lbf in for lbf ft"),
    ]


def slip(value: float, wanted: float, unit: str) -> Slip | None:
    """What a value that stands outside its band may have been; None where it looks like nothing but itself."""
    if not wanted or not value:
        return None
    for factor, what in (*TEN, *THOUSAND, *(_torque_slips() if unit == "N m" else ())):
        meant = value / factor
        if abs(abs(meant) - abs(wanted)) <= NEAR * abs(wanted):
            return Slip(meant, what)
    if unit == "°C":
        meant = (value - 32) / 1.8
        if abs(meant - wanted) <= NEAR * abs(wanted):
            return Slip(meant, "the unit: °F read as °C")
    return None


def _wanted(act: Act) -> float | None:
    """What is expected, or the middle of a band with two ends; a band with one end expects nothing."""
    band = act.band
    if band.expected is not None:
        return band.expected.value
    return (band.low.value + band.high.value) / 2 if band.low is not None and band.high is not None else None


def same_number(standing: Standing, act: Act, record: AnyRecord) -> str:
    """What is asked where another unit has this number already: a plate was read twice, or the wrong one."""
    if act.kind is not Kind.SERIAL or not isinstance(record, Words):
        return ""
    number = "".join(record.text.split()).casefold()
    for other in standing.acts.values():
        said = standing.last.get(other.id) if other.kind is Kind.SERIAL and other.id != act.id else None
        if isinstance(said, Words) and "".join(said.text.split()).casefold() == number:
            return f"{other.thing} has the number {said.text} already. Is it the number of {act.thing} too?"
    return ""


def asked_about(act: Act, record: AnyRecord) -> str:
    """The question that a value raises before it is kept; empty where it raises none."""
    value = record.reached_nm if isinstance(record, Landing) else record.value if isinstance(record, Reading) else None
    wanted, band = _wanted(act), act.band
    if value is None or wanted is None or act.band.shows:
        return ""
    size = abs(value) if band.measures in ("magnitude", "polarity") else value
    low, high = band.low, band.high
    if (low is None or size >= low.value) and (high is None or size <= high.value):
        return ""
    found = slip(size, wanted, band.unit)
    if found is None:
        return ""
    return f"{value:g} {band.unit}, where {wanted:.4g} {band.unit} is expected: did you mean {found.meant:.4g} {band.unit}? It looks like a slip of {found.what}."

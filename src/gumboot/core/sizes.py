"""Conductor sizes of both families under one roof: reading them as people write them, and telling the larger."""

from __future__ import annotations

import re
from functools import lru_cache

from gumboot.core.errors import BadUnit, NotInTable
from gumboot.core.reading import MOST_CHARACTERS
from gumboot.core.rulebook.iec_family import conductors as iec
from gumboot.core.rulebook.north_american import conductors as nec
from gumboot.core.units import MM2_PER_KCMIL

SIZES_MM2 = {f"{size} mm2": float(size) for size in iec.SIZES}
# Data and control wiring is finer than any power table.
FINE_MM2 = {"0.25 mm2": 0.25, "0.5 mm2": 0.5, "0.75 mm2": 0.75, "1 mm2": 1.0, "150 mm2": 150.0, "185 mm2": 185.0, "240 mm2": 240.0}
FINE_AWG = {f"{n} AWG": float(0.012668 * 92 ** ((36 - n) / 19.5)) for n in (16, 18, 20, 22, 24)}
_AREAS = {**{s: c.area_mm2 for s, c in nec.COPPER.items()}, **SIZES_MM2, **FINE_MM2, **FINE_AWG}
_SHAPE = re.compile(
    r"^#?\s*(\d{1,4}(?:\.\d{1,3})?|[1-4]/0)\s*(awg|ga|gauge|kcmil|mcm|mm2|mm²|mm\^2|sqmm|sq mm)?$", re.IGNORECASE | re.ASCII
)
_AWG_FIRST = re.compile(r"^(?:awg|no\.?)\s*#?\s*(?=\d)", re.IGNORECASE)
_NOUGHTS = {"0": "1/0", "00": "2/0", "000": "3/0", "0000": "4/0"}


@lru_cache(maxsize=512)
def area_mm2(size: str) -> float:
    """Conductor area in mm2 of a size label such as ``2/0 AWG``, ``250 kcmil`` or ``16 mm2``. Raises NotInTable."""
    try:
        return _AREAS[size]
    except KeyError:
        raise NotInTable(
            "conductor size", size, "a trade size or a standard cross-section in mm2", "both size tables", "Choose a standard size."
        ) from None


def read_size(text: str, family: str = "nec") -> str:
    """A size as people write it, as the tables write it. A bare number is AWG or mm2 by family. Raises BadUnit and NotInTable."""
    said = text.strip() if len(text) <= MOST_CHARACTERS else ""
    awg_first = _AWG_FIRST.match(said)
    match = _SHAPE.match(said[awg_first.end() :] if awg_first else said)
    if match is None:
        raise BadUnit(f"'{text.strip()[:MOST_CHARACTERS]}' is no conductor size. Write 4/0 AWG, 250 kcmil or 50 mm2.")
    number, noughts = match.group(1), "/" in match.group(1)
    # Noughts are gauges alone, whatever the family: 1/0 bare is no 1/0 mm2.
    unit = (match.group(2) or ("awg" if family == "nec" or awg_first or noughts else "mm2")).lower()
    if noughts and unit not in ("awg", "ga", "gauge"):
        raise BadUnit(f"'{text.strip()}' is no conductor size: {number} is a gauge. Write {number} AWG, 250 kcmil or 50 mm2.")
    unit = "awg" if unit in ("ga", "gauge") else unit
    if unit == "awg":
        number = _NOUGHTS.get(number, number)
    if unit == "awg" and "/" not in number and float(number) >= 250:
        unit = "kcmil"
    label = f"{number} AWG" if unit == "awg" else f"{number} kcmil" if unit in ("kcmil", "mcm") else f"{float(number):g} mm2"
    area_mm2(label)
    return label


def larger(first: str, second: str) -> str:
    """The larger of two sizes, of either family; the first when they are equal."""
    return first if area_mm2(first) >= area_mm2(second) else second


def kcmil(size: str) -> float:
    """Area of a size in thousand circular mils."""
    return area_mm2(size) / MM2_PER_KCMIL

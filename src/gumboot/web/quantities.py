"""What people type becomes SI: ``12 ft``, ``3.6 m``, ``-4 F``, ``80 lbf in``. The units library lives only here."""

from __future__ import annotations

import re
from functools import lru_cache

import pint

from gumboot.core.errors import BadUnit
from gumboot.drawing.show import US

PINT = {
    "m": "meter",
    "mm": "millimeter",
    "°C": "degC",
    "A": "ampere",
    "V": "volt",
    "W": "watt",
    "kg": "kilogram",
    "N m": "newton * meter",
    "h": "hour",
    "N": "newton",
    "K": "delta_degC",
    "%": "percent",
    "ohm": "ohm",
    "Mohm": "megaohm",
    "Wh": "watt * hour",
    "mohm": "milliohm",
    "Hz": "hertz",
    "uF": "microfarad",
    "s": "second",
    "mA": "milliampere",
}
WORDS = {
    "lbf in": "lbf * inch",
    "lbf ft": "lbf * foot",
    "lbf·in": "lbf * inch",
    "lbf·ft": "lbf * foot",
    "in lbf": "lbf * inch",
    "N m": "newton * meter",
    "Nm": "newton * meter",
    "N·m": "newton * meter",
    "°C": "degC",
    "°F": "degF",
    "C": "degC",
    "F": "degF",
    '"': "inch",
    "'": "foot",
    "%": "percent",
    "Ω": "ohm",
    "MΩ": "megaohm",
    "Mohm": "megaohm",
    "mΩ": "milliohm",
    "µF": "microfarad",
    "μF": "microfarad",
}
_SHAPE = re.compile(r"^\s*([+\-−]?\d+(?:[.,]\d+)?|[+\-−]?[.,]\d+)\s*(.*?)\s*$")


@lru_cache(maxsize=1)
def _registry() -> pint.UnitRegistry[float]:
    return pint.UnitRegistry(autoconvert_offset_to_baseunit=False)


def parse(text: str, unit: str, system: str = "SI") -> float:
    """A typed quantity in ``unit``. A bare number is read in the unit shown beside the field.

    Raises BadUnit for text that is no quantity or has the wrong dimension.
    """
    match = _SHAPE.match(text)
    if match is None:
        raise BadUnit(f"'{text.strip()}' is not a number. Type a number{f', with {unit} or another unit of its kind' if unit else ''}.")
    if re.search(r",\d{3}$", match.group(1)):
        raise BadUnit(f"'{match.group(1)}' could be thousands or decimals. Type it without the comma.")
    number = float(match.group(1).replace("−", "-").replace(",", "."))
    typed = match.group(2)
    if not typed:
        typed = US[unit][0] if system == "US" and unit in US else unit
    if not unit:
        if typed:
            raise BadUnit(f"'{typed}' does not belong here: this is a plain number.")
        return number
    if typed == unit:
        return number
    ureg = _registry()
    try:
        return float(f"{ureg.Quantity(number, WORDS.get(typed, typed)).to(PINT[unit]).magnitude:.12g}")
    except pint.DimensionalityError:
        raise BadUnit(f"'{typed}' is the wrong kind of unit: this field is in {unit}.") from None
    except (pint.UndefinedUnitError, pint.OffsetUnitCalculusError, AttributeError, ValueError, TypeError, KeyError):
        raise BadUnit(f"'{typed}' is no unit that is known here. Type {unit}.") from None

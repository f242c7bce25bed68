"""What people type becomes a number: ``12 ft``, ``25 ft 6 in``, ``1 1/4 in``, ``165 in-lb``, ``-0.27 %/K``.

A small grammar over an allow-list of units (``tables/units.csv``). Nothing typed is ever evaluated, and no text is read beyond
``MOST_CHARACTERS``: the time to read it is bounded whatever it holds. ::

    quantity = [sign] number [unit] | [sign] number unit number unit      (feet and inches, hours and minutes, minutes and seconds)
    number   = digits [. or , digits] | [digits] fraction | digits grouped by narrow spaces
"""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from functools import lru_cache

from gumboot.core.errors import BadUnit
from gumboot.core.rulebook.loader import read_table

MOST_CHARACTERS = 64
# Finer than any rule or vernier that is used on site.
FINEST_FRACTION = 64
_GROUPED = r"\d{1,3}(?:[\u00a0\u202f]\d{3})+"
_NUMBER = re.compile(
    rf"(?P<whole>{_GROUPED}|\d{{1,12}})?(?:(?P<gap>[ -]?)(?P<over>(?<![\d.,])\d{{1,3}})\s?/\s?(?P<under>\d{{1,3}}))|"
    rf"(?P<decimal>(?:{_GROUPED}|\d{{1,12}})?(?:[.,]\d{{1,12}})?)"
)
_THOUSANDS = re.compile(r"\d,\d{3}$")
_COMPOUND = {("ft", "in"): 12.0, ("h", "min"): 60.0, ("min", "s"): 60.0}
# Two right spellings for a refusal, by the unit of the field.
_SHOWN = {
    "m": ("3.6 m", "12 ft 6 in"),
    "mm": ("45 mm", "1 3/4 in"),
    "°C": ("-12 °C", "10 °F"),
    "kg": ("27 kg", "60 lb"),
    "N m": ("4 N m", "35 lbf in"),
    "A": ("48 A", "0.3 kA"),
    "V": ("240 V", "0.39 kV"),
    "W": ("1500 W", "1.5 kW"),
    "Wh": ("5100 Wh", "5.1 kWh"),
    "%": ("97 %", "97"),
    "h": ("2 h", "90 min"),
    "s": ("3.6 s", "250 ms"),
    "N": ("400 N", "90 lbf"),
    "K": ("30 K", "54 °F"),
    "ohm": ("60 ohm", "0.04 kohm"),
    "Mohm": ("1 Mohm", "500 kohm"),
    "mohm": ("8 mohm", "0.008 ohm"),
    "Hz": ("50.2 Hz", "60 Hz"),
    "uF": ("2200 uF", "2.2 mF"),
    "mA": ("30 mA", "0.03 A"),
    "%/K": ("-0.27 %/K", "-130 mV/K"),
    "1/K": ("-0.27 %/K", "-0.0027 1/K"),
    "": ("3", "0.95"),
}


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit: its dimension and what takes it to that dimension's base, ``base = factor * value + offset``."""

    dimension: str
    symbol: str
    factor: float
    offset: float


@dataclass(frozen=True, slots=True)
class _Allowed:
    exact: dict[tuple[str, str], Unit]
    folded: dict[tuple[str, str], Unit]
    by_symbol: dict[str, Unit]
    spellings: frozenset[str]


def _plain(text: str) -> str:
    return " ".join(text.split())


@lru_cache(maxsize=1)
def _allowed() -> _Allowed:
    exact: dict[tuple[str, str], Unit] = {}
    by_symbol: dict[str, Unit] = {}
    for row in read_table("common/tables/units.csv"):
        unit = Unit(row["dimension"], row["unit"], float(row["factor"]), float(row["offset"]))
        by_symbol.setdefault(unit.symbol, unit)
        for spelling in dict.fromkeys((unit.symbol, *row["spellings"].split("|"))):
            exact[(unit.dimension, _plain(spelling))] = unit
    # A spelling may be typed in any case, but for what begins with an M: milli and mega are never guessed from one another.
    folded = {(d, s.lower()): u for (d, s), u in exact.items() if not s.startswith("M")}
    return _Allowed(exact, folded, by_symbol, frozenset(s for _, s in exact))


def is_known(unit: str) -> bool:
    """Whether people may write this unit behind a number."""
    return unit in _allowed().by_symbol


def example(unit: str) -> str:
    """A right spelling of a quantity in a unit, for a field that asks for one."""
    # Hot and cold are asked in the same unit: one of each says that a sign is meant.
    return "35 °C or -12 °C" if unit == "°C" else _SHOWN.get(unit, (f"12 {unit}", ""))[0]


def _shown(unit: str) -> str:
    first, second = _SHOWN.get(unit, (f"12 {unit}", f"0.5 {unit}"))
    return f"Write for example {first} or {second}."


def _find(typed: str, dimension: str) -> Unit | None:
    allowed, text = _allowed(), _plain(typed)
    found = allowed.exact.get((dimension, text))
    if found is None and not text.startswith("M"):
        found = allowed.folded.get((dimension, text.lower()))
    return found


def _unit(typed: str, unit: str, dimension: str) -> Unit:
    found = _find(typed, dimension)
    if found is not None:
        return found
    if _plain(typed) in _allowed().spellings or any(_find(typed, u.dimension) for u in _allowed().by_symbol.values()):
        raise BadUnit(f"'{typed}' is the wrong kind of unit: this field is in {unit}. {_shown(unit)}")
    raise BadUnit(f"'{typed}' is no unit that is known here. {_shown(unit)}")


@dataclass(frozen=True, slots=True)
class _Number:
    value: float
    fraction: bool


def _number(text: str, unit: str) -> tuple[_Number, str]:
    """The number at the beginning, and the rest."""
    found = _NUMBER.match(text)
    if found is None or not found.group():
        raise BadUnit(f"'{text}' is not a number. {_shown(unit)}")
    rest = text[found.end() :]
    if found["over"]:
        over, under = int(found["over"]), int(found["under"])
        if under == 0:
            raise BadUnit(f"'{found.group().strip()}' is a conductor size, not a number of anything. {_shown(unit)}")
        if under > FINEST_FRACTION or (found["whole"] and over >= under):
            raise BadUnit(f"'{found.group().strip()}' is no fraction that a rule shows. {_shown(unit)}")
        whole = float(re.sub(r"\D", "", found["whole"])) if found["whole"] else 0.0
        return _Number(whole + over / under, True), rest
    if _THOUSANDS.search(found.group()):
        raise BadUnit(f"'{found.group()}' could be thousands or decimals. Type it without the comma. {_shown(unit)}")
    return _Number(float(re.sub(r"[\u00a0\u202f]", "", found.group()).replace(",", ".")), False), rest


def _told(text: str) -> str:
    """As it is read: vulgar fractions written out, one kind of minus and of stroke."""

    def wide(character: str) -> str:
        drawn = unicodedata.normalize("NFKC", character)
        return f" {drawn}" if "\u2044" in drawn else character

    return "".join(wide(c) for c in text).replace("\u2212", "-").replace("\u2013", "-").replace("\u2044", "/").strip()


def parse(text: str, unit: str, shown: str | None = None, per_volt: float | None = None) -> float:
    """A typed quantity in ``unit``. A bare number is read in ``shown``, the unit that stands beside the field, or else in ``unit``.

    ``per_volt`` is the voltage in V at 25 °C of which a coefficient in mV/K is a share.
    Raises BadUnit for text that is no quantity, is too long, or has the wrong dimension; each refusal shows two right spellings.
    """
    if len(text) > MOST_CHARACTERS:
        raise BadUnit(f"That is {len(text)} characters; a quantity has at most {MOST_CHARACTERS}. {_shown(unit)}")
    told = _told(text)
    sign = -1.0 if told.startswith("-") else 1.0
    first, rest = _number(told[1:].lstrip() if told[:1] in ("-", "+") else told, unit)
    if not unit:
        if rest.strip():
            raise BadUnit(f"'{rest.strip()}' does not belong here: this is a plain number. {_shown(unit)}")
        return sign * first.value
    target = _allowed().by_symbol.get(unit)
    if target is None:
        raise BadUnit(f"'{unit}' is no unit of a field here. Reload the page.")
    beside = _allowed().by_symbol[shown or unit]
    typed = rest.strip()
    if not typed:
        if first.fraction and beside.symbol not in ("in", "ft"):
            raise BadUnit(f"'{told}' needs its unit: a fraction is rarely {beside.symbol}. {_shown(unit)}")
        return _converted(sign * first.value, beside, target)
    second = re.match(r"^\s*([^\d\s][^\d]*?)\s*(\d.*)$", rest)
    if second and _find(second.group(1), target.dimension) is not None:
        return sign * _both(first, second.group(1), second.group(2), target, unit)
    if target.dimension == "coefficient" and _find(typed, "coefficient") is None:
        return sign * first.value * _share(typed, target, unit, per_volt)
    found = _unit(typed, unit, target.dimension)
    return _converted(sign * first.value, found, target)


def _both(first: _Number, name: str, after: str, target: Unit, unit: str) -> float:
    """Feet and inches, hours and minutes: the sum in the target's unit."""
    large = _unit(name, unit, target.dimension)
    last, rest = _number(after, unit)
    small = _unit(rest.strip(), unit, target.dimension) if rest.strip() else None
    parts = _COMPOUND.get((large.symbol, small.symbol)) if small else None
    if small is None or parts is None or first.fraction or not first.value.is_integer() or last.value >= parts:
        raise BadUnit(f"'{first.value:g} {name} {after}' is not one quantity. {_shown(unit)}")
    return _converted(first.value, large, target) + _converted(last.value, small, target)


def _share(typed: str, target: Unit, unit: str, per_volt: float | None) -> float:
    """What one of a voltage coefficient's unit is as a share of the voltage it belongs to."""
    found = _find(typed, "voltage coefficient")
    if found is None:
        return _unit(typed, unit, "coefficient").factor
    if not per_volt:
        raise BadUnit(f"'{typed}' is a share only of a known voltage. Give the open-circuit voltage first, or write -0.27 %/K.")
    return found.factor / per_volt / target.factor


def _converted(value: float, given: Unit, target: Unit) -> float:
    if given is target:
        return value
    # Twelve digits: more than any instrument shows, fewer than where binary fractions show.
    return float(f"{(given.factor * value + given.offset - target.offset) / target.factor:.12g}")


@dataclass(frozen=True, slots=True)
class Shown:
    """What an instrument shows: a value, or one beyond its range (``over``), of which only the end of the range may be known."""

    value: float | None
    over: bool = False


_OVER = {"ol", "o.l", "o.l.", "0l", "o/l", "over", "over range", "overrange", "over-range", "\u221e", "inf", "open"}


def read_shown(text: str, unit: str, shown: str | None = None) -> Shown:
    """What an instrument shows, ``>999`` and ``OL`` included, in ``unit``. Raises BadUnit."""
    plain = text.strip()
    if len(plain) <= MOST_CHARACTERS and plain.lower() in _OVER:
        return Shown(None, True)
    if plain[:1] in (">", "\u2265"):
        return Shown(parse(plain[1:].lstrip("= "), unit, shown), True)
    return Shown(parse(text, unit, shown))

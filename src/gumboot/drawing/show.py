"""How a number is written for a person: decimals by unit, the site's units first, the other system beside it."""

from __future__ import annotations

from collections.abc import Callable

from gumboot.core import units, working
from gumboot.core.figure import Figure
from gumboot.core.installation import House
from gumboot.core.wording import inches_on_tape

DECIMALS = {
    "V": 1,
    "A": 1,
    "W": 0,
    "Wh": 0,
    "h": 1,
    "m": 2,
    "mm": 0,
    "kg": 0,
    "N m": 1,
    "lbf in": 0,
    "lbf ft": 1,
    "ft": 1,
    "in": 2,
    "°C": 0,
    "°F": 0,
    "%": 2,
    "N": 0,
    "ohm": 2,
    "Mohm": 1,
    "K": 0,
    "lb": 0,
    "": 2,
    "Ah": 0,
    "s": 1,
    "J": 1,
    "mm2": 1,
    "m2": 1,
    "ft2": 0,
    "cm2": 0,
    "in2": 1,
    "ohm/km": 3,
    "N/mm": 1,
    "1/K": 4,
    "uF": 0,
    "kWh": 0,
}
US: dict[str, tuple[str, Callable[[float], float]]] = {
    "m": ("ft", units.feet_from_m),
    "mm": ("in", units.inches_from_mm),
    "°C": ("°F", units.fahrenheit_from_c),
    "m2": ("ft2", units.square_feet_from_m2),
    "cm2": ("in2", units.square_inches_from_cm2),
    "kg": ("lb", units.pounds_from_kg),
    "N m": ("lbf in", units.lbf_in_from_nm),
}


def plain(value: float, unit: str) -> str:
    """Digits of a value in its unit; a true minus, and no needless zeros on whole numbers without unit."""
    if unit not in ("N m", "lbf ft") and abs(value - round(value)) < 1e-9:
        text = f"{value:.0f}"
    else:
        text = f"{value:.{DECIMALS.get(unit, 2)}f}"
    if abs(value) >= 10000:
        text = f"{value:,.0f}".replace(",", "\u202f")
    if not text.strip("-0."):
        text = text.removeprefix("-")  # a small negative rounds to plain nothing
    return text.replace("-", "−")


def in_system(value: float, unit: str, system: str) -> tuple[str, str]:
    """Digits and unit in the chosen system."""
    if system == "US" and unit in US:
        other, convert = US[unit]
        return plain(convert(value), other), other
    return plain(value, unit), unit


def quantity(value: float, unit: str, system: str = "SI") -> str:
    """Digits and unit as one string."""
    digits, shown = in_system(value, unit, system)
    return f"{digits} {shown}".strip()


def tape(mm: float, system: str) -> str:
    """A length as a tape shows it: whole millimetres, or inches with the nearest sixteenth."""
    return inches_on_tape(mm) if system == "US" else f"{mm:.0f} mm"


def figure_text(figure: Figure, system: str = "SI") -> str:
    """A figure as the trade writes it: its label, or digits and unit."""
    return figure.label.replace("mm2", "mm²") or quantity(figure.value, figure.unit, system).replace("mm2", "mm²")


def both(figure: Figure, system: str) -> tuple[str, str]:
    """The figure in the site's units, and in the other system when that differs."""
    first = figure_text(figure, system)
    if figure.label:
        return first, f"{figure.value:.1f} mm²" if figure.unit == "mm2" and not figure.label.endswith("mm2") else ""
    second = figure_text(figure, "SI" if system == "US" else "US")
    return first, second if second != first else ""


def substituted(figure: Figure) -> str:
    """The working with the numbers put in."""
    if figure.work is None:
        return ""
    return working.shown(figure.work, lambda f: f"({plain_exact(f.value)})" if f.value < 0 else plain_exact(f.value))


def plain_exact(value: float) -> str:
    """Up to six significant digits, without an exponent."""
    return f"{value:.6g}"


def pretty(formula: str) -> str:
    """A formula with the signs a person writes."""
    text = formula.replace("**", "^").replace(" * ", " · ").replace(" + 1e-9", "").replace(" - 1e-9", "")
    text = text.replace(" - ", " − ").replace("(-", "(−")
    return f"−{text[1:]}" if text.startswith("-") else text


def place_words(house: House, place: str) -> str:
    """What people call a place: its title; the board that is alone of its duty by that; else its name in the job."""
    seat = next((seat for seat in house.seats.all() if seat.id == place), None)
    if seat is not None and seat.name != place:
        return seat.name
    alone = ((house.boards, "backed-up board"), (house.seats.mains, "main board"))
    return next((words for boards, words in alone if [board.id for board in boards] == [place]), place)

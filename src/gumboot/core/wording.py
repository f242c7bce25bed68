"""How words that begin a line stand within a sentence, and how lengths and weights stand in one: in the units of both systems."""

from __future__ import annotations

from gumboot.core.units import inches_from_mm, pounds_from_kg

# A tape in inches is read to this part of one.
PART = 16


def within(words: str) -> str:
    """Words as they stand in the middle of a sentence: the first letter small, but of a name such as PV or L1."""
    return words if words[1:2].isupper() or words[1:2].isdigit() else words[:1].lower() + words[1:]


def inches_on_tape(mm: float) -> str:
    """A length as a tape in inches shows it, to the nearest sixteenth."""
    whole, parts = divmod(round(inches_from_mm(abs(mm)) * PART), PART)
    sign = "−" if mm < 0 and (whole or parts) else ""
    if not parts:
        return f"{sign}{whole} in"
    over = PART
    while parts % 2 == 0:
        parts, over = parts // 2, over // 2
    return f"{sign}{f'{whole} ' if whole else ''}{parts}/{over} in"


def length_in_both(mm: float) -> str:
    """A length in millimetres, and as a tape in inches shows it."""
    return f"{mm:.0f} mm ({inches_on_tape(mm)})" if mm == round(mm) or mm >= 100 else f"{mm:.1f} mm ({inches_on_tape(mm)})"


def weight_in_both(kg: float) -> str:
    """A weight in kilograms and in pounds."""
    return f"{kg:g} kg ({pounds_from_kg(kg):.0f} lb)"

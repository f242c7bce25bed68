"""What somebody typed into a field, as the field's own model takes it."""

from __future__ import annotations

import re
from typing import Any

from gumboot.core.errors import BadUnit
from gumboot.core.job.fields import Field
from gumboot.core.reading import is_known
from gumboot.web.quantities import parse


def unit_of(field: Field) -> str:
    """The unit in which a field is typed; nothing where the unit is none that people write behind a number."""
    return field.unit if is_known(field.unit) else ""


def _pins(text: str) -> dict[str, int]:
    """One core of a lead: ``4-7`` joins the inverter's pin 4 to the battery's pin 7."""
    found = re.fullmatch(r"(\d)[-–:](\d)", text)
    if found is None:
        raise BadUnit(f"'{text}' is no core. Write the inverter's pin, a dash and the battery's pin: 4-7.")
    return {"inverter_pin": int(found.group(1)), "battery_pin": int(found.group(2))}


def read(field: Field, text: str, system: str) -> Any:
    """The value of a typed field; empty means not answered. Raises BadUnit."""
    parts, unit = [part for part in re.split(r"[,;\s]+", text.strip()) if part], unit_of(field)
    match field.kind:
        case "flag":
            return text == "yes"
        case "yes or no":
            return None if not parts else text == "yes"
        case "pins":
            return [_pins(part) for part in parts]
        case "names":
            return parts
        case "numbers":
            return [parse(part, unit) for part in re.split(r"[;\s]+", text.strip()) if part]
        case "text":
            return text.strip() or (None if field.may_be_empty else "")
    if not parts:
        return None
    if field.kind == "choice":
        return next((choice for choice in field.choices if str(choice) == text.strip()), text.strip())
    value = parse(text, unit, system)
    return int(value) if field.kind == "whole" and value.is_integer() else value


def written(field: Field, value: Any) -> str:
    """A value as one may type it and mean the same in either unit system."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if value is None:
        return ""
    if isinstance(value, list):
        return " ".join(
            f"{x['inverter_pin']}-{x['battery_pin']}" if isinstance(x, dict) else x if isinstance(x, str) else f"{x:g}" for x in value
        )
    if isinstance(value, int | float):
        return f"{value:.10g} {unit_of(field).replace('°', '') if unit_of(field) == '°' else unit_of(field)}".strip()
    return str(value)

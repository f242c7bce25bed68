"""A field is asked for as its model declares it, and what names or holds other things is no field."""

from __future__ import annotations

import importlib
from pathlib import Path
from typing import Any

import pytest
from pydantic import BaseModel

from gumboot.catalogue import demo_house
from gumboot.core import job as job_package
from gumboot.core.errors import BadUnit
from gumboot.core.job import BadPath
from gumboot.core.job.fields import field_at
from gumboot.core.quantity import quantities
from gumboot.web import typed

JOB = demo_house("d1-saltmarsh")


@pytest.mark.parametrize(
    ("path", "kind", "unit", "options"),
    [
        ("runs.bat-main.length_m", "number", "m", ()),
        ("banks.bank.units.bat-2.dip_address", "whole", "", ()),
        ("strings.S1.modules", "whole", "", ()),
        ("site.rapid_shutdown", "yes or no", "", ()),
        ("banks.bank.precharge", "flag", "", ()),
        ("walls.wall.surface", "choice", "", ("timber cladding", "plasterboard", "masonry", "cement board")),
        ("walls.wall.condition", "choice", "", ("1", "2", "3")),
        ("site.clearness", "numbers", "", ()),
        ("runs.grid.shares_with", "names", "", ()),
        ("banks.bank.lead_as_made", "pins", "", ()),
        ("title", "text", "", ()),
        ("runs.grid.soil_km_per_w", "number", "K m/W", ()),
    ],
)
def test_a_field_is_of_the_kind_its_model_says(path: str, kind: str, unit: str, options: tuple[str, ...]) -> None:
    field = field_at(JOB, path)
    assert (field.kind, field.unit, field.options) == (kind, unit, options)
    assert field.name


@pytest.mark.parametrize(
    "path", ["loads", "site", "cards", "id", "things.inverter.id", "things.inverter.seat", "walls.wall.board.nothing", "x", ""]
)
def test_what_names_or_holds_other_things_is_no_field(path: str) -> None:
    with pytest.raises(BadPath):
        field_at(JOB, path)


@pytest.mark.parametrize(
    ("path", "text", "system", "value"),
    [
        ("runs.bat-main.length_m", "10 ft", "SI", 3.048),
        ("runs.bat-main.length_m", "10", "US", 3.048),
        ("runs.bat-main.length_m", "", "US", None),
        ("banks.bank.units.bat-2.dip_address", "3", "US", 3),
        ("site.rapid_shutdown", "", "US", None),
        ("site.rapid_shutdown", "no", "US", False),
        ("banks.bank.precharge", "yes", "US", True),
        ("walls.wall.condition", "2", "US", 2),
        ("walls.wall.surface", "", "US", None),
        ("walls.wall.surface", "paper", "US", "paper"),
        ("runs.grid.shares_with", "backup, pv-pv1", "US", ["backup", "pv-pv1"]),
        ("banks.bank.lead_as_made", "4-7 5:8", "US", [{"inverter_pin": 4, "battery_pin": 7}, {"inverter_pin": 5, "battery_pin": 8}]),
        ("site.clearness", "0.4 0.5", "US", [0.4, 0.5]),
        ("runs.grid.raceway_size", "", "US", None),
        ("story", "", "US", ""),
        ("runs.grid.soil_km_per_w", "1.2", "US", 1.2),
    ],
)
def test_what_is_typed_is_read_as_the_field_takes_it(path: str, text: str, system: str, value: Any) -> None:
    read = typed.read(field_at(JOB, path), text, system)
    assert read == (pytest.approx(value) if isinstance(value, float) else value)


@pytest.mark.parametrize("path", ["runs.bat-main.length_m", "walls.wall.condition", "site.rapid_shutdown", "title", "site.clearness"])
@pytest.mark.parametrize("system", ["US", "SI"])
def test_what_is_written_is_read_back_in_either_unit_system(path: str, system: str) -> None:
    value = {"runs.bat-main.length_m": 3.25, "walls.wall.condition": 2, "site.rapid_shutdown": True, "site.clearness": [0.5, 0.6]}.get(
        path, "A b"
    )
    field = field_at(JOB, path)
    assert typed.read(field, typed.written(field, value), system) == value


def test_a_core_of_a_lead_that_cannot_be_read_is_named() -> None:
    with pytest.raises(BadUnit, match="'4=7' is no core"):
        typed.read(field_at(JOB, "banks.bank.lead_as_made"), "4=7", "US")


def test_every_question_names_no_more_than_a_thing_and_its_title() -> None:
    """What is asked where a field is empty is put together from the thing's id and title: anything else would fail when it is asked."""
    tried = 0
    for module in Path(job_package.__file__).parent.glob("*.py"):
        for model in vars(importlib.import_module(f"gumboot.core.job.{module.stem}")).values():
            if isinstance(model, type) and issubclass(model, BaseModel):
                for told in quantities(model).values():
                    assert "{" not in (told.asked + told.holds_up).format(id="x", title="y")
                    tried += 1
    assert tried > 100

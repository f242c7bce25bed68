"""Meters with their current transformers, and the known loads of the meter test."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class CtPlace(Frozen):
    """Where one CT sits."""

    channel: str
    leg: Literal["L1", "L2", "L3"]
    arrow: Literal["toward house", "toward grid"]
    side: Literal["grid side of every load", "inverter side", "between loads"] = "grid side of every load"


class Meter(Frozen):
    """A set of CTs and the inverter that reads it."""

    id: str = Field("meter", pattern=NAME)
    card: str | None = Field(None, description="Card of its CTs")
    inverter: str = Field("inverter", description="The inverter that its CTs are wired to")
    cts: list[CtPlace] = []


class Sensing(Frozen):
    """Meters and the known loads of the meter test."""

    meters: list[Meter] = Field([Meter()], min_length=1)
    test_l1_w: Annotated[float, Quantity("P_1", "Known load on L1", "W")] = Field(1500, ge=0)
    test_l2_w: Annotated[float, Quantity("P_2", "Known load on L2", "W")] = Field(600, ge=0)
    test_l3_w: Annotated[float, Quantity("P_3", "Known load on L3", "W")] = Field(1000, ge=0)
    test_power_factor: Annotated[float, Quantity("pf", "Power factor of the known loads", hint="Lagging; heaters are 1.")] = Field(
        1, ge=0.2, le=1
    )

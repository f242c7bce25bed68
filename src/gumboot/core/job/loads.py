"""Circuits of the house, how they are backed up, and what they were measured to use."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from gumboot.core.card.parts import Frozen
from gumboot.core.quantity import Choice, Quantity

Leg = Literal["L1", "L2", "L3", "L1+L2", "L1+L2+L3"]


class Load(Frozen):
    """One circuit of the house."""

    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(min_length=1, max_length=60)
    running_w: Annotated[float, Quantity("P", "{title}, running", "W")] = Field(ge=0, le=30000)
    surge_w: Annotated[float, Quantity("P_s", "{title}, starting", "W")] = Field(ge=0, le=100000)
    leg: Leg
    side: Literal["backed", "house"]
    board: str = Field("", max_length=40, description="The backed-up board its breaker sits in; empty: the first")
    duty: Annotated[float, Quantity("d", "Share of the time that {title} runs within its hours")] = Field(1, ge=0, le=1)
    from_hour: int = Field(0, ge=0, le=23)
    to_hour: int = Field(24, ge=1, le=24)
    starts_with: str = Field("", max_length=40, description="Loads of one name start at the same moment")
    priority: Literal[1, 2, 3] = Field(2, description="1 must run in an outage, 2 should, 3 may")
    movable: bool = Field(True, description="Its breaker may change legs when the legs are balanced")

    @model_validator(mode="after")
    def _surge_at_least_running(self) -> Load:
        if self.surge_w < self.running_w:
            raise ValueError("surge_w must be at least running_w; give the starting power, not the difference")
        return self


class Backup(Frozen):
    """How the backed-up board may be joined to the grid around the inverter, and which school of backing up is followed."""

    school: Literal["sub-board", "whole house", "manual transfer"] = "sub-board"
    bypass: Annotated[
        Literal["none", "interlocked", "breaker without interlock"], Choice("Bypass from the grid to the backed-up board", "First power")
    ] = "none"
    multiwire: Annotated[
        bool | None, Choice("Multiwire branch circuits hang on the backed-up board", "Whether a single 120 V line may feed it")
    ] = None


class Consumption(Frozen):
    """Measured consumption as a typical day of each month: mean power in W, shape (12, 24), None where nothing was measured."""

    source: str = Field("", max_length=120)
    first: str = Field("", max_length=40)
    last: str = Field("", max_length=40)
    intervals: int = Field(0, ge=0)
    kwh: float = Field(0, ge=0)
    month_hour_w: list[list[float | None]] = []
    notes: list[str] = []

    @model_validator(mode="after")
    def _twelve_days(self) -> Consumption:
        if len(self.month_hour_w) not in (0, 12) or any(len(day) != 24 for day in self.month_hour_w):
            raise ValueError("consumption.month_hour_w needs twelve days of 24 values, or none")
        if any(v is not None and not 0 <= v <= 200_000 for day in self.month_hour_w for v in day):
            raise ValueError("consumption.month_hour_w: each value must lie within 0 to 200 000 W")
        return self

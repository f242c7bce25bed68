"""Preferences from which the settings sheet is worked out."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class TariffWindow(Frozen):
    """Hours at one price; ``to_hour`` may be below ``from_hour`` to wrap midnight."""

    id: str = Field(pattern=NAME)
    title: str = Field(min_length=1, max_length=40)
    kind: Literal["peak", "shoulder", "off-peak"]
    from_hour: int = Field(ge=0, le=23)
    to_hour: int = Field(ge=1, le=24)
    price: Annotated[float, Quantity("c", "Price in {title}", "1/kWh", hint="In local money.")] = Field(ge=0)
    grid_charge: bool = False


class Settings(Frozen):
    """Preferences from which the settings sheet is worked out."""

    work_mode: Literal["self-use", "backup", "timed"] = "self-use"
    reserve_pct: Annotated[float, Quantity("S_res", "Reserve", "%")] = Field(30, ge=0, le=100)
    outage_hours: Annotated[float, Quantity("t_want", "Outage to be carried from the reserve", "h")] = Field(8, ge=0, le=240)
    comms: Literal["closed loop", "open loop"] = "closed loop"
    charge_a: Annotated[float | None, Quantity("I_chg_in", "Charge limit wanted", "A", hint="Empty lets the plan choose.")] = Field(
        None, gt=0
    )
    discharge_a: Annotated[float | None, Quantity("I_dis_in", "Discharge limit wanted", "A", hint="Empty lets the plan choose.")] = Field(
        None, gt=0
    )
    grid_charge_a: Annotated[float, Quantity("I_gc", "Charge current from grid or generator", "A")] = Field(30, ge=0)
    absorb_v: Annotated[float | None, Quantity("V_abs_in", "Absorb voltage wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    cut_off_v: Annotated[float | None, Quantity("V_off_in", "Cut-off voltage wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    equalise: bool = Field(False, description="Equalising charge switched on")
    tariff: list[TariffWindow] = []

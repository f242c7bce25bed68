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
    from_minute: Literal[0, 30] = Field(0, description="Minute of the first hour")
    to_minute: Literal[0, 30] = Field(0, description="Minute of the last hour")
    days: Literal["every day", "weekdays", "weekends"] = Field("every day", description="Days on which it holds")
    from_month: int = Field(1, ge=1, le=12, description="First month in which it holds")
    to_month: int = Field(12, ge=1, le=12, description="Last month in which it holds")
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
    cut_now_v: Annotated[float | None, Quantity("V_now_in", "Immediate cut-off wanted", "V", hint="Empty uses the card.")] = Field(
        None, gt=0
    )
    alarm_v: Annotated[float | None, Quantity("V_al_in", "Low alarm wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    grid_takeover_v: Annotated[float | None, Quantity("V_to_in", "Grid takes over, wanted", "V", hint="Empty uses the card.")] = Field(
        None, gt=0
    )
    recover_v: Annotated[float | None, Quantity("V_rec_in", "Recovery wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    grid_release_v: Annotated[float | None, Quantity("V_rel_in", "Grid released, wanted", "V", hint="Empty uses the card.")] = Field(
        None, gt=0
    )
    float_v: Annotated[float | None, Quantity("V_fl_in", "Float voltage wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    cut_off_pct: Annotated[
        float | None, Quantity("S_off", "Cut off in island mode, by state of charge", "%", hint="Empty: by volts or by the battery.")
    ] = Field(None, ge=0, le=100)
    grid_takeover_pct: Annotated[
        float | None, Quantity("S_to", "Grid takes over, by state of charge", "%", hint="Empty: by volts or at the reserve.")
    ] = Field(None, ge=0, le=100)
    recover_pct: Annotated[
        float | None, Quantity("S_rec", "Recovery, by state of charge", "%", hint="Empty: by volts or by the battery.")
    ] = Field(None, ge=0, le=100)
    grid_release_pct: Annotated[
        float | None, Quantity("S_rel", "Grid released, by state of charge", "%", hint="Empty: by volts or by the inverter.")
    ] = Field(None, ge=0, le=100)
    equalise: bool = Field(False, description="Equalising charge switched on")
    tariff: list[TariffWindow] = []

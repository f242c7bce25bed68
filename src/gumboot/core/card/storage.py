"""Batteries, and the switch with its fuse before them."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from gumboot.core.card.base import EnclosureCard
from gumboot.core.card.inverter import Chemistry
from gumboot.core.card.parts import DataPort, Frozen, Protocol, UnitLoad
from gumboot.core.quantity import Quantity


class OpenLoop(Frozen):
    """Voltages for open-loop charging, V at the battery terminals."""

    absorb_v: Annotated[float, Quantity("V_absorb", "Absorb voltage", "V")]
    absorb_minutes: Annotated[float, Quantity("t_abs", "Absorb time", "min")]
    float_v: Annotated[float, Quantity("V_float", "Float voltage", "V")]
    cut_now_v: Annotated[float, Quantity("V_cut_now", "Voltage of immediate cut-off", "V")]
    cut_off_v: Annotated[float, Quantity("V_cut_off", "Cut-off voltage", "V")]
    alarm_v: Annotated[float, Quantity("V_alarm", "Low-voltage alarm", "V")]
    grid_takeover_v: Annotated[float, Quantity("V_takeover", "Voltage at which the grid takes over", "V")]
    recover_v: Annotated[float, Quantity("V_recover", "Voltage of recovery", "V")]
    grid_release_v: Annotated[float, Quantity("V_release", "Voltage at which the grid is released", "V")]
    tail_a: Annotated[float, Quantity("I_tail", "Tail current that ends absorbing", "A")]


class LeadAcid(Frozen):
    """What the maker of a lead-acid battery says of its plates, of one battery."""

    cells: Annotated[int, Quantity("n_c", "Cells of one battery")] = Field(ge=1, le=60)
    rated_hours: Annotated[float, Quantity("t_r", "Hours that its capacity is rated over", "h")] = Field(gt=0, le=120)
    peukert: Annotated[float, Quantity("k_p", "Peukert's exponent")] = Field(ge=1, le=1.6)
    shift_mv_k: Annotated[float, Quantity("k_V", "Change of charge voltage for each cell and kelvin", "mV/K")] = Field(ge=-8, le=0)
    equalise_v: Annotated[float | None, Quantity("V_eq", "Equalise voltage", "V")] = None
    equalise_minutes: Annotated[float | None, Quantity("t_eq", "Equalise time", "min")] = None
    equalise_days: Annotated[float | None, Quantity("d_eq", "Days between two equalise charges", "d")] = None


class BatteryCard(EnclosureCard):
    """A battery or a module of a bank. All values are of one unit; ``arrangement`` says how units make the bank."""

    kind: Literal["battery"]
    chemistry: Chemistry
    arrangement: Literal["parallel", "stack", "blocks", "docked"] = Field(
        "parallel", description="parallel on busbars; stack plugged in series; blocks wired in series; docked inside the inverter"
    )
    series_min: Annotated[int, Quantity("n_lo", "Fewest units in series")] = 1
    series_max: Annotated[int, Quantity("n_hi", "Most units in series")] = 1
    strings_max: Annotated[int, Quantity("n_st", "Most stacks in parallel")] = Field(1, ge=1, le=8)
    cell_mohm: Annotated[float, Quantity("R_c", "Resistance inside one battery", "mohm")] = Field(8.0, gt=0)
    stack_pitch_mm: Annotated[float, Quantity("h_p", "Height that each further module adds to a stack", "mm")] = Field(0)
    floor_standing: bool = False
    spacing_mm: Annotated[float | None, Quantity("d_s", "Spacing that the battery's fire test allows", "mm")] = None
    nominal_v: Annotated[float, Quantity("V_n", "Nominal voltage of one battery", "V")]
    energy_wh: Annotated[float, Quantity("E_1", "Energy of one battery", "Wh")]
    v_min: Annotated[float, Quantity("V_min", "Lowest voltage of one battery", "V")]
    v_max: Annotated[float, Quantity("V_max", "Highest voltage of one battery", "V")]
    v_low_operating: Annotated[float, Quantity("V_low", "Lowest voltage of one battery in operation", "V")]
    charge_a: Annotated[float, Quantity("I_c1", "Continuous charge of one battery", "A")]
    discharge_a: Annotated[float, Quantity("I_1", "Continuous discharge of one battery", "A")]
    peak_a: Annotated[float, Quantity("I_pk", "Peak discharge of one battery", "A")]
    peak_s: Annotated[float, Quantity("t_pk", "Time that the peak may last", "s")]
    depth_pct: Annotated[float, Quantity("DoD", "Depth of discharge that its maker allows", "%")]
    fault_a: Annotated[float, Quantity("I_k1", "Fault current of one battery", "A")]
    breaker_a: Annotated[float | None, Quantity("I_br", "Battery's own breaker", "A")] = None
    breaker_interrupting_a: Annotated[float | None, Quantity("I_cu1", "Interrupting rating of the battery's own breaker", "A")] = None
    units_max: Annotated[int, Quantity("n_max", "Most batteries in the bank")]
    charge_min_c: Annotated[float, Quantity("T_chg", "Coldest cell that may be charged", "°C")]
    charge_max_c: Annotated[float, Quantity("T_chg_hi", "Hottest cell that may be charged", "°C")]
    live_parts_covered: bool | None = Field(None, description="No live part can be reached during routine maintenance")
    dip_switches: int = Field(default=0, ge=0, le=16)
    terminator: Literal["plug", "switch"] = "plug"
    terminator_switch: int = Field(0, ge=0, le=16, description="DIP switch of the block that is the terminator; 0: none of them")
    dip_first: Literal["least significant", "most significant"] = Field(
        "least significant", description="Weight of the first address switch"
    )
    dip_on: Literal[0, 1] = Field(1, description="What a switch in the ON place means")
    dip_offset: int = Field(0, ge=0, le=8, description="The switches show the address less this")
    dip_programming: str = Field(
        "",
        pattern="^[01]*$",
        description="Places of the switches while its protocol is chosen, from the first, 1 for ON; empty: the maker asks for none",
    )
    wakes_open: bool = Field(False, description="It wakes with its power output open: programmed and read before anything is landed on it")
    bus_load: UnitLoad = Field("1", description="What it loads an RS-485 bus with, in unit loads")
    data_ports: list[DataPort] = []
    protocols: list[Protocol] = []
    firmware: str = ""
    shipped_protocol: int = 0
    lead_min: str = ""
    join_window_v: Annotated[float, Quantity("dV_max", "Largest difference when joining", "V")]
    open_loop: OpenLoop | None = None
    lead_acid: LeadAcid | None = Field(None, description="Of a lead-acid battery alone")
    discharge_floor_pct: Annotated[float, Quantity("S_min", "State of charge at which the battery stops", "%")]

    @model_validator(mode="after")
    def _a_place_for_each_switch(self) -> Self:
        if self.dip_programming and len(self.dip_programming) != self.dip_switches:
            raise ValueError(f"dip_programming: give one place for each of the {self.dip_switches} switches, 1 for ON and 0 for OFF")
        return self

    @property
    def is_lead_acid(self) -> bool:
        """Whether it is of lead, flooded, sealed or gel."""
        return self.chemistry.startswith("lead-acid")

    @property
    def in_series(self) -> bool:
        """Whether the units of a bank stand in series: stacked, wired, or docked into a high-voltage cabinet."""
        return self.arrangement in ("stack", "blocks") or (self.arrangement == "docked" and self.series_max > 1)


class SwitchFuseCard(EnclosureCard):
    """DC switch with fuse for the battery main."""

    kind: Literal["switch-fuse"]
    rated_a: Annotated[float, Quantity("I_f", "Fuse rating", "A")]
    voltage_dc: Annotated[float, Quantity("U_n", "DC rating of the switch and fuse", "V")]
    interrupting_a: Annotated[float, Quantity("I_cu", "Fuse's interrupting rating, DC", "A")]

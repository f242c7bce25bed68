"""The pieces that cards are made of: terminals, ports, holes, windows, settings ranges."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Role = Literal["line1", "line2", "line3", "neutral", "earth", "positive", "negative"]
WireClass = Literal["solid", "stranded", "fine strand"]


def older(version: str, least: str) -> bool:
    """Whether a firmware is older than the least one asked: 2.9 is older than 2.10. An unknown one is, when one is asked."""
    if not least:
        return False
    return [int(n) for n in re.findall(r"\d+", version)] < [int(n) for n in re.findall(r"\d+", least)]


class Frozen(BaseModel):
    """Base of every document part: no unknown field, no change after parsing."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


class Terminal(Frozen):
    """One place where a conductor lands. ``x`` and ``y`` are 0 to 1 across the enclosure, y downward."""

    id: str
    title: str
    role: Role
    size_min: str
    size_max: str
    wire_classes: list[WireClass] = Field(min_length=1)
    strip_mm: float = Field(gt=0, description="Insulation to strip, mm")
    end: Literal["bare", "ferrule", "lug", "spring"]
    lug_hole: str = Field(default="", description="Stud that the lug goes on, such as M8")
    materials: list[Literal["copper", "aluminium"]] = ["copper"]
    bend_mm: float | None = Field(default=None, gt=0, description="Room opposite the terminal to bend the conductor, mm")
    screw: Literal["", "slot_small", "slot_large", "split_bolt", "hex_head"] = Field(
        default="", description="Kind of screw where the maker gives no torque: the fallback of NEC Annex I is then taken"
    )
    tool: str
    torque_nm: float | None = Field(default=None, gt=0, description="Tightening torque, N m; none for spring terminals")
    torque_tolerance_pct: float = Field(default=5, gt=0, le=25)
    rated_c: Literal[60, 75, 90] = 75
    max_conductors: int = 1
    recheck_24h: bool = False
    caution: str = ""
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)

    @model_validator(mode="after")
    def _torque_or_spring(self) -> Terminal:
        if self.end != "spring" and self.torque_nm is None and not self.screw:
            raise ValueError(f"terminal {self.id}: a screw or stud needs torque_nm, or the kind of screw; say end 'spring' if it has none")
        return self


class Port(Frozen):
    """A named group of terminals, such as BATTERY or GRID."""

    id: str
    title: str
    max_a: float | None = None
    terminals: list[Terminal]


class Pin(Frozen):
    """One contact of a data socket."""

    pin: int = Field(ge=1, le=8)
    signal: str


class DataPort(Frozen):
    """A data socket with its pins."""

    id: str
    title: str
    bus: Literal["CAN", "RS-485", "CT", "12 V", "dry contact", "sense"]
    pins: list[Pin]


class Protocol(Frozen):
    """A battery protocol that both ends must share."""

    number: int
    name: str
    bus: Literal["CAN", "RS-485"]
    kbit_s: float
    firmware_min: str = ""


class Hole(Frozen):
    """A fixing hole, from the box's lower left corner."""

    id: str
    x_mm: float
    y_mm: float
    carries: bool = True


class Body(Frozen):
    """Size, weight, fixing holes and clearances of a box."""

    width_mm: float = Field(gt=0)
    height_mm: float = Field(gt=0)
    depth_mm: float = Field(gt=0)
    mass_kg: float = Field(gt=0)
    holes: list[Hole]
    clear_left_mm: float = 0
    clear_right_mm: float = 0
    clear_above_mm: float = 0
    clear_below_mm: float = 0
    clear_front_mm: float = 0
    screen_up_mm: float | None = None


class Range(Frozen):
    """A settings range: what the device accepts."""

    key: str
    title: str
    unit: str
    low: float
    high: float


class Overload(Frozen):
    """Power that may be held for a time."""

    seconds: float = Field(gt=0)
    watts: float = Field(gt=0)
    leg_watts: float = Field(gt=0)

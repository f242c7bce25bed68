"""The pieces that cards are made of: terminals, ports, holes, windows, settings ranges."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gumboot.core.quantity import Quantity
from gumboot.core.rulebook.north_american.terminations import Screw

Role = Literal["line1", "line2", "line3", "neutral", "earth", "positive", "negative"]
WireClass = Literal["solid", "stranded", "fine strand"]
UnitLoad = Literal["1", "1/2", "1/4", "1/8"]
Speed = Literal["4800 bit/s", "9600 bit/s", "19200 bit/s", "38400 bit/s", "115200 bit/s"]


def older(version: str, least: str) -> bool:
    """Whether a firmware is older than the least one asked: 2.9 is older than 2.10. An unknown one is, when one is asked."""
    if not least:
        return False
    return [int(n) for n in re.findall(r"\d+", version)] < [int(n) for n in re.findall(r"\d+", least)]


class Frozen(BaseModel):
    """Base of every document part: no unknown field, no change after parsing."""

    model_config = ConfigDict(extra="forbid", frozen=True, allow_inf_nan=False)


TipKind = Literal["socket", "hex", "slotted", "Phillips", "Pozidriv", "Torx"]


class Tip(Frozen):
    """The part of a tool that meets a screw, such as a socket of 13 mm or a Pozidriv bit of size 2."""

    kind: TipKind
    size: str = Field(min_length=1, max_length=20)

    @property
    def words(self) -> str:
        """As somebody asks for it."""
        return f"{self.size} socket" if self.kind == "socket" else f"{self.kind} bit {self.size}"


class Terminal(Frozen):
    """One place where a conductor lands. ``x`` and ``y`` are 0 to 1 across the enclosure, y downward."""

    id: str
    title: str
    role: Role
    size_min: str
    size_max: str
    wire_classes: list[WireClass] = Field(min_length=1)
    strip_mm: Annotated[float, Quantity("l_card", "Insulation to strip at {title}", "mm")] = Field(gt=0)
    end: Literal["bare", "ferrule", "lug", "spring"]
    lug_hole: str = Field(default="", description="Stud that the lug goes on, such as M8")
    materials: list[Literal["copper", "aluminium"]] = ["copper"]
    bend_mm: Annotated[float | None, Quantity("b", "Room to bend at {title}", "mm")] = Field(default=None, gt=0)
    screw: Literal["", Screw] = Field(
        default="",
        description="Kind of screw, of a recessed hexagon its width in inches, where the maker gives no torque: the fallback of NEC Annex I is then taken",
    )
    tool: str
    tip: Tip | None = None
    plug: bool = Field(False, description="A plug contact: crimped with its own tool, pushed until it clicks, pulled")
    snaps: bool = Field(False, description="It snaps on and needs a thump to be sure that it did")
    torque_nm: Annotated[float | None, Quantity("M", "Tightening torque of {title}", "N m", hint="None for spring terminals.")] = Field(
        default=None, gt=0
    )
    torque_tolerance_pct: Annotated[float, Quantity("b_M", "Band allowed on the torque of {title}", "%")] = Field(default=5, gt=0, le=25)
    rated_c: Literal[60, 75, 90] = 75
    max_conductors: int = 1
    recheck_24h: bool = False
    recheck_yearly: bool = Field(False, description="The maker has it looked at once a year")
    never_disturb: bool = Field(False, description="The maker forbids to touch it again once it is tightened")
    caution: str = ""
    x: Annotated[float, Quantity("x", "Place of {title} across the enclosure, 0 to 1")] = Field(ge=0, le=1)
    y: Annotated[float, Quantity("y", "Place of {title} down the enclosure, 0 to 1")] = Field(ge=0, le=1)

    @model_validator(mode="after")
    def _torque_or_spring(self) -> Terminal:
        if self.never_disturb and (self.recheck_24h or self.recheck_yearly):
            raise ValueError(f"terminal {self.id}: never_disturb with a re-check says both; take one out")
        if self.end != "spring" and self.torque_nm is None and not self.screw:
            raise ValueError(f"terminal {self.id}: a screw or stud needs torque_nm, or the kind of screw; say end 'spring' if it has none")
        return self


class Port(Frozen):
    """A named group of terminals, such as BATTERY or GRID."""

    id: str
    title: str
    max_a: Annotated[float | None, Quantity("I_p", "Most current of {title}", "A")] = None
    max_v: Annotated[
        float | None, Quantity("U_p", "Most voltage of {title}", "V", hint="Of its plugs or contacts, where it is less than the box's own.")
    ] = Field(None, gt=0, le=1500)
    terminals: list[Terminal]


class Pin(Frozen):
    """One contact of a data socket."""

    pin: int = Field(ge=1, le=99)
    signal: str
    optional: bool = Field(False, description="The maker lets it stay open")


Bus = Literal["CAN", "RS-485", "CT", "12 V", "dry contact", "sense", "Ethernet"]
Plug = Literal["eight-way plug", "screw terminals", "spring terminals"]
Purpose = Literal["", "battery", "inverters", "meter", "gateway", "shutdown", "generator start", "demand response", "network", "other"]


class Loop(Frozen):
    """What a maker says of a loop that is wired to a socket: to a switch and back, such as the rapid-shutdown initiator's."""

    volts: Annotated[float, Quantity("U_loop", "Voltage of the loop", "V")] = Field(gt=0, le=60)
    amps: Annotated[float, Quantity("I_loop", "Current of the loop", "A")] = Field(gt=0, le=10)
    core_min: str = Field(description="Least size of its cores")
    ohm_max: Annotated[float, Quantity("R_loop", "Most resistance of the loop, there and back", "ohm")] = Field(gt=0, le=1000)
    bridge: str = Field("", description="What stands in the socket as it is shipped and comes out before the loop is wired")


class DataPort(Frozen):
    """A data socket with its pins."""

    id: str
    title: str
    bus: Bus
    purpose: Purpose = Field(
        "", description="What is joined here; empty: to be told by the bus alone, which fails where two sockets have one"
    )
    pins: list[Pin]
    plug: Plug | None = Field(None, description="How a lead is joined to it; empty: its maker does not say")
    onward: bool = Field(False, description="The bus goes on from here to the next unit: no lead from the inverter comes in")
    strip_mm: Annotated[float | None, Quantity("l_core", "Insulation to strip off each core at {title}", "mm")] = Field(None, gt=0, le=30)
    sheath_mm: Annotated[float | None, Quantity("l_sheath", "Sheath to take off at {title}", "mm")] = Field(None, gt=0, le=200)
    drain: Literal["", "to earth here"] = Field("", description="The drain wire of its lead is earthed here")
    loop: Loop | None = Field(None, description="Of a loop that is wired here alone")
    note: str = Field("", max_length=200, description="What to mind where its lead goes in")


class Protocol(Frozen):
    """A battery protocol that both ends must share."""

    number: int
    name: str
    bus: Literal["CAN", "RS-485"]
    kbit_s: Annotated[float, Quantity("r_b", "Speed of {name}", "kbit/s")]
    firmware_min: str = ""


class Hole(Frozen):
    """A fixing hole, from the box's lower left corner."""

    id: str
    x_mm: Annotated[float, Quantity("x_h", "Hole {id} from the box's left edge", "mm")]
    y_mm: Annotated[float, Quantity("y_h", "Hole {id} from the box's lower edge", "mm")]
    carries: bool = True


class Body(Frozen):
    """Size, weight, fixing holes and clearances of a box."""

    width_mm: Annotated[float, Quantity("w", "Width of the box", "mm")] = Field(gt=0)
    height_mm: Annotated[float, Quantity("h", "Height of the box", "mm")] = Field(gt=0)
    depth_mm: Annotated[float, Quantity("d", "Depth of the box", "mm")] = Field(gt=0)
    mass_kg: Annotated[float, Quantity("m", "Weight of the box", "kg")] = Field(gt=0)
    holes: list[Hole]
    clear_left_mm: Annotated[float, Quantity("c_l", "Kept free at the left", "mm")] = 0
    clear_right_mm: Annotated[float, Quantity("c_r", "Kept free at the right", "mm")] = 0
    clear_above_mm: Annotated[float, Quantity("c_a", "Kept free above", "mm")] = 0
    clear_below_mm: Annotated[float, Quantity("c_b", "Kept free below", "mm")] = 0
    clear_front_mm: Annotated[float, Quantity("c_f", "Kept free in front", "mm")] = 0
    screen_up_mm: Annotated[float | None, Quantity("y_s", "Screen above the box's lower edge", "mm")] = None
    hook_mm: Annotated[float | None, Quantity("h_hook", "Lift above its bracket before it is lowered onto it", "mm")] = Field(
        None, gt=0, le=300
    )


class Range(Frozen):
    """A settings range: what the device accepts."""

    key: str
    title: str
    unit: str
    low: Annotated[float, Quantity("x_lo", "Least value of {title}")]
    high: Annotated[float, Quantity("x_hi", "Largest value of {title}")]


class Overload(Frozen):
    """Power that may be held for a time."""

    seconds: Annotated[float, Quantity("t_s", "Time that an overload is held", "s")] = Field(gt=0)
    watts: Annotated[float, Quantity("P_s", "Power of all, held for a time", "W")] = Field(gt=0)
    leg_watts: Annotated[float, Quantity("P_leg_s", "Power of one leg, held for a time", "W")] = Field(gt=0)

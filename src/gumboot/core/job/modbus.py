"""What hangs on the Modbus line of an inverter besides itself: meters, PV inverters, charging points."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen, Speed, UnitLoad
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class BusDevice(Frozen):
    """One device on the line, in the order of the cable, counted from the inverter that asks."""

    id: str = Field(pattern=NAME)
    title: str = Field(min_length=1, max_length=40)
    card: str | None = Field(None, description="Its card: terminals, load and what it can be set to are as that says")
    inverter: str = Field("inverter", pattern=NAME, description="The inverter that asks it")
    address: Annotated[
        int | None,
        Quantity(
            "a", "Address of {title}", question="Modbus address of {title}?", holds_up="Whether {title} answers alone", station="links"
        ),
    ] = Field(None, ge=0, le=999)
    speed: Speed = "9600 bit/s"
    terminator: bool = False
    stub_m: Annotated[float, Quantity("l_s", "Stub from the line to {title}", "m", hint="0: the line runs through it.")] = Field(
        0, ge=0, le=100
    )
    load: UnitLoad = Field("1", description="Load on the line, in unit loads; what its card says goes before")
    pin_a: int | None = Field(None, ge=1, le=99, description="Its terminal of core A, where it has no card")
    pin_b: int | None = Field(None, ge=1, le=99, description="Its terminal of core B, where it has no card")
    pin_ground: int | None = Field(None, ge=1, le=99, description="Its terminal of the common; empty: it has none")


class Modbus(Frozen):
    """The Modbus lines of a house."""

    devices: list[BusDevice] = []
    shape: Literal["line", "star"] = Field("line", description="How the cable runs: from device to device, or from one point to each")
    length_m: Annotated[float | None, Quantity("L_mb", "Length of the Modbus line", "m")] = Field(None, gt=0, le=5000)

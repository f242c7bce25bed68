"""A battery bank and the data lead to its inverter."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class PinPair(Frozen):
    """One core of the lead as made: inverter pin to battery pin."""

    inverter_pin: int = Field(ge=1, le=8)
    battery_pin: int = Field(ge=1, le=8)


class BatteryUnit(Frozen):
    """One battery of the bank, in chain order."""

    id: str = Field(pattern=NAME)
    dip_address: int = Field(0, ge=0, le=63)
    terminator: bool = False
    protocol: int = 0


class Bank(Frozen):
    """A bank of batteries of one card, with the data lead to its inverter."""

    id: str = Field("bank", pattern=NAME)
    card: str = Field(min_length=1, max_length=80)
    units: list[BatteryUnit] = Field(min_length=1, max_length=32)
    strings: int = Field(1, ge=1, le=8, description="Stacks, or strings of blocks, of equal length that meet at bars; 1: one")
    string_fuse_a: Annotated[
        float | None, Quantity("I_fs", "Fuse of each string of blocks", "A", holds_up="What a string's lead is sized for", station="bank")
    ] = Field(None, gt=0, le=1000)
    string_fuse_v: Annotated[
        float | None,
        Quantity("U_fs", "DC rating of a string's fuse", "V", holds_up="Whether a string's fuse stands the bank's voltage", station="bank"),
    ] = Field(None, gt=0, le=1500)
    string_fuse_breaks_a: Annotated[
        float | None,
        Quantity(
            "I_cus",
            "What a string's fuse breaks, DC",
            "A",
            holds_up="Whether a string's fuse breaks the bank's fault current",
            station="bank",
        ),
    ] = Field(None, gt=0, le=200000)
    cabling: Literal["busbar", "daisy", "diagonal"] = "busbar"
    precharge: bool = True
    inverter_protocol: int = Field(0, description="Protocol that the inverter is set to for this bank")
    lead_as_made: list[PinPair] = []
    lead_scheme: Literal["T568B", "T568A"] = Field("T568B", description="Colours of the lead's cores by pin")
    bus_shape: Literal["line", "star"] = Field(
        "line", description="How the data cable runs: from battery to battery, or from one point to each"
    )
    stub_m: Annotated[float, Quantity("l_s", "Longest stub from the bus to a battery", "m", hint="0: the bus runs through each.")] = Field(
        0, ge=0, le=100
    )
    lead_m: Annotated[float | None, Quantity("L_bus", "Length of the battery bus, all leads together", "m")] = Field(None, gt=0, le=5000)

    def stacks(self) -> list[list[BatteryUnit]]:
        """The units of each stack, in order; the last one is short where they do not come out even."""
        each = max(1, -(-len(self.units) // self.strings))
        return [self.units[at : at + each] for at in range(0, len(self.units), each)]

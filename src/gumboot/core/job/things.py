"""What is fitted or stays in the house: each thing with an id of its own, its card, and what it is joined to.

``feeds`` names the thing that is fed next on the way from the inverters to the loads.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Choice

Phase = Literal["L1", "L2", "L3"]


class Thing(Frozen):
    """A thing with a card."""

    id: str = Field(pattern=NAME)
    card: str = Field(min_length=1, max_length=80)
    title: str = Field("", max_length=60, description="What people here call it; empty: by its place")
    stays: bool = Field(
        False, description="It is there already: judged and drawn, not bought, and a circuit between two such is looked at, not landed"
    )


class InverterThing(Thing):
    """A battery inverter. The first of a job is the leader of its group."""

    seat: Literal["inverter"] = "inverter"
    bank: str = Field("bank", description="The bank it hangs on")
    board: str | None = Field(None, description="The board, panel or transfer equipment from which its grid port is fed")
    feeds: str = Field("sub-board", description="The board, panel or transfer equipment that its output feeds")
    phase: Annotated[
        Phase | None, Choice("Phase that a single-phase unit makes in a group", "Which leg of the house it carries, and its rotation")
    ] = None
    address: int = Field(0, ge=0, le=63, description="Address on the link between inverters; 0 where there is one inverter")
    terminator: bool = Field(False, description="Terminator at this end of the link between inverters")


class SwitchFuseThing(Thing):
    """Switch and fuse in the battery main of an inverter."""

    seat: Literal["switch-fuse"] = "switch-fuse"
    inverter: str = "inverter"


class BusbarThing(Thing):
    """DC busbar box of a bank."""

    seat: Literal["busbar"] = "busbar"
    bank: str = "bank"


class RoofBoxThing(Thing):
    """Box where the strings of an inverter come down from the roof."""

    seat: Literal["roof-box"] = "roof-box"
    inverter: str = "inverter"


class BoardThing(Thing):
    """A board of the house, or the panel that combines inverters."""

    seat: Literal["board"] = "board"
    duty: Literal["main", "backed-up", "combining"] = Field("backed-up", description="What the board is for")
    feeds: str | None = Field(None, description="What a combining panel feeds")
    fed_from: str | None = Field(None, description="The board that feeds it, where one board stands behind another")
    opposite_ends: Annotated[bool, Choice("Main device and sources at opposite ends", "The busbar rule of a second main board")] = False
    bonded: Annotated[bool | None, Choice("Neutral bonded to earth in a main board behind another", "One bond in every mode")] = None


class TransferThing(Thing):
    """Transfer switch or gateway."""

    seat: Literal["transfer"] = "transfer"
    board: str | None = Field(None, description="The board that feeds it from the grid")
    feeds: str = "sub-board"
    fed_from: str | None = Field(None, description="The combining panel that feeds it, where that panel's own main feeds something else")


class GeneratorThing(Thing):
    """A generator and the inverter whose input it feeds."""

    seat: Literal["generator"] = "generator"
    feeds: str = "inverter"


class PvInverterThing(Thing):
    """A grid-tied PV inverter and the board that it feeds."""

    seat: Literal["pv-inverter"] = "pv-inverter"
    feeds: str = "sub-board"


AnyThing = Annotated[
    InverterThing | SwitchFuseThing | BusbarThing | RoofBoxThing | BoardThing | TransferThing | GeneratorThing | PvInverterThing,
    Field(discriminator="seat"),
]


class Equipment(Frozen):
    """Cards of what is bought by number and has no place of its own."""

    module: str | None = None
    optimiser: str | None = None
    anchor: str | None = None
    screw: str | None = None

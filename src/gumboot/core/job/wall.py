"""A wall, what stands on it and what keeps equipment away."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Choice, Quantity


class Board(Frozen):
    """Backing board on the wall, mm from datum and floor."""

    material: Literal["cement board", "plywood", "none"]
    x_mm: Annotated[float, Quantity("x_bb", "Backing board from the datum", "mm")]
    y_mm: Annotated[float, Quantity("y_bb", "Backing board from the floor", "mm")]
    width_mm: Annotated[float, Quantity("w_bb", "Width of the backing board", "mm")] = Field(gt=0)
    height_mm: Annotated[float, Quantity("h_bb", "Height of the backing board", "mm")] = Field(gt=0)
    thickness_mm: Annotated[float, Quantity("t_b", "Thickness of the backing board", "mm")] = Field(gt=0)


class Opening(Frozen):
    """Something on the wall that keeps equipment away."""

    id: str
    title: str
    kind: Literal["door", "window", "exit", "appliance", "gas", "water"]
    x_mm: Annotated[float, Quantity("x_o", "{title} from the datum", "mm")]
    y_mm: Annotated[float, Quantity("y_o", "{title} from the floor", "mm")]
    width_mm: Annotated[float, Quantity("w_o", "Width of {title}", "mm")] = Field(gt=0)
    height_mm: Annotated[float, Quantity("h_o", "Height of {title}", "mm")] = Field(gt=0)


class Anchor(Frozen):
    """Screw that holds the brackets."""

    diameter_mm: Annotated[float, Quantity("D", "Screw diameter", "mm")] = Field(8, gt=2, le=20)
    length_mm: Annotated[float, Quantity("L_s", "Screw length", "mm")] = Field(90, gt=10, le=300)
    lateral_allowable_n: Annotated[float, Quantity("Z", "Allowable shear of one screw", "N", hint="By the screw's maker.")] = Field(
        850, gt=0
    )


class Placement(Frozen):
    """Lower left corner of a box, mm from datum and floor."""

    id: str = Field(pattern=NAME)
    x_mm: Annotated[float, Quantity("x_b", "{id} from the datum", "mm")] = Field(ge=0, le=20000)
    y_mm: Annotated[float, Quantity("y_b", "{id} from the floor", "mm")] = Field(ge=0, le=6000)
    entry: Literal["usual", "below", "above", "left", "right"] = Field(
        "usual", description="Side from which conduits come in; usual: below an inverter, the freest side of another box"
    )
    pinned: bool = Field(False, description="It stays where it is when places are proposed")


class Wall(Frozen):
    """The wall and what stands on it."""

    id: str = Field("wall", pattern=NAME)
    title: str = "Wall"
    room: Annotated[
        Literal["garage", "outdoor", "utility room", "undercroft", "habitable room", "loft", "under a stair", "escape route"],
        Choice("Kind of place", "How much battery may stand here"),
    ] = "garage"
    in_sun: Annotated[bool | None, Choice("The sun falls on this wall", "Whether what stands there is made for it")] = None
    vent_cm2: Annotated[
        float | None, Quantity("A_v", "Each of two openings to the open air", "cm2", holds_up="Whether hydrogen leaves the room")
    ] = Field(None, ge=0, le=100000)
    air_low_c: Annotated[float | None, Quantity("T_cold", "Coldest air at this wall", "°C", hint="Empty: as the site's.")] = Field(
        None, ge=-40, le=40
    )
    air_high_c: Annotated[float | None, Quantity("T_room", "Hottest air at this wall", "°C", hint="Empty: as the site's.")] = Field(
        None, ge=0, le=60
    )
    width_mm: Annotated[float | None, Quantity("W", "Width of the wall", "mm", holds_up="The elevation", station="wall")] = Field(
        None, gt=500, le=20000
    )
    height_mm: Annotated[float | None, Quantity("H", "Height of the wall", "mm", holds_up="The elevation", station="wall")] = Field(
        None, gt=500, le=6000
    )
    surface: Annotated[
        Literal["timber cladding", "plasterboard", "masonry", "cement board"] | None,
        Choice("Surface of the wall", "Backing board and anchors"),
    ] = None
    free_depth_mm: Annotated[
        float | None,
        Quantity("d_free", "Free floor in front of the equipment", "mm", holds_up="Whether there is room to work", station="wall"),
    ] = Field(None, gt=0, le=20000)
    way_mm: Annotated[float | None, Quantity("b_way", "Narrowest passage on the way to {title}", "mm", station="wall")] = Field(
        None, gt=200, le=5000
    )
    way_steps: Annotated[
        int | None, Quantity("n_st", "Steps on the way to {title}", hint="0: level, so that a lift table goes along.", station="wall")
    ] = Field(None, ge=0, le=200)
    stud_spacing_mm: Annotated[
        float | None, Quantity("s", "Stud spacing, centre to centre", "mm", holds_up="Where screws hold", station="wall")
    ] = Field(None, gt=200, le=1300)
    stud_first_mm: Annotated[
        float | None, Quantity("x_0", "Middle of the first stud from the datum", "mm", holds_up="Where screws hold", station="wall")
    ] = Field(None, ge=0)
    stud_width_mm: Annotated[float, Quantity("w_s", "Width of a stud", "mm")] = Field(38, gt=20, le=200)
    stud_depth_mm: Annotated[float, Quantity("d_s", "Depth of a stud", "mm")] = Field(140, gt=40, le=400)
    timber_gravity: Annotated[float, Quantity("G", "Specific gravity of the stud timber")] = Field(0.42, gt=0.3, lt=0.8)
    board: Board | None = None
    habitable_behind: bool = Field(False, description="A habitable room lies behind or beside this wall")
    barrier: bool = Field(False, description="A non-combustible barrier stands between battery and habitable room")
    condition: Literal[1, 2, 3] = Field(1, description="What faces the equipment: 1 insulated, 2 earthed, 3 live parts")
    openings: list[Opening] = []
    anchor: Anchor = Anchor()
    masonry: Annotated[
        Literal["concrete", "solid units", "hollow units"] | None, Choice("What the masonry is", "Whether anchors hold in it")
    ] = None
    render_mm: Annotated[float, Quantity("t_r", "Render or plaster that bears nothing", "mm")] = Field(0, ge=0, le=100)
    placements: list[Placement] = []

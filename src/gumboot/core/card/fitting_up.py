"""What a maker says of fitting a box up: factory joints, ferrites, entries, the cover, and where its manual tells of each."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen, Tip
from gumboot.core.quantity import Quantity

Topic = Literal["wall", "landing", "links", "programming", "sensing", "cover", "power-up", "settings", "network"]


class Joint(Frozen):
    """A joint within a thing: made in the factory, where it may have come loose on the way, or on site. Its screw sees the torque tool."""

    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(max_length=60)
    torque_nm: Annotated[float, Quantity("M_j", "Torque of the factory joint {title}", "N m")] = Field(gt=0, lt=500)
    torque_tolerance_pct: Annotated[float, Quantity("b_M", "Band allowed on the torque of {title}", "%")] = Field(10, gt=0, le=25)
    tip: Tip
    on_site: bool = Field(False, description="Made on site, as a strip between two modules is, not in the factory")
    caution: str = Field("", max_length=200)


class Ferrite(Frozen):
    """A ferrite core round what leaves a port: how often it goes through, and which part it is."""

    port: str
    around: str = Field(max_length=60, description="What goes through it, such as both battery leads")
    turns: int = Field(1, ge=1, le=9, description="Times through the core: 1 is straight through")
    part: str = Field("", max_length=60)


class Entries(Frozen):
    """The entries of a box, and the enclosure rating that a fitting in them must keep."""

    count: int = Field(ge=1, le=60)
    size: str = Field(max_length=40, description="Thread or trade size of the entries")
    rating: str = Field(pattern=r"^(IP\d\d|NEMA \d+R?X?)$")


class Cover(Frozen):
    """A cover: its screws, their torque and order, and what stands behind it that is put back first."""

    screws: int = Field(ge=1, le=40)
    torque_nm: Annotated[float | None, Quantity("M_c", "Torque of the cover's screws", "N m")] = Field(None, gt=0, lt=50)
    tip: Tip | None = None
    order: str = Field("", max_length=120, description="Order in which the screws are tightened; empty: crosswise")
    shields: list[str] = Field([], max_length=8, description="Guards and insulation pieces that are put back before it")


class Note(Frozen):
    """A line of practice that belongs where it bites."""

    topic: Topic
    text: str = Field(min_length=3, max_length=300)


class Pointer(Frozen):
    """Where a maker's manual tells of something: a pointer, never its words."""

    topic: Topic
    where: str = Field(min_length=2, max_length=80)

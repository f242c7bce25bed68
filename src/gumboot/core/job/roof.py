"""Roof faces and the strings that lie on them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class Obstacle(Frozen):
    """Something on a roof face that modules keep clear of; mm from the face's left edge and from the eaves."""

    id: str = Field(pattern=NAME)
    title: str = Field("", max_length=40)
    x_mm: Annotated[float, Quantity("x_k", "{title} from the left edge of the face", "mm")] = Field(ge=0, le=60000)
    y_mm: Annotated[float, Quantity("y_k", "{title} from the eaves", "mm")] = Field(ge=0, le=30000)
    width_mm: Annotated[float, Quantity("w_k", "Width of {title}", "mm")] = Field(gt=0, le=60000)
    height_mm: Annotated[float, Quantity("h_k", "Height of {title}", "mm")] = Field(gt=0, le=30000)
    clear_mm: Annotated[float, Quantity("c_k", "Kept free around {title}", "mm")] = Field(150, ge=0, le=5000)


class Face(Frozen):
    """A roof face. With a width and a height its places follow from the module; without, from columns and rows."""

    id: str = Field(pattern=NAME)
    title: str
    tilt_deg: Annotated[float, Quantity("beta_f", "Tilt of {title}", "°")] = Field(ge=0, le=90)
    azimuth_deg: Annotated[float, Quantity("gamma_f", "Azimuth of {title}", "°", hint="Clockwise from north.")] = Field(ge=0, lt=360)
    columns: int = Field(ge=1, le=40)
    rows: int = Field(ge=1, le=20)
    cell_rise_k: Annotated[float, Quantity("dT", "Cell above air in full sun", "K", hint="For this mounting.")] = Field(30, ge=0, le=60)
    width_mm: Annotated[float | None, Quantity("w_f", "Width of {title} at the eaves", "mm")] = Field(None, gt=300, le=60000)
    ridge_mm: Annotated[
        float | None, Quantity("w_r", "Width of {title} at the ridge", "mm", hint="Where the face is hipped; empty: as the eaves.")
    ] = Field(None, ge=0, le=60000)
    height_mm: Annotated[float | None, Quantity("h_f", "Length of {title} up the slope", "mm")] = Field(None, gt=300, le=30000)
    setback_ridge_mm: Annotated[float, Quantity("c_r", "Kept free below the ridge", "mm")] = Field(0, ge=0, le=5000)
    setback_eaves_mm: Annotated[float, Quantity("c_e", "Kept free above the eaves", "mm")] = Field(0, ge=0, le=5000)
    setback_side_mm: Annotated[float, Quantity("c_s", "Kept free at each side", "mm")] = Field(0, ge=0, le=5000)
    gap_mm: Annotated[float, Quantity("g", "Gap between modules", "mm")] = Field(20, ge=0, le=500)
    orientation: Literal["portrait", "landscape"] = "portrait"
    building: Literal["dwelling", "other building", "ground"] = Field(
        "dwelling",
        description="The strictest place that its circuits run on or in: one- and two-family dwelling, other building, ground alone",
    )
    module: str | None = Field(None, description="Card of the modules of this face; empty: the job's module")
    obstacles: tuple[Obstacle, ...] = ()


class String(Frozen):
    """Modules in series on one tracker."""

    id: str = Field(pattern=NAME)
    inverter: str | None = Field(None, description="The inverter or PV inverter; empty: the first that has a tracker of this name")
    tracker: str
    face: str
    modules: Annotated[int, Quantity("n", "Modules in series, {id}")] = Field(ge=1, le=60)
    bridge: bool = Field(False, description="The maker's bridge joins two terminals for this string")
    label_top: str = ""
    label_bottom: str = ""

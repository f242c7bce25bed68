"""Route and choices of a circuit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.job.ids import NAME
from gumboot.core.quantity import Quantity


class Run(Frozen):
    """Route and choices of one circuit; the plan names the circuits."""

    id: str = Field(pattern=NAME)
    length_m: Annotated[
        float | None,
        Quantity(
            "L", "One-way length of {id}", "m", question="Length of {id}?", holds_up="Voltage drop and material of {id}", station="circuits"
        ),
    ] = Field(None, gt=0, le=300)
    ambient_c: Annotated[
        float | None,
        Quantity(
            "T_a", "Hottest air along {id}", "°C", question="Hottest air along {id}?", holds_up="Conductor size of {id}", station="circuits"
        ),
    ] = Field(None, ge=-40, le=85)
    current_carrying: Annotated[int, Quantity("n_cc", "Current-carrying conductors in the raceway")] = Field(2, ge=1, le=60)
    circuits_together: Annotated[int, Quantity("n_c", "Circuits laid together", hint="This one counted.")] = Field(1, ge=1, le=40)
    single_layer: bool = Field(False, description="Laid in one layer on a wall or tray, not bunched (IEC grouping)")
    installed_size: str | None = None
    installed_earth: str | None = None
    earth_laid: Literal["with its lines", "apart, protected", "apart"] = Field(
        "with its lines", description="Whether the earth conductor lies in the cable or raceway of its lines"
    )
    material: Literal["copper", "aluminium"] = "copper"
    insulation: Literal["PVC", "XLPE", "THWN-2", "XHHW-2", "RHW-2", "THWN", "NM-B"] | None = Field(
        None, description="Empty: THWN-2 by NEC, PVC by IEC"
    )
    cable: Literal["building wire", "flexible cable", "cord"] = Field(
        "building wire", description="Flexible: welding-type cable of NEC Article 400; cord: portable cord of the same"
    )
    method: Literal["A1", "A2", "B1", "B2", "C", "D1", "D2", "E"] = Field("B1", description="Method of installation (IEC 60364-5-52)")
    soil_km_per_w: Annotated[float | None, Quantity("rho_s", "Thermal resistivity of the soil", "K m/W", hint="For methods D1 and D2.")] = (
        Field(None, gt=0)
    )
    roof_height_mm: Annotated[float | None, Quantity("h", "Height above the roof", "mm", hint="Empty when not on a sunlit roof.")] = Field(
        None, ge=0
    )
    sets: Annotated[int, Quantity("n_set", "Parallel conductors of each pole")] = Field(1, ge=1, le=4)
    power_factor: Annotated[float, Quantity("cos_phi", "Power factor")] = Field(1, gt=0, le=1)
    device_a: Annotated[float | None, Quantity("I_n_in", "Device chosen for {id}", "A")] = Field(None, gt=0, le=600)
    device_kind: Literal["breaker", "gG fuse"] = "breaker"
    curve: Literal["B", "C", "D"] = "C"
    fully_rated: bool = Field(False, description="Device and enclosure listed for 100 % continuous load")
    residual_ma: Annotated[float | None, Quantity("I_dn", "Rated residual current", "mA")] = Field(None, gt=0, le=3000)
    residual_type: Literal["AC", "A", "F", "B"] = "A"
    wire_class: Literal["solid", "stranded", "fine strand"] = "stranded"
    strip_mm: Annotated[float | None, Quantity("l", "Strip length as prepared", "mm", hint="At the inverter's end.")] = Field(
        None, gt=0, le=80
    )
    lug_hole_mm: Annotated[float | None, Quantity("d_lug", "Hole of the lugs as bought", "mm", hint="At the inverter's end.")] = Field(
        None, gt=0, le=30
    )
    far_strip_mm: Annotated[float | None, Quantity("l_far", "Strip length as prepared, other end", "mm")] = Field(None, gt=0, le=80)
    far_lug_hole_mm: Annotated[float | None, Quantity("d_far", "Hole of the lugs as bought, other end", "mm")] = Field(None, gt=0, le=30)
    raceway: Literal["EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway", "conduit", "trunking"] | None = None
    raceway_size: str | None = Field(None, description="Trade size, inside diameter in mm, or width x height in mm")
    raceway_mm: Annotated[float | None, Quantity("L_rw", "Length of the raceway", "mm", hint="A nipple is at most 600.")] = Field(
        None, gt=0
    )
    shares_with: list[str] = Field([], description="Runs that lie in the same raceway")

"""What the house asks of its supply, before anything of this job is added."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.parts import Frozen
from gumboot.core.quantity import Choice, Quantity

# Kinds of electric heating, as NEC 220.82(C) tells them apart.
Heating = Literal[
    "none", "heat pump alone", "heat pump with supplement", "central or fewer than four units", "four units or more", "storage"
]
WAITS = "Whether the supply carries charging from the grid as well"


class Demand(Frozen):
    """Demand of the house on its supply, told in one of the ways that the code allows."""

    method: Annotated[
        Literal["measured peak", "by area", "existing dwelling"] | None, Choice("How is the demand of the house known", WAITS)
    ] = None
    peak_a: Annotated[
        float | None,
        Quantity("I_p", "Highest demand measured, fullest line", "A", holds_up=WAITS, hint="Of a year, or of 30 days by the quarter hour."),
    ] = Field(None, gt=0, le=2000)
    area_m2: Annotated[
        float | None, Quantity("A_f", "Floor area, outside dimensions", "m2", holds_up=WAITS, hint="No garage, no open porch.")
    ] = Field(None, gt=0, le=3000)
    circuits: Annotated[int, Quantity("n_sa", "Small-appliance and laundry circuits")] = Field(3, ge=2, le=20)
    appliances_w: Annotated[
        float | None, Quantity("P_a", "Nameplates of fastened appliances", "W", holds_up=WAITS, hint="Range, dryer, water heater too.")
    ] = Field(None, ge=0, le=300000)
    cooling_w: Annotated[float, Quantity("P_cool", "Air conditioning", "W")] = Field(0, ge=0, le=100000)
    heating: Heating = Field("none", description="Kind of electric heating")
    heating_w: Annotated[float, Quantity("P_heat", "Electric space heating", "W")] = Field(0, ge=0, le=100000)
    supplement_w: Annotated[float, Quantity("P_sup", "Heating that supplements a heat pump", "W")] = Field(0, ge=0, le=100000)
    there_w: Annotated[
        float | None, Quantity("P_th", "Load there is", "W", holds_up=WAITS, hint="All nameplates, and 33 W for each square metre.")
    ] = Field(None, gt=0, le=500000)
    service: Literal["a dwelling's, all of its load", "another"] = Field("another", description="What the service conductors feed")

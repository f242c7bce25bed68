"""Supply, climate and permissions of the place."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from gumboot.core.card.parts import Frozen
from gumboot.core.quantity import Choice, Quantity

Electrode = Literal["rod, pipe or plate", "concrete-encased", "ground ring", "water pipe or steel"]
Climate = Literal["maritime", "continental", "mediterranean", "arid", "humid", "mountain"]


class Site(Frozen):
    """Supply, climate and permissions of the place."""

    record_low_c: Annotated[
        float | None, Quantity("T_low", "Record low air temperature", "°C", holds_up="String voltage on the coldest morning")
    ] = Field(None, ge=-60, le=30)
    summer_high_c: Annotated[
        float | None,
        Quantity(
            "T_air", "Summer design air temperature", "°C", holds_up="String voltage on a hot day", hint="2 % design high of the place."
        ),
    ] = Field(None, ge=0, le=60)
    room_low_c: Annotated[
        float | None, Quantity("T_cold", "Coldest air at the equipment", "°C", holds_up="Whether the battery may be charged in winter")
    ] = Field(None, ge=-40, le=40)
    room_high_c: Annotated[
        float | None, Quantity("T_room", "Hottest air at the equipment", "°C", holds_up="Whether the inverter keeps its rating")
    ] = Field(None, ge=0, le=60)
    altitude_m: Annotated[float, Quantity("h_sea", "Altitude", "m")] = Field(0, ge=-100, le=4000)
    service_main_a: Annotated[
        float | None, Quantity("I_main", "Main device of the supply", "A", holds_up="Whether the inverter may be joined to the main board")
    ] = Field(None, gt=0, le=400)
    busbar_a: Annotated[
        float | None,
        Quantity("I_bus", "Busbar rating of the main board", "A", holds_up="Whether the inverter may be joined to the main board"),
    ] = Field(None, gt=0, le=400)
    busbar_opposite_end: bool = Field(True, description="Inverter breaker at the far end of the busbar from the main")
    grid_fault_a: Annotated[
        float | None,
        Quantity("I_kg", "Prospective fault current at the main board", "A", holds_up="Whether the breakers can break a grid fault"),
    ] = Field(None, gt=0)
    main_board_interrupting_a: Annotated[float, Quantity("I_cu", "Interrupting rating of the breakers fitted", "A")] = Field(10000, gt=0)
    export_limit_w: Annotated[float | None, Quantity("P_exp", "Export the utility permits", "W", holds_up="The export limit")] = Field(
        None, ge=0
    )
    internet: Annotated[Literal["wired", "wifi", "mobile", "none"] | None, Choice("Internet at the spot", "Remote access and alarms")] = (
        None
    )
    utility_approval: Annotated[str | None, Choice("Utility's approval reference", "Letting the grid in")] = Field(None, max_length=200)
    building_approval: Annotated[str | None, Choice("Building permit reference", "Hand-over")] = Field(None, max_length=200)
    neutral_bond: Annotated[
        Literal["main board", "both boards", "none"], Choice("Neutral is bonded to earth at", "One bond in every mode")
    ] = "main board"
    supply: Annotated[
        Literal["split phase", "single phase", "three phase", "none"], Choice("What the network brings", "Which circuits there are")
    ] = Field("split phase")
    connection: Annotated[
        Literal["load side", "supply side", "controlled"], Choice("Where the inverter joins the supply", "Which connection rule holds")
    ] = Field("load side")
    busbar_case: Literal["sum", "opposite ends", "sum of devices", "centre fed"] | None = Field(
        None, description="Busbar case of NEC 705.12(B); empty follows busbar_opposite_end"
    )
    board_devices_a: list[float] = Field([], description="Every load and source device on the busbar but the main, A")
    control_setting_a: Annotated[
        float | None,
        Quantity(
            "I_set",
            "Limit held by the power control",
            "A",
            question="Which limit does the power control hold?",
            holds_up="Whether the controlled source may be joined",
        ),
    ] = Field(None, gt=0)
    series_rating: Literal["not used", "marked", "unmarked"] = Field("not used", description="Series rating relied on at the main board")
    backfed_fastened: Annotated[
        bool | None, Choice("Inverter's breaker is fastened and suitable for back-feed", "Whether it can be pulled off live")
    ] = None
    mains: Literal["50 Hz", "60 Hz"] | None = Field(None, description="Frequency of the network; empty: the usual one of the rule book")
    private_supply: bool = Field(False, description="The supply comes from a transformer of the installation's own")
    bonding_size: str | None = Field(None, description="Main bonding conductor fitted")
    rapid_shutdown: Annotated[
        bool | None, Choice("Rapid shutdown of the array is fitted", "Whether a fire crew can make the roof dead")
    ] = None
    shutdown_loop_m: Annotated[
        float | None,
        Quantity(
            "L_rsd",
            "Rapid-shutdown loop from the inverter to its initiator, one way",
            "m",
            question="How far is it from the inverter to the rapid-shutdown initiator?",
            holds_up="Whether the loop's current comes back",
            station="links",
        ),
    ] = Field(None, gt=0, le=300)
    shutdown_core: str = Field(
        "", max_length=12, description="Size of the cores of the rapid-shutdown loop; empty: the least that the card allows"
    )
    initiator_at: str = Field("", max_length=60, description="Where the rapid-shutdown initiator is")
    network_address: Literal["given", "fixed"] = Field(
        "given", description="Address of the inverter in the network: given by the router, or fixed"
    )
    demand_response: bool = Field(False, description="The network asks for a demand-response lead to the inverter")
    earthing: Annotated[Literal["TN-S", "TN-C-S", "TT", "IT"], Choice("Earthing arrangement of the supply", "How a fault is cleared")] = (
        Field("TN-C-S")
    )
    loop_ohm: Annotated[
        float | None, Quantity("Z_e", "Earth-fault loop impedance at the origin", "ohm", holds_up="Whether a fault trips in time")
    ] = Field(None, gt=0, le=2000)
    electrode_ohm: Annotated[
        float | None, Quantity("R_A", "Resistance of the earth electrode", "ohm", holds_up="Whether the residual device trips in time")
    ] = Field(None, gt=0, le=5000)
    electrode_size: str | None = Field(None, description="Grounding electrode conductor fitted")
    service_size: str | None = Field(None, description="Largest service conductor")
    service_material: Literal["copper", "aluminium"] = Field("copper", description="Metal of the service conductors")
    electrode: Electrode = Field("rod, pipe or plate", description="The only electrode that this conductor leads to")
    electrode_material: Literal["copper", "aluminium"] = Field("copper", description="Metal of the electrode conductor")
    ring_size: str | None = Field(None, description="Conductor of the ground ring")
    island_electrode: Annotated[
        bool | None, Choice("An earth electrode of the installation's own stands for the island", "The island's earth reference")
    ] = None
    cell_today_c: Annotated[
        float | None,
        Quantity(
            "T_day",
            "Cell temperature on the day of the dead tests",
            "°C",
            question="Cell temperature today?",
            holds_up="Expected string voltage at the dead tests",
            station="prove",
        ),
    ] = Field(None, ge=-40, le=90)
    latitude_deg: Annotated[float | None, Quantity("phi", "Latitude", "°", holds_up="The path of the sun", hint="North positive.")] = Field(
        None, ge=-66, le=66
    )
    longitude_deg: Annotated[float | None, Quantity("lam", "Longitude", "°", holds_up="The path of the sun", hint="East positive.")] = (
        Field(None, ge=-180, le=180)
    )
    utc_offset_h: Annotated[float | None, Quantity("dt_utc", "Local standard time against UTC", "h", holds_up="The path of the sun")] = (
        Field(None, ge=-12, le=14)
    )
    climate: Climate | None = Field(None, description="Shipped monthly clearness and air temperature where none are entered")
    clearness: list[float] = Field([], description="Monthly clearness, sun received against a clear sky, January first; 12 or none")
    air_c: list[float] = Field([], description="Mean air temperature of each month, °C, January first; 12 or none")

    @model_validator(mode="after")
    def _months_are_twelve(self) -> Site:
        for name, values, low, high in (("clearness", self.clearness, 0.05, 1.0), ("air_c", self.air_c, -50.0, 50.0)):
            if len(values) not in (0, 12):
                raise ValueError(f"site.{name} needs twelve values, January first, or none; it has {len(values)}")
            if any(not low <= v <= high for v in values):
                raise ValueError(f"each value of site.{name} must lie within {low:g} to {high:g}")
        return self

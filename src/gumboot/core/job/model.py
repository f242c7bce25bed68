"""The job document. ``None`` means not answered yet: a gap, never a guess."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gumboot.core.card.parts import Frozen
from gumboot.core.limits import check_size
from gumboot.core.quantity import Choice, Quantity

Leg = Literal["L1", "L2", "L3", "L1+L2", "L1+L2+L3"]
NAME = r"^[A-Za-z0-9-]{1,40}$"
# Places and circuits that a plan names itself; a battery may not take one of these names.
TAKEN = {
    *("roof", "inverter", "switch-fuse", "busbar", "sub-board", "main-board", "transfer", "generator", "pv-inverter"),
    *("grid", "backup", "bat-main", "interlinks", "through", "generator-feed", "pv-ac", "electrode"),
}
Climate = Literal["maritime", "continental", "mediterranean", "arid", "humid", "mountain"]
BookId = Literal["nec-2023", "iec-60364", "bs-7671", "as-nzs-3000"]


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
    rapid_shutdown: Annotated[
        bool | None, Choice("Rapid shutdown of the array is fitted", "Whether a fire crew can make the roof dead")
    ] = None
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
    rod_only: bool = Field(True, description="The electrode is a rod, pipe or plate alone")
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


class Wall(Frozen):
    """The wall and what stands on it."""

    title: str = "Wall"
    room: Annotated[
        Literal["garage", "outdoor", "utility room", "undercroft", "habitable room"],
        Choice("Kind of place", "How much battery may stand here"),
    ] = "garage"
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


class Load(Frozen):
    """One circuit of the house."""

    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(min_length=1, max_length=60)
    running_w: Annotated[float, Quantity("P", "{title}, running", "W")] = Field(ge=0, le=30000)
    surge_w: Annotated[float, Quantity("P_s", "{title}, starting", "W")] = Field(ge=0, le=100000)
    leg: Leg
    side: Literal["backed", "house"]
    duty: Annotated[float, Quantity("d", "Share of the time that {title} runs within its hours")] = Field(1, ge=0, le=1)
    from_hour: int = Field(0, ge=0, le=23)
    to_hour: int = Field(24, ge=1, le=24)
    starts_with: str = Field("", max_length=40, description="Loads of one name start at the same moment")
    priority: Literal[1, 2, 3] = Field(2, description="1 must run in an outage, 2 should, 3 may")
    movable: bool = Field(True, description="Its breaker may change legs when the legs are balanced")

    @model_validator(mode="after")
    def _surge_at_least_running(self) -> Load:
        if self.surge_w < self.running_w:
            raise ValueError("surge_w must be at least running_w; give the starting power, not the difference")
        return self


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
    obstacles: tuple[Obstacle, ...] = ()


class String(Frozen):
    """Modules in series on one tracker."""

    id: str = Field(pattern=NAME)
    tracker: str
    face: str
    modules: Annotated[int, Quantity("n", "Modules in series, {id}")] = Field(ge=1, le=60)
    bridge: bool = Field(False, description="The maker's bridge joins two terminals for this string")
    label_top: str = ""
    label_bottom: str = ""


class BatteryUnit(Frozen):
    """One battery of the bank, in chain order."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,20}$")
    dip_address: int = Field(0, ge=0, le=63)
    terminator: bool = False
    protocol: int = 0


class Bank(Frozen):
    """The battery bank."""

    units: list[BatteryUnit] = Field(min_length=1, max_length=32)
    cabling: Literal["busbar", "daisy", "diagonal"] = "busbar"
    precharge: bool = True


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
    material: Literal["copper", "aluminium"] = "copper"
    insulation: Literal["PVC", "XLPE", "THWN-2", "XHHW-2", "RHW-2"] | None = Field(None, description="Empty: THWN-2 by NEC, PVC by IEC")
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
    lug_hole_mm: Annotated[float | None, Quantity("d_lug", "Hole of the lugs as bought", "mm")] = Field(None, gt=0, le=30)
    raceway: Literal["EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway", "conduit", "trunking"] | None = None
    raceway_size: str | None = Field(None, description="Trade size, inside diameter in mm, or width x height in mm")
    raceway_mm: Annotated[float | None, Quantity("L_rw", "Length of the raceway", "mm", hint="A nipple is at most 600.")] = Field(
        None, gt=0
    )
    shares_with: list[str] = Field([], description="Runs that lie in the same raceway")


class Backup(Frozen):
    """How the backed-up board may be joined to the grid around the inverter, and which school of backing up is followed."""

    school: Literal["sub-board", "whole house", "manual transfer"] = "sub-board"
    bypass: Annotated[
        Literal["none", "interlocked", "breaker without interlock"], Choice("Bypass from the grid to the backed-up board", "First power")
    ] = "none"


class PinPair(Frozen):
    """One core of the lead as made: inverter pin to battery pin."""

    inverter_pin: int = Field(ge=1, le=8)
    battery_pin: int = Field(ge=1, le=8)


class Links(Frozen):
    """Data links as decided."""

    inverter_protocol: int = 0
    lead_as_made: list[PinPair] = []


class CtPlace(Frozen):
    """Where one CT sits."""

    channel: str
    leg: Literal["L1", "L2", "L3"]
    arrow: Literal["toward house", "toward grid"]
    side: Literal["grid side of every load", "inverter side", "between loads"] = "grid side of every load"


class Sensing(Frozen):
    """CTs and the known loads of the meter test."""

    cts: list[CtPlace] = []
    test_l1_w: Annotated[float, Quantity("P_1", "Known load on L1", "W")] = Field(1500, ge=0)
    test_l2_w: Annotated[float, Quantity("P_2", "Known load on L2", "W")] = Field(600, ge=0)
    test_l3_w: Annotated[float, Quantity("P_3", "Known load on L3", "W")] = Field(1000, ge=0)
    test_power_factor: Annotated[float, Quantity("pf", "Power factor of the known loads", hint="Lagging; heaters are 1.")] = Field(
        1, ge=0.2, le=1
    )


class TariffWindow(Frozen):
    """Hours at one price; ``to_hour`` may be below ``from_hour`` to wrap midnight."""

    id: str = Field(pattern=NAME)
    title: str = Field(min_length=1, max_length=40)
    kind: Literal["peak", "shoulder", "off-peak"]
    from_hour: int = Field(ge=0, le=23)
    to_hour: int = Field(ge=1, le=24)
    price: Annotated[float, Quantity("c", "Price in {title}", "1/kWh", hint="In local money.")] = Field(ge=0)
    grid_charge: bool = False


class Settings(Frozen):
    """Preferences from which the settings sheet is worked out."""

    work_mode: Literal["self-use", "backup", "timed"] = "self-use"
    reserve_pct: Annotated[float, Quantity("S_res", "Reserve", "%")] = Field(30, ge=0, le=100)
    outage_hours: Annotated[float, Quantity("t_want", "Outage to be carried from the reserve", "h")] = Field(8, ge=0, le=240)
    comms: Literal["closed loop", "open loop"] = "closed loop"
    charge_a: Annotated[float | None, Quantity("I_chg_in", "Charge limit wanted", "A", hint="Empty lets the plan choose.")] = Field(
        None, gt=0
    )
    discharge_a: Annotated[float | None, Quantity("I_dis_in", "Discharge limit wanted", "A", hint="Empty lets the plan choose.")] = Field(
        None, gt=0
    )
    grid_charge_a: Annotated[float, Quantity("I_gc", "Charge current from grid or generator", "A")] = Field(30, ge=0)
    absorb_v: Annotated[float | None, Quantity("V_abs_in", "Absorb voltage wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    cut_off_v: Annotated[float | None, Quantity("V_off_in", "Cut-off voltage wanted", "V", hint="Empty uses the card.")] = Field(None, gt=0)
    equalise: bool = Field(False, description="Equalising charge switched on")
    tariff: list[TariffWindow] = []


class Consumption(Frozen):
    """Measured consumption as a typical day of each month: mean power in W, shape (12, 24), None where nothing was measured."""

    source: str = Field("", max_length=120)
    first: str = Field("", max_length=40)
    last: str = Field("", max_length=40)
    intervals: int = Field(0, ge=0)
    kwh: float = Field(0, ge=0)
    month_hour_w: list[list[float | None]] = []
    notes: list[str] = []

    @model_validator(mode="after")
    def _twelve_days(self) -> Consumption:
        if len(self.month_hour_w) not in (0, 12) or any(len(day) != 24 for day in self.month_hour_w):
            raise ValueError("consumption.month_hour_w needs twelve days of 24 values, or none")
        if any(v is not None and not 0 <= v <= 200_000 for day in self.month_hour_w for v in day):
            raise ValueError("consumption.month_hour_w: each value must lie within 0 to 200 000 W")
        return self


class Equipment(Frozen):
    """Chosen cards by id."""

    inverter: str
    battery: str
    module: str | None = None
    ct: str | None = None
    switch_fuse: str | None = None
    busbar_box: str | None = None
    roof_box: str | None = None
    sub_board: str
    main_board: str | None = None
    transfer: str | None = None
    generator: str | None = None
    pv_inverter: str | None = None
    optimiser: str | None = None
    anchor: str | None = None


class Preferences(Frozen):
    """How this crew works."""

    units: Literal["US", "SI"] = "US"
    drop_limit_pct: Annotated[float, Quantity("dv_max", "Drop wanted at most", "%")] = Field(3, gt=0, le=10)
    start_of_autonomy_pct: Annotated[float, Quantity("S_0", "State of charge when the outage begins", "%")] = Field(100, ge=5, le=100)
    pv_loss_pct: Annotated[float, Quantity("l_pv", "PV lost to dirt, shade, wiring and mismatch", "%")] = Field(12, ge=0, le=60)
    slack_pct: Annotated[float, Quantity("s_cut", "Slack added to each length when cable is cut", "%")] = Field(10, ge=0, le=50)


class ToolItem(Frozen):
    """A torque tool with the last day its calibration holds (ISO date)."""

    id: str
    title: str
    calibrated_to: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")


class Job(Frozen):
    """One house."""

    format: Literal["gumboot.job/1"] = "gumboot.job/1"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(min_length=1, max_length=80)
    story: str = ""
    rule_book: BookId = "nec-2023"
    site: Site
    equipment: Equipment
    loads: list[Load] = []
    faces: list[Face] = []
    strings: list[String] = []
    pv_mode: Literal["independent", "parallel"] = Field("independent", description="How the PV inputs are set")
    string_fuse_a: Annotated[float | None, Quantity("I_f_str", "String fuse", "A", hint="Where strings are joined.")] = Field(None, gt=0)
    bank: Bank
    runs: list[Run] = []
    backup: Backup = Backup()
    wall: Wall
    links: Links
    sensing: Sensing
    settings: Settings
    preferences: Preferences = Preferences()
    tools: list[ToolItem] = []
    consumption: Consumption = Consumption()
    cards: dict[str, int] = Field({}, description="Revision of each card that this job was planned with")

    @model_validator(mode="before")
    @classmethod
    def _within_reason(cls, document: Any) -> Any:
        if isinstance(document, dict):
            check_size(document)
        return document

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Job:
        lists: dict[str, Sequence[Any]] = {
            "loads": self.loads,
            "faces": self.faces,
            "strings": self.strings,
            "runs": self.runs,
            "bank.units": self.bank.units,
            "settings.tariff": self.settings.tariff,
            "tools": self.tools,
            "wall.placements": self.wall.placements,
        }
        lists |= {f"faces.{face.id}.obstacles": face.obstacles for face in self.faces}
        for name, items in lists.items():
            ids = [item.id for item in items]
            if len(ids) != len(set(ids)):
                raise ValueError(f"{name}: two entries share one id; give each its own")
        if taken := TAKEN & {unit.id for unit in self.bank.units}:
            raise ValueError(f"bank.units: a battery may not be named {', '.join(sorted(taken))}")
        return self

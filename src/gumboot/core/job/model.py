"""The job document. ``None`` means not answered yet: a gap, never a guess."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

from pydantic import Field, model_validator

from gumboot.core.card.parts import Frozen
from gumboot.core.limits import check_size

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

    record_low_c: float | None = Field(None, ge=-60, le=30, description="Record low air temperature, °C")
    summer_high_c: float | None = Field(None, ge=0, le=60, description="2 % design high air temperature, °C")
    room_low_c: float | None = Field(None, ge=-40, le=40, description="Coldest air at the equipment, °C")
    room_high_c: float | None = Field(None, ge=0, le=60, description="Hottest air at the equipment, °C")
    altitude_m: float = Field(0, ge=-100, le=4000)
    service_main_a: float | None = Field(None, gt=0, le=400, description="Main device of the supply, A")
    busbar_a: float | None = Field(None, gt=0, le=400, description="Busbar rating of the main board, A")
    busbar_opposite_end: bool = Field(True, description="Inverter breaker at the far end of the busbar from the main")
    grid_fault_a: float | None = Field(None, gt=0, description="Prospective fault current at the main board, A")
    main_board_interrupting_a: float = Field(10000, gt=0, description="Interrupting rating of the breakers fitted, A")
    export_limit_w: float | None = Field(None, ge=0, description="Export the utility permits, W")
    internet: Literal["wired", "wifi", "mobile", "none"] | None = None
    utility_approval: str | None = Field(None, max_length=200, description="Utility's approval reference")
    building_approval: str | None = Field(None, max_length=200)
    neutral_bond: Literal["main board", "both boards", "none"] = "main board"
    supply: Literal["split phase", "single phase", "three phase", "none"] = Field("split phase", description="What the network brings")
    connection: Literal["load side", "supply side", "controlled"] = Field("load side", description="Where the inverter joins the supply")
    busbar_case: Literal["sum", "opposite ends", "sum of devices", "centre fed"] | None = Field(
        None, description="Busbar case of NEC 705.12(B); empty follows busbar_opposite_end"
    )
    board_devices_a: list[float] = Field([], description="Every load and source device on the busbar but the main, A")
    control_setting_a: float | None = Field(None, gt=0, description="Limit that the listed power control holds on the busbar, A")
    series_rating: Literal["not used", "marked", "unmarked"] = Field("not used", description="Series rating relied on at the main board")
    backfed_fastened: bool | None = Field(None, description="The inverter's plug-in breaker is fastened and suitable for back-feed")
    rapid_shutdown: bool | None = Field(None, description="Rapid shutdown of the array is fitted with its initiator")
    earthing: Literal["TN-S", "TN-C-S", "TT", "IT"] = Field("TN-C-S", description="Earthing arrangement of the supply")
    loop_ohm: float | None = Field(None, gt=0, le=2000, description="Earth-fault loop impedance at the origin, ohm")
    electrode_ohm: float | None = Field(None, gt=0, le=5000, description="Resistance of the installation's earth electrode, ohm")
    electrode_size: str | None = Field(None, description="Grounding electrode conductor fitted")
    service_size: str | None = Field(None, description="Largest service conductor")
    rod_only: bool = Field(True, description="The electrode is a rod, pipe or plate alone")
    island_electrode: bool | None = Field(None, description="An earth electrode of the installation's own stands for the island")
    cell_today_c: float | None = Field(None, ge=-40, le=90, description="Cell temperature on the day of the dead tests, °C")
    latitude_deg: float | None = Field(None, ge=-66, le=66, description="Latitude, degrees, north positive")
    longitude_deg: float | None = Field(None, ge=-180, le=180, description="Longitude, degrees, east positive")
    utc_offset_h: float | None = Field(None, ge=-12, le=14, description="Local standard time against UTC, h")
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
    x_mm: float
    y_mm: float
    width_mm: float = Field(gt=0)
    height_mm: float = Field(gt=0)
    thickness_mm: float = Field(gt=0)


class Opening(Frozen):
    """Something on the wall that keeps equipment away."""

    id: str
    title: str
    kind: Literal["door", "window", "exit", "appliance", "gas", "water"]
    x_mm: float
    y_mm: float
    width_mm: float = Field(gt=0)
    height_mm: float = Field(gt=0)


class Anchor(Frozen):
    """Screw that holds the brackets."""

    diameter_mm: float = Field(8, gt=2, le=20)
    length_mm: float = Field(90, gt=10, le=300)
    lateral_allowable_n: float = Field(850, gt=0, description="Allowable lateral load by the screw's maker, N")


class Placement(Frozen):
    """Lower left corner of a box, mm from datum and floor."""

    id: str = Field(pattern=NAME)
    x_mm: float = Field(ge=0, le=20000)
    y_mm: float = Field(ge=0, le=6000)


class Wall(Frozen):
    """The wall and what stands on it."""

    title: str = "Wall"
    room: Literal["garage", "outdoor", "utility room", "undercroft", "habitable room"] = "garage"
    width_mm: float | None = Field(None, gt=500, le=20000)
    height_mm: float | None = Field(None, gt=500, le=6000)
    surface: Literal["timber cladding", "plasterboard", "masonry", "cement board"] | None = None
    free_depth_mm: float | None = Field(None, gt=0, le=20000, description="Free floor in front of the equipment, mm")
    stud_spacing_mm: float | None = Field(None, gt=200, le=1300, description="Stud spacing, centre to centre, mm")
    stud_first_mm: float | None = Field(None, ge=0, description="Middle of the first stud from the datum, mm")
    stud_width_mm: float = Field(38, gt=20, le=200)
    stud_depth_mm: float = Field(140, gt=40, le=400)
    timber_gravity: float = Field(0.42, gt=0.3, lt=0.8, description="Specific gravity of the stud timber")
    board: Board | None = None
    habitable_behind: bool = Field(False, description="A habitable room lies behind or beside this wall")
    barrier: bool = Field(False, description="A non-combustible barrier stands between battery and habitable room")
    condition: Literal[1, 2, 3] = Field(1, description="What faces the equipment: 1 insulated, 2 earthed, 3 live parts")
    openings: list[Opening] = []
    anchor: Anchor = Anchor()
    masonry: Literal["concrete", "solid units", "hollow units"] | None = Field(None, description="What a masonry wall is made of")
    render_mm: float = Field(0, ge=0, le=100, description="Render or plaster on the masonry, which bears nothing, mm")
    placements: list[Placement] = []


class Load(Frozen):
    """One circuit of the house."""

    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(min_length=1, max_length=60)
    running_w: float = Field(ge=0, le=30000)
    surge_w: float = Field(ge=0, le=100000)
    leg: Leg
    side: Literal["backed", "house"]
    duty: float = Field(1, ge=0, le=1, description="Share of the time it runs within its hours")
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
    x_mm: float = Field(ge=0, le=60000)
    y_mm: float = Field(ge=0, le=30000)
    width_mm: float = Field(gt=0, le=60000)
    height_mm: float = Field(gt=0, le=30000)
    clear_mm: float = Field(150, ge=0, le=5000, description="Kept free around it, mm")


class Face(Frozen):
    """A roof face. With a width and a height its places follow from the module; without, from columns and rows."""

    id: str = Field(pattern=NAME)
    title: str
    tilt_deg: float = Field(ge=0, le=90)
    azimuth_deg: float = Field(ge=0, lt=360)
    columns: int = Field(ge=1, le=40)
    rows: int = Field(ge=1, le=20)
    cell_rise_k: float = Field(30, ge=0, le=60, description="Cell above air in full sun for this mounting, K")
    width_mm: float | None = Field(None, gt=300, le=60000, description="Width at the eaves, mm")
    ridge_mm: float | None = Field(None, ge=0, le=60000, description="Width at the ridge where the face is hipped, mm; empty: as the eaves")
    height_mm: float | None = Field(None, gt=300, le=30000, description="Length up the slope, mm")
    setback_ridge_mm: float = Field(0, ge=0, le=5000, description="Kept free below the ridge, mm")
    setback_eaves_mm: float = Field(0, ge=0, le=5000, description="Kept free above the eaves, mm")
    setback_side_mm: float = Field(0, ge=0, le=5000, description="Kept free at each side, mm")
    gap_mm: float = Field(20, ge=0, le=500, description="Between modules, mm")
    orientation: Literal["portrait", "landscape"] = "portrait"
    obstacles: tuple[Obstacle, ...] = ()


class String(Frozen):
    """Modules in series on one tracker."""

    id: str = Field(pattern=NAME)
    tracker: str
    face: str
    modules: int = Field(ge=1, le=60)
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
    length_m: float | None = Field(None, gt=0, le=300, description="One-way route length, m")
    ambient_c: float | None = Field(None, ge=-40, le=85, description="Hottest air along the route, °C")
    current_carrying: int = Field(2, ge=1, le=60, description="Current-carrying conductors in the same raceway")
    circuits_together: int = Field(1, ge=1, le=40, description="Circuits or cables laid together, this one counted (IEC grouping)")
    single_layer: bool = Field(False, description="Laid in one layer on a wall or tray, not bunched (IEC grouping)")
    installed_size: str | None = None
    installed_earth: str | None = None
    material: Literal["copper", "aluminium"] = "copper"
    insulation: Literal["PVC", "XLPE", "THWN-2", "XHHW-2", "RHW-2"] | None = Field(None, description="Empty: THWN-2 by NEC, PVC by IEC")
    cable: Literal["building wire", "flexible cable", "cord"] = Field(
        "building wire", description="Flexible: welding-type cable of NEC Article 400; cord: portable cord of the same"
    )
    method: Literal["A1", "A2", "B1", "B2", "C", "D1", "D2", "E"] = Field("B1", description="Method of installation (IEC 60364-5-52)")
    soil_km_per_w: float | None = Field(None, gt=0, description="Thermal resistivity of the soil for methods D1 and D2, K m/W")
    roof_height_mm: float | None = Field(None, ge=0, description="Height above a sunlit roof, mm; empty when not on a roof")
    sets: int = Field(1, ge=1, le=4, description="Parallel conductors for each pole")
    power_factor: float = Field(1, gt=0, le=1)
    device_a: float | None = Field(None, gt=0, le=600)
    device_kind: Literal["breaker", "gG fuse"] = "breaker"
    curve: Literal["B", "C", "D"] = "C"
    fully_rated: bool = Field(False, description="Device and enclosure listed for 100 % continuous load")
    residual_ma: float | None = Field(None, gt=0, le=3000, description="Rated residual current of the RCD on this circuit, mA")
    residual_type: Literal["AC", "A", "F", "B"] = "A"
    wire_class: Literal["solid", "stranded", "fine strand"] = "stranded"
    strip_mm: float | None = Field(None, gt=0, le=80, description="Strip length as prepared at the inverter's end, mm")
    lug_hole_mm: float | None = Field(None, gt=0, le=30, description="Hole of the lugs as bought, mm")
    raceway: Literal["EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway", "conduit", "trunking"] | None = None
    raceway_size: str | None = Field(None, description="Trade size, inside diameter in mm, or width x height in mm")
    raceway_mm: float | None = Field(None, gt=0, description="Length of the raceway, mm; a nipple is at most 600")
    shares_with: list[str] = Field([], description="Runs that lie in the same raceway")


class Backup(Frozen):
    """How the backed-up board may be joined to the grid around the inverter, and which school of backing up is followed."""

    school: Literal["sub-board", "whole house", "manual transfer"] = "sub-board"
    bypass: Literal["none", "interlocked", "breaker without interlock"] = "none"


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
    test_l1_w: float = Field(1500, ge=0)
    test_l2_w: float = Field(600, ge=0)
    test_l3_w: float = Field(1000, ge=0)
    test_power_factor: float = Field(1, ge=0.2, le=1, description="Power factor of the known loads, lagging; heaters are 1")


class TariffWindow(Frozen):
    """Hours at one price; ``to_hour`` may be below ``from_hour`` to wrap midnight."""

    id: str = Field(pattern=NAME)
    title: str = Field(min_length=1, max_length=40)
    kind: Literal["peak", "shoulder", "off-peak"]
    from_hour: int = Field(ge=0, le=23)
    to_hour: int = Field(ge=1, le=24)
    price: float = Field(ge=0, description="Price per kWh in local money")
    grid_charge: bool = False


class Settings(Frozen):
    """Preferences from which the settings sheet is worked out."""

    work_mode: Literal["self-use", "backup", "timed"] = "self-use"
    reserve_pct: float = Field(30, ge=0, le=100)
    outage_hours: float = Field(8, ge=0, le=240, description="Hours an outage should be carried from the reserve alone")
    comms: Literal["closed loop", "open loop"] = "closed loop"
    charge_a: float | None = Field(None, gt=0, description="Charge limit wanted, A; empty lets the plan choose")
    discharge_a: float | None = Field(None, gt=0)
    grid_charge_a: float = Field(30, ge=0)
    absorb_v: float | None = Field(None, gt=0, description="Open-loop absorb voltage wanted, V; empty uses the card")
    cut_off_v: float | None = Field(None, gt=0)
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
    drop_limit_pct: float = Field(3, gt=0, le=10)
    start_of_autonomy_pct: float = Field(100, ge=5, le=100, description="State of charge when the outage begins, %")
    pv_loss_pct: float = Field(12, ge=0, le=60, description="PV lost to dirt, shade, wiring and mismatch, %")
    slack_pct: float = Field(10, ge=0, le=50, description="Slack added to each length when cable is cut, %")


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
    string_fuse_a: float | None = Field(None, gt=0, description="Fuse of each string where strings are joined, A")
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

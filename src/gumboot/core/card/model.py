"""Card kinds, told apart by ``kind``."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from gumboot.core.card.parts import Body, DataPort, Frozen, Overload, Port, Protocol, Range, Terminal
from gumboot.core.errors import WrongCard
from gumboot.core.limits import MOST_CARD_ITEMS, check_size

__all__ = ["Terminal"]


class _CardBase(Frozen):
    format: Literal["gumboot.card/1"] = "gumboot.card/1"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    revision: int = Field(ge=1)
    title: str
    maker: str
    house_notes: list[str] = []


def find_terminal(title: str, ports: list[Port], port: str, terminal: str) -> Terminal:
    """The terminal by port and terminal id. Raises WrongCard when the card lacks it."""
    for p in ports:
        if p.id == port:
            for t in p.terminals:
                if t.id == terminal:
                    return t
    raise WrongCard(f"{title} has no terminal {port} {terminal}. Choose a card that has one, or change what lands there.")


class _Enclosure(_CardBase):
    body: Body
    ports: list[Port]
    live_method: str = Field("", description="How the maker has ends landed that cannot be switched off")

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard when the card lacks it."""
        return find_terminal(self.title, self.ports, port, terminal)


class Tracker(Frozen):
    """A PV input with its voltage window and current limits."""

    id: str
    port: str
    v_max: float
    v_min: float
    v_full_max: float
    v_start: float
    i_max_a: float
    isc_max_a: float
    terminal_max_a: float
    bridge_max_a: float | None = Field(default=None, description="Current of two terminals under the maker's bridge, A")
    bridge_with: str = Field(default="", description="Input whose terminal the bridge takes; empty: a second terminal of its own")


Chemistry = Literal["LFP", "NMC", "lead-acid flooded", "lead-acid sealed", "lead-acid gel"]
Output = Literal["single phase", "split phase", "three phase"]
SystemKind = Literal["K1", "K2", "K3", "K4", "K5", "K6", "K7", "K8", "K9", "K10", "K11", "K12", "K13", "K14"]
AcLeg = Literal["L1", "L2", "L3"]


class InverterBattery(Frozen):
    """What the inverter asks of its battery port."""

    v_min: float
    v_max: float
    discharge_a: float
    charge_a: float
    efficiency: float = Field(gt=0.5, le=1)
    conductor_min: str = ""
    input_capacitance_uf: float
    precharge_ohm: float
    chemistries: list[Chemistry] = ["LFP"]
    accepts: list[str] = Field(
        default=[], description="Cards on the maker's battery list; empty: whatever fits the window and the protocol"
    )
    cable_max_m: float | None = Field(default=None, description="Longest battery cable, one way, m")
    ripple: bool = Field(default=False, description="The battery current carries the ripple of a single-phase output")


class CtChannel(Frozen):
    """A CT input, the leg it measures, and the voltage that it multiplies the current with."""

    id: str
    leg: AcLeg
    reference: Literal["own leg", "L1", "L2", "L3", "none"] = Field("own leg", description="Voltage reference; none: current with a sign")


class AcSource(Frozen):
    """How an inverter behaves at its AC terminals in a fault, and what residual device its maker allows."""

    island_fault_a: float | None = Field(default=None, description="Fault current in island mode, A")
    island_shutdown_s: float | None = Field(default=None, description="Time in which a short-circuited island output is shut down, s")
    residual_monitor: bool = Field(default=False, description="Residual current is monitored inside (IEC 62109-2)")
    residual_type_a: bool = Field(default=False, description="The maker states that a type A residual device suffices")
    residual_min_ma: float | None = Field(default=None, description="Least residual rating the maker asks outside, mA")


class InverterCard(_Enclosure):
    """Hybrid, off-grid, AC-coupled or integrated battery inverter. Its AC and DC ports say which circuits there are."""

    kind: Literal["inverter"]
    system_kind: SystemKind
    output: Output = "split phase"
    role: Literal["hybrid", "off-grid", "AC-coupled", "integrated"] = "hybrid"
    source: AcSource = AcSource()
    output_w: float
    leg_w: float
    output_v: float
    leg_v: float
    overloads: list[Overload]
    pass_through_a: float
    grid_device_max_a: float
    output_current_a: float
    pv_max_w: float = 0
    trackers: list[Tracker] = []
    pv_modes: list[Literal["independent", "parallel"]] = ["independent"]
    battery: InverterBattery
    grid_conductor_min: str = ""
    load_conductor_min: str = ""
    generator_input_a: float | None = Field(default=None, description="Largest device at the generator input, A")
    shift_max_hz: float | None = Field(default=None, description="Highest frequency it shifts the island to, Hz")
    coupled_pv_max_w: float | None = Field(default=None, description="Most AC-coupled PV, W")
    bank_internal: bool = Field(default=False, description="Batteries dock inside: no battery cable is laid")
    data_ports: list[DataPort] = []
    protocols: list[Protocol] = []
    firmware: str
    ct_channels: list[CtChannel] = []
    ct_arrow: Literal["toward house", "toward grid"] = "toward house"
    neutral_bond: Literal["relay", "fixed in gateway", "none"]
    island_opens_neutral: bool | None = Field(
        default=None, description="The grid's neutral is opened in island mode; a transfer's card wins"
    )
    ambient_min_c: float
    ambient_max_c: float
    environment: str
    start_order: Literal["island first", "grid first", "pv first"]
    landing_order: list[str]
    settings: list[Range] = []
    goes_in_first: list[str] = []
    idle_w: float

    @property
    def phases(self) -> tuple[AcLeg, ...]:
        """Live conductors of its output."""
        return PHASES[self.output]


PHASES: dict[str, tuple[AcLeg, ...]] = {"single phase": ("L1",), "split phase": ("L1", "L2"), "three phase": ("L1", "L2", "L3")}


class OpenLoop(Frozen):
    """Voltages for open-loop charging, V at the battery terminals."""

    absorb_v: float
    absorb_minutes: float
    float_v: float
    cut_now_v: float
    cut_off_v: float
    alarm_v: float
    grid_takeover_v: float
    recover_v: float
    grid_release_v: float
    tail_a: float


class BatteryCard(_Enclosure):
    """A battery or a module of a bank. All values are of one unit; ``arrangement`` says how units make the bank."""

    kind: Literal["battery"]
    system_kind: SystemKind | None = None
    chemistry: Chemistry
    arrangement: Literal["parallel", "stack", "blocks", "docked"] = Field(
        "parallel", description="parallel on busbars; stack plugged in series; blocks wired in series; docked inside the inverter"
    )
    series_min: int = 1
    series_max: int = 1
    cell_mohm: float = Field(8.0, gt=0, description="Internal resistance of one unit, mohm")
    stack_pitch_mm: float = Field(0, description="Height that each further module adds to a stack, mm")
    floor_standing: bool = False
    spacing_mm: float | None = Field(None, description="Spacing between units that its fire test allows, mm")
    nominal_v: float
    energy_wh: float
    v_min: float
    v_max: float
    v_low_operating: float
    charge_a: float
    discharge_a: float
    peak_a: float
    peak_s: float
    depth_pct: float
    fault_a: float
    breaker_a: float | None = None
    breaker_interrupting_a: float | None = None
    units_max: int
    charge_min_c: float
    charge_max_c: float
    dip_switches: int = 0
    terminator: Literal["plug", "switch"] = "plug"
    terminator_switch: int = Field(0, ge=0, le=16, description="DIP switch of the block that is the terminator; 0: none of them")
    dip_first: Literal["least significant", "most significant"] = Field(
        "least significant", description="Weight of the first address switch"
    )
    dip_on: Literal[0, 1] = Field(1, description="What a switch in the ON place means")
    dip_offset: int = Field(0, ge=0, le=8, description="The switches show the address less this")
    data_ports: list[DataPort] = []
    protocols: list[Protocol] = []
    firmware: str = ""
    shipped_protocol: int = 0
    lead_min: str = ""
    join_window_v: float
    open_loop: OpenLoop | None = None
    discharge_floor_pct: float

    @property
    def in_series(self) -> bool:
        """Whether the units of a bank stand in series: stacked, wired, or docked into a high-voltage cabinet."""
        return self.arrangement in ("stack", "blocks") or (self.arrangement == "docked" and self.series_max > 1)


class ModuleCard(_CardBase):
    """PV module."""

    kind: Literal["module"]
    power_w: float
    voc_v: float
    vmp_v: float
    isc_a: float
    imp_a: float
    voc_per_k: float
    vmp_per_k: float
    system_v_max: float
    fuse_max_a: float
    width_mm: float
    height_mm: float


class CtCard(_CardBase):
    """Split-core current transformer."""

    kind: Literal["ct"]
    rated_a: float
    ratio: str
    opening_mm: float
    lead_m: float
    accuracy_pct: float


class SwitchFuseCard(_Enclosure):
    """DC switch with fuse for the battery main."""

    kind: Literal["switch-fuse"]
    rated_a: float
    voltage_dc: float
    interrupting_a: float


class TransferCard(_Enclosure):
    """A gateway or transfer box that holds the islanding contactor, or a manual transfer switch."""

    kind: Literal["transfer"]
    style: Literal["gateway", "manual"]
    rated_a: float
    neutral_switched: bool = False
    data_ports: list[DataPort] = []


class GeneratorCard(_CardBase):
    """A generator for the generator input."""

    kind: Literal["generator"]
    power_w: float
    voltage_v: float
    device_a: float
    neutral_bonded: bool = Field(False, description="Neutral is bonded to the frame inside the generator")
    ports: list[Port] = []

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard."""
        return find_terminal(self.title, self.ports, port, terminal)


class PvInverterCard(_Enclosure):
    """A grid-tied PV inverter that may be coupled on the AC side."""

    kind: Literal["pv-inverter"]
    system_kind: SystemKind = "K14"
    output: Output
    output_w: float
    output_current_a: float
    output_v: float
    pv_max_w: float
    trackers: list[Tracker]
    droop: Literal["", "IEEE 1547", "EN 50549", "AS/NZS 4777.2 Australia A", "AS/NZS 4777.2 New Zealand"] = ""
    conductor_min: str = ""
    source: AcSource = AcSource()

    @property
    def phases(self) -> tuple[AcLeg, ...]:
        """Live conductors of its output."""
        return PHASES[self.output]


class OptimiserCard(_CardBase):
    """A power optimiser at each module; the inverter holds the string at one voltage."""

    kind: Literal["optimiser"]
    string_v: float
    count_min: int
    count_max: int
    string_max_w: float
    output_max_a: float


class BoardCard(_Enclosure):
    """A board, busbar box or transition box: somewhere conductors meet."""

    kind: Literal["board"]
    busbar_a: float
    main_device_a: float | None = None
    dc_voltage: float | None = None


class AnchorBase(Frozen):
    """What an anchor bears in one kind of masonry: allowable values, the maker's safety already in them."""

    base: Literal["concrete", "solid units", "hollow units"]
    pull_n: float = Field(gt=0, description="Allowable pull, N")
    shear_n: float = Field(gt=0, description="Allowable shear, N")


class AnchorCard(_CardBase):
    """A masonry anchor: what it bears, in what, at which embedment."""

    kind: Literal["anchor"]
    diameter_mm: float = Field(gt=2, le=30)
    length_mm: float = Field(gt=10, le=400)
    hole_mm: float = Field(gt=2, le=40, description="Drill bit, mm")
    hole_depth_mm: float = Field(gt=10, le=400)
    embedment_mm: float = Field(gt=5, le=300, description="Embedment in what bears that the values hold for, mm")
    bases: list[AnchorBase] = Field(min_length=1, max_length=3)


AnyCard = (
    InverterCard
    | BatteryCard
    | ModuleCard
    | CtCard
    | SwitchFuseCard
    | BoardCard
    | TransferCard
    | GeneratorCard
    | PvInverterCard
    | OptimiserCard
    | AnchorCard
)
Card = Annotated[AnyCard, Field(discriminator="kind")]
CARD: TypeAdapter[Card] = TypeAdapter(Card)
Shelf = Mapping[str, AnyCard]


def parse_card(data: Any) -> AnyCard:
    """Validate one card document; pydantic's ValidationError names each bad field. Raises ValueError for one beyond reason."""
    check_size(data, MOST_CARD_ITEMS)
    return CARD.validate_python(data)

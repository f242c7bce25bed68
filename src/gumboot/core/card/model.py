"""Card kinds, told apart by ``kind``."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import Field, TypeAdapter

from gumboot.core.card.parts import Body, DataPort, Frozen, Overload, Port, Protocol, Range, Terminal
from gumboot.core.card.upgrade import upgraded
from gumboot.core.errors import WrongCard
from gumboot.core.figure import Figure, card_value
from gumboot.core.limits import MOST_CARD_ITEMS, check_size
from gumboot.core.quantity import Quantity, locate, quantity

__all__ = ["Terminal"]


class ReadSoFar(NamedTuple):
    """What was read off a card, so that it is read once: figures by field, terminals by port and id, torques with their bands."""

    of: int
    figures: dict[str, Figure]
    terminals: dict[tuple[str, str], Terminal]
    torques: dict[tuple[str, str, str], tuple[Figure, ...]]


class _CardBase(Frozen):
    format: Literal["gumboot.card/2"] = "gumboot.card/2"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    revision: int = Field(ge=1)
    title: str
    maker: str
    house_notes: list[str] = []

    @cached_property
    def read_so_far(self) -> ReadSoFar:
        """What was read off this card so far."""
        return ReadSoFar(id(self), {}, {}, {})

    def remembered(self) -> ReadSoFar:
        """What was read off this very card: a copy with other values carries another's along, and must not use it."""
        found = self.read_so_far
        if found.of != id(self):
            found = ReadSoFar(id(self), {}, {}, {})
            self.__dict__["read_so_far"] = found
        return found

    def figure(self, field: str) -> Figure | None:
        """A number of this card as a figure, made once; ``field`` steps by attribute, or by id within a list. None where it is silent."""
        known = self.remembered().figures
        found = known.get(field)
        if found is None:
            owner, last, value = locate(self, field)
            if value is None:
                return None
            told = quantity(type(owner), last)
            name = told.named(owner if owner is not self and "{id}" in told.name else self)
            found = known[field] = card_value(self.id, field, told.symbol, name, float(value), told.unit)
        return found


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
        known = self.remembered().terminals
        found = known.get((port, terminal))
        if found is None:
            found = known[port, terminal] = find_terminal(self.title, self.ports, port, terminal)
        return found


class Tracker(Frozen):
    """A PV input with its voltage window and current limits."""

    id: str
    port: str
    v_max: Annotated[float, Quantity("V_in", "Inverter's maximum PV voltage, {id}", "V")]
    v_min: Annotated[float, Quantity("V_low", "Bottom of the tracker's window, {id}", "V")]
    v_full_max: Annotated[float, Quantity("V_full", "Top of the full-power window, {id}", "V")]
    v_start: Annotated[float, Quantity("V_start", "Start-up voltage, {id}", "V")]
    i_max_a: Annotated[float, Quantity("I_trk", "Tracker's operating current limit, {id}", "A")]
    isc_max_a: Annotated[float, Quantity("I_trk_sc", "Tracker's short-circuit current limit, {id}", "A")]
    terminal_max_a: Annotated[float, Quantity("I_term", "Current one terminal carries, {id}", "A")]
    bridge_max_a: Annotated[float | None, Quantity("I_term", "Current two terminals carry under the maker's bridge, {id}", "A")] = None
    bridge_with: str = Field(default="", description="Input whose terminal the bridge takes; empty: a second terminal of its own")


Chemistry = Literal["LFP", "NMC", "lead-acid flooded", "lead-acid sealed", "lead-acid gel"]
Output = Literal["single phase", "split phase", "three phase"]
AcLeg = Literal["L1", "L2", "L3"]


class InverterBattery(Frozen):
    """What the inverter asks of its battery port."""

    v_min: Annotated[float, Quantity("V_inv_lo", "Inverter's lowest battery voltage", "V")]
    v_max: Annotated[float, Quantity("V_inv_hi", "Inverter's highest battery voltage", "V")]
    discharge_a: Annotated[float, Quantity("I_port", "Inverter's largest battery current", "A")]
    charge_a: Annotated[float, Quantity("I_inv", "Inverter's largest charge current", "A")]
    efficiency: Annotated[float, Quantity("eta", "Conversion efficiency")] = Field(gt=0.5, le=1)
    conductor_min: str = ""
    input_capacitance_uf: Annotated[float, Quantity("C", "Inverter's input capacitance", "uF")]
    precharge_ohm: Annotated[float, Quantity("R", "Pre-charge resistor", "ohm")]
    chemistries: list[Chemistry] = ["LFP"]
    accepts: list[str] = Field(
        default=[], description="Cards on the maker's battery list; empty: whatever fits the window and the protocol"
    )
    cable_max_m: Annotated[float | None, Quantity("L_max", "Longest battery cable", "m", hint="One way.")] = None
    ripple: bool = Field(default=False, description="The battery current carries the ripple of a single-phase output")


class CtChannel(Frozen):
    """A CT input, the leg it measures, and the voltage that it multiplies the current with."""

    id: str
    leg: AcLeg
    reference: Literal["own leg", "L1", "L2", "L3", "none"] = Field("own leg", description="Voltage reference; none: current with a sign")


class AcSource(Frozen):
    """How an inverter behaves at its AC terminals in a fault, and what residual device its maker allows."""

    island_fault_a: Annotated[float | None, Quantity("I_isl", "Inverter's fault current in island mode", "A")] = None
    island_shutdown_s: Annotated[float | None, Quantity("t_off", "Time in which the inverter shuts down a short circuit", "s")] = None
    residual_monitor: bool = Field(default=False, description="Residual current is monitored inside (IEC 62109-2)")
    residual_type_a: bool = Field(default=False, description="The maker states that a type A residual device suffices")
    residual_min_ma: Annotated[float | None, Quantity("I_dn_min", "Least residual rating the maker asks", "mA")] = None


class Parallel(Frozen):
    """What a maker says of several of its inverters together. ``port`` is the socket of the link between them."""

    most: int = Field(ge=2, description="Inverters of one group at most")
    most_per_leg: int = Field(ge=1, description="Inverters on one leg at most")
    shifts: list[Literal["split phase", "three phase"]] = Field([], description="What single-phase units may make together")
    port: str = Field(description="Data socket of the link between inverters")
    lead_apart_pct: Annotated[float, Quantity("dR_max", "Difference allowed between the battery mains of inverters on one bank", "%")] = (
        Field(gt=0, le=50)
    )
    first_address: int = Field(1, ge=0, le=63, description="Address of the leader")
    terminators: bool = Field(True, description="The link carries a terminator at each end")
    bond: Literal["leader only", "told off", "each"] = Field(description="Which units close their bond relay in island")
    link_max_m: Annotated[float, Quantity("L_link", "Longest lead between two inverters", "m")] = Field(gt=0)


class InverterCard(_Enclosure):
    """Hybrid, off-grid, AC-coupled or integrated battery inverter. Its AC and DC ports say which circuits there are."""

    kind: Literal["inverter"]
    output: Output = "split phase"
    role: Literal["hybrid", "off-grid", "AC-coupled", "integrated"] = "hybrid"
    source: AcSource = AcSource()
    output_w: Annotated[float, Quantity("P_inv", "Continuous output of the inverter", "W")]
    leg_w: Annotated[float, Quantity("P_leg", "Continuous power of one leg", "W")]
    output_v: Annotated[float, Quantity("V_ac", "Voltage between lines", "V")]
    leg_v: Annotated[float, Quantity("V_leg", "Voltage from line to neutral", "V")]
    overloads: list[Overload]
    pass_through_a: Annotated[float, Quantity("I_pt", "Pass-through current the inverter carries", "A")]
    grid_device_max_a: Annotated[float, Quantity("I_gmax", "Largest device at the inverter's grid port", "A")]
    output_current_a: Annotated[float, Quantity("I_out", "Inverter's output current", "A")]
    pv_max_w: Annotated[float, Quantity("P_pv_in", "PV power {title} accepts", "W")] = 0
    trackers: list[Tracker] = []
    pv_modes: list[Literal["independent", "parallel"]] = ["independent"]
    battery: InverterBattery
    grid_conductor_min: str = ""
    load_conductor_min: str = ""
    generator_input_a: Annotated[float | None, Quantity("I_gi", "Largest device at the generator input", "A")] = None
    shift_max_hz: Annotated[float | None, Quantity("f_max", "Highest frequency the battery inverter shifts to", "Hz")] = None
    coupled_pv_max_w: Annotated[float | None, Quantity("P_c", "AC-coupled PV that the battery inverter holds", "W")] = None
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
    ambient_min_c: Annotated[float, Quantity("T_min", "Coldest air the inverter works in", "°C")]
    ambient_max_c: Annotated[float, Quantity("T_max", "Hottest air the inverter works in", "°C")]
    environment: str
    start_order: Literal["island first", "grid first", "pv first"]
    landing_order: list[str]
    parallel: Parallel | None = Field(None, description="Several together; empty: the maker says nothing of it, one is allowed")
    settings: list[Range] = []
    goes_in_first: list[str] = []
    idle_w: Annotated[float, Quantity("P_0", "Inverter's own draw", "W")]

    @property
    def phases(self) -> tuple[AcLeg, ...]:
        """Live conductors of its output."""
        return PHASES[self.output]


PHASES: dict[str, tuple[AcLeg, ...]] = {"single phase": ("L1",), "split phase": ("L1", "L2"), "three phase": ("L1", "L2", "L3")}


class OpenLoop(Frozen):
    """Voltages for open-loop charging, V at the battery terminals."""

    absorb_v: Annotated[float, Quantity("V_absorb", "Absorb voltage", "V")]
    absorb_minutes: Annotated[float, Quantity("t_abs", "Absorb time", "min")]
    float_v: Annotated[float, Quantity("V_float", "Float voltage", "V")]
    cut_now_v: Annotated[float, Quantity("V_cut_now", "Voltage of immediate cut-off", "V")]
    cut_off_v: Annotated[float, Quantity("V_cut_off", "Cut-off voltage", "V")]
    alarm_v: Annotated[float, Quantity("V_alarm", "Low-voltage alarm", "V")]
    grid_takeover_v: Annotated[float, Quantity("V_takeover", "Voltage at which the grid takes over", "V")]
    recover_v: Annotated[float, Quantity("V_recover", "Voltage of recovery", "V")]
    grid_release_v: Annotated[float, Quantity("V_release", "Voltage at which the grid is released", "V")]
    tail_a: Annotated[float, Quantity("I_tail", "Tail current that ends absorbing", "A")]


class BatteryCard(_Enclosure):
    """A battery or a module of a bank. All values are of one unit; ``arrangement`` says how units make the bank."""

    kind: Literal["battery"]
    chemistry: Chemistry
    arrangement: Literal["parallel", "stack", "blocks", "docked"] = Field(
        "parallel", description="parallel on busbars; stack plugged in series; blocks wired in series; docked inside the inverter"
    )
    series_min: Annotated[int, Quantity("n_lo", "Fewest units in series")] = 1
    series_max: Annotated[int, Quantity("n_hi", "Most units in series")] = 1
    cell_mohm: Annotated[float, Quantity("R_c", "Resistance inside one battery", "mohm")] = Field(8.0, gt=0)
    stack_pitch_mm: Annotated[float, Quantity("h_p", "Height that each further module adds to a stack", "mm")] = Field(0)
    floor_standing: bool = False
    spacing_mm: Annotated[float | None, Quantity("d_s", "Spacing that the battery's fire test allows", "mm")] = None
    nominal_v: Annotated[float, Quantity("V_n", "Nominal voltage of one battery", "V")]
    energy_wh: Annotated[float, Quantity("E_1", "Energy of one battery", "Wh")]
    v_min: Annotated[float, Quantity("V_min", "Lowest voltage of one battery", "V")]
    v_max: Annotated[float, Quantity("V_max", "Highest voltage of one battery", "V")]
    v_low_operating: Annotated[float, Quantity("V_low", "Lowest voltage of one battery in operation", "V")]
    charge_a: Annotated[float, Quantity("I_c1", "Continuous charge of one battery", "A")]
    discharge_a: Annotated[float, Quantity("I_1", "Continuous discharge of one battery", "A")]
    peak_a: Annotated[float, Quantity("I_pk", "Peak discharge of one battery", "A")]
    peak_s: Annotated[float, Quantity("t_pk", "Time that the peak may last", "s")]
    depth_pct: Annotated[float, Quantity("DoD", "Depth of discharge that its maker allows", "%")]
    fault_a: Annotated[float, Quantity("I_k1", "Fault current of one battery", "A")]
    breaker_a: Annotated[float | None, Quantity("I_br", "Battery's own breaker", "A")] = None
    breaker_interrupting_a: Annotated[float | None, Quantity("I_cu1", "Interrupting rating of the battery's own breaker", "A")] = None
    units_max: Annotated[int, Quantity("n_max", "Most batteries in the bank")]
    charge_min_c: Annotated[float, Quantity("T_chg", "Coldest cell that may be charged", "°C")]
    charge_max_c: Annotated[float, Quantity("T_chg_hi", "Hottest cell that may be charged", "°C")]
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
    join_window_v: Annotated[float, Quantity("dV_max", "Largest difference when joining", "V")]
    open_loop: OpenLoop | None = None
    discharge_floor_pct: Annotated[float, Quantity("S_min", "State of charge at which the battery stops", "%")]

    @property
    def in_series(self) -> bool:
        """Whether the units of a bank stand in series: stacked, wired, or docked into a high-voltage cabinet."""
        return self.arrangement in ("stack", "blocks") or (self.arrangement == "docked" and self.series_max > 1)


class ModuleCard(_CardBase):
    """PV module."""

    kind: Literal["module"]
    power_w: Annotated[float, Quantity("P_mod", "Module power", "W")]
    voc_v: Annotated[float, Quantity("V_oc", "Module open-circuit voltage at 25 °C", "V")]
    vmp_v: Annotated[float, Quantity("V_mp", "Module voltage at maximum power, 25 °C", "V")]
    isc_a: Annotated[float, Quantity("I_sc", "Module short-circuit current", "A")]
    imp_a: Annotated[float, Quantity("I_mp", "Module current at maximum power", "A")]
    voc_per_k: Annotated[float, Quantity("beta", "Temperature coefficient of the open-circuit voltage", "1/K")]
    vmp_per_k: Annotated[float, Quantity("gamma", "Temperature coefficient of the operating voltage", "1/K")]
    system_v_max: Annotated[float, Quantity("V_sys", "Module's maximum system voltage", "V")]
    fuse_max_a: Annotated[float, Quantity("I_fmax", "Largest fuse the module bears", "A")]
    width_mm: Annotated[float, Quantity("w_mod", "Width of a module", "mm")]
    height_mm: Annotated[float, Quantity("h_mod", "Height of a module", "mm")]


class CtCard(_CardBase):
    """Split-core current transformer."""

    kind: Literal["ct"]
    rated_a: Annotated[float, Quantity("I_ct", "CT rating", "A")]
    ratio: str
    opening_mm: Annotated[float, Quantity("d_ct", "Opening of the CT", "mm")]
    lead_m: Annotated[float, Quantity("L_ct", "Lead of the CT", "m")]
    accuracy_pct: Annotated[float, Quantity("e_ct", "Accuracy of the CT", "%")]


class SwitchFuseCard(_Enclosure):
    """DC switch with fuse for the battery main."""

    kind: Literal["switch-fuse"]
    rated_a: Annotated[float, Quantity("I_f", "Fuse rating", "A")]
    voltage_dc: Annotated[float, Quantity("U_n", "DC rating of the switch and fuse", "V")]
    interrupting_a: Annotated[float, Quantity("I_cu", "Fuse's interrupting rating, DC", "A")]


class TransferCard(_Enclosure):
    """A gateway or transfer box that holds the islanding contactor, or a manual transfer switch."""

    kind: Literal["transfer"]
    style: Literal["gateway", "manual"]
    rated_a: Annotated[float, Quantity("I_tr", "Rating of the transfer equipment", "A")]
    neutral_switched: bool = False
    data_ports: list[DataPort] = []


class GeneratorCard(_CardBase):
    """A generator for the generator input."""

    kind: Literal["generator"]
    power_w: Annotated[float, Quantity("P_gen", "Generator power", "W")]
    voltage_v: Annotated[float, Quantity("V_gen", "Generator voltage", "V")]
    device_a: Annotated[float, Quantity("I_g", "Generator's own device", "A")]
    neutral_bonded: bool = Field(False, description="Neutral is bonded to the frame inside the generator")
    ports: list[Port] = []

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard."""
        return find_terminal(self.title, self.ports, port, terminal)


class PvInverterCard(_Enclosure):
    """A grid-tied PV inverter that may be coupled on the AC side."""

    kind: Literal["pv-inverter"]
    output: Output
    output_w: Annotated[float, Quantity("P_ac", "PV inverter's output", "W")]
    output_current_a: Annotated[float, Quantity("I_pv", "PV inverter's output current", "A")]
    output_v: Annotated[float, Quantity("V_pv", "PV inverter's voltage", "V")]
    pv_max_w: Annotated[float, Quantity("P_pv_in", "PV power {title} accepts", "W")]
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
    string_v: Annotated[float, Quantity("V_fix", "String voltage that the inverter holds", "V")]
    count_min: Annotated[int, Quantity("n_lo", "Fewest modules in an optimised string")]
    count_max: Annotated[int, Quantity("n_hi", "Most modules in an optimised string")]
    string_max_w: Annotated[float, Quantity("P_max", "Most power of an optimised string", "W")]
    output_max_a: Annotated[float, Quantity("I_opt", "Largest output current of an optimiser", "A")]


class BoardCard(_Enclosure):
    """A board, busbar box or transition box: somewhere conductors meet."""

    kind: Literal["board"]
    busbar_a: Annotated[float, Quantity("I_bar", "Bars of {title}", "A")]
    main_device_a: Annotated[float | None, Quantity("I_m", "Main device of {title}", "A")] = None
    dc_voltage: Annotated[float | None, Quantity("U_dc", "DC rating of {title}", "V")] = None


class AnchorBase(Frozen):
    """What an anchor bears in one kind of masonry: allowable values, the maker's safety already in them."""

    base: Literal["concrete", "solid units", "hollow units"]
    pull_n: Annotated[float, Quantity("T_a", "Allowable pull of the anchor", "N")] = Field(gt=0)
    shear_n: Annotated[float, Quantity("V_a", "Allowable shear of the anchor", "N")] = Field(gt=0)


class AnchorCard(_CardBase):
    """A masonry anchor: what it bears, in what, at which embedment."""

    kind: Literal["anchor"]
    diameter_mm: Annotated[float, Quantity("D", "Diameter of the anchor", "mm")] = Field(gt=2, le=30)
    length_mm: Annotated[float, Quantity("L_a", "Length of the anchor", "mm")] = Field(gt=10, le=400)
    hole_mm: Annotated[float, Quantity("d_h", "Drill bit", "mm")] = Field(gt=2, le=40)
    hole_depth_mm: Annotated[float, Quantity("h_h", "Depth of the hole", "mm")] = Field(gt=10, le=400)
    embedment_mm: Annotated[float, Quantity("h_ef", "Embedment that the anchor's values hold for", "mm")] = Field(gt=5, le=300)
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
    return CARD.validate_python(upgraded(data) if isinstance(data, dict) else data)

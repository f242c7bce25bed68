"""Card kinds, told apart by ``kind``."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, TypeAdapter

from gumboot.core.card.parts import Body, DataPort, Frozen, Overload, Port, Protocol, Range, Terminal
from gumboot.core.errors import WrongCard

__all__ = ["Terminal"]


class _CardBase(Frozen):
    format: Literal["gumboot.card/1"] = "gumboot.card/1"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    revision: int = Field(ge=1)
    title: str
    maker: str
    house_notes: list[str] = []


class _Enclosure(_CardBase):
    body: Body
    ports: list[Port]

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard when the card lacks it."""
        for p in self.ports:
            if p.id == port:
                for t in p.terminals:
                    if t.id == terminal:
                        return t
        raise WrongCard(f"{self.title} has no terminal {port} {terminal}. Choose a card that has one, or change what lands there.")


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


class InverterBattery(Frozen):
    """What the inverter asks of its battery port."""

    v_min: float
    v_max: float
    discharge_a: float
    charge_a: float
    efficiency: float = Field(gt=0.5, le=1)
    conductor_min: str
    input_capacitance_uf: float
    precharge_ohm: float


class CtChannel(Frozen):
    """A CT input and the leg it measures."""

    id: str
    leg: Literal["L1", "L2"]


class InverterCard(_Enclosure):
    """Split-phase hybrid inverter with battery, grid, load and PV ports."""

    kind: Literal["inverter"]
    system_kind: Literal["K4"]
    output_w: float
    leg_w: float
    output_v: float
    leg_v: float
    overloads: list[Overload]
    pass_through_a: float
    grid_device_max_a: float
    output_current_a: float
    pv_max_w: float
    trackers: list[Tracker]
    battery: InverterBattery
    grid_conductor_min: str
    load_conductor_min: str
    data_ports: list[DataPort]
    protocols: list[Protocol]
    firmware: str
    ct_channels: list[CtChannel]
    ct_arrow: Literal["toward house", "toward grid"]
    neutral_bond: Literal["relay", "none"]
    ambient_min_c: float
    ambient_max_c: float
    environment: str
    start_order: Literal["island first", "grid first", "pv first"]
    landing_order: list[str]
    settings: list[Range]
    goes_in_first: list[str] = []
    idle_w: float


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
    """48 V wall or floor battery for parallel banks."""

    kind: Literal["battery"]
    chemistry: Literal["LFP"]
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
    breaker_a: float
    breaker_interrupting_a: float
    units_max: int
    charge_min_c: float
    charge_max_c: float
    dip_switches: int
    terminator: Literal["plug", "switch"]
    data_ports: list[DataPort]
    protocols: list[Protocol]
    firmware: str
    shipped_protocol: int
    lead_min: str
    join_window_v: float
    open_loop: OpenLoop
    discharge_floor_pct: float


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


class BoardCard(_Enclosure):
    """A board, busbar box or transition box: somewhere conductors meet."""

    kind: Literal["board"]
    busbar_a: float
    main_device_a: float | None = None
    dc_voltage: float | None = None


Card = Annotated[InverterCard | BatteryCard | ModuleCard | CtCard | SwitchFuseCard | BoardCard, Field(discriminator="kind")]
CARD: TypeAdapter[Card] = TypeAdapter(Card)
Shelf = Mapping[str, InverterCard | BatteryCard | ModuleCard | CtCard | SwitchFuseCard | BoardCard]


def parse_card(data: Any) -> InverterCard | BatteryCard | ModuleCard | CtCard | SwitchFuseCard | BoardCard:
    """Validate one card document; pydantic's ValidationError names each bad field."""
    return CARD.validate_python(data)

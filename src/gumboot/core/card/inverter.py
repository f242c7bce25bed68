"""Inverters: PV inputs, battery port, AC side, current transformers, groups."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.base import EnclosureCard
from gumboot.core.card.parts import DataPort, Frozen, Overload, Protocol, Range
from gumboot.core.quantity import Quantity


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
    temperature_probe: bool | None = Field(None, description="A probe for the battery's temperature comes with it, and charging follows it")
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
    banks: list[Literal["one for all", "several"]] = Field(["one for all"], description="Banks that the inverters of a group may hang on")
    link_max_m: Annotated[float, Quantity("L_link", "Longest lead between two inverters", "m")] = Field(gt=0)


class Network(Frozen):
    """How an inverter comes to a network."""

    ways: list[Literal["wired", "wifi", "mobile"]] = Field(min_length=1, max_length=3)
    part: str = Field(description="What makes the link, and where it sits")
    pairing: str = Field("", description="How it is brought to join, in a line")
    needs: str = Field("", description="What must be at hand: an account, a code, a card with data")


class Derating(Frozen):
    """How an inverter's continuous output falls with altitude and hot air; neither, and it keeps its rating to its limits."""

    above_m: Annotated[float | None, Quantity("h_0", "Altitude above which an inverter gives less", "m")] = Field(None, ge=0, le=5000)
    per_m: Annotated[float, Quantity("k_h", "Output lost for each metre above", "1/m")] = Field(0, ge=0, le=0.001)
    above_c: Annotated[float | None, Quantity("T_0", "Air above which an inverter gives less", "°C")] = Field(None, ge=0, le=70)
    per_k: Annotated[float, Quantity("k_T", "Output lost for each kelvin above", "1/K")] = Field(0, ge=0, le=0.2)


class InverterCard(EnclosureCard):
    """Hybrid, off-grid, AC-coupled or integrated battery inverter. Its AC and DC ports say which circuits there are."""

    kind: Literal["inverter"]
    output: Output = "split phase"
    role: Literal["hybrid", "off-grid", "AC-coupled", "integrated"] = "hybrid"
    source: AcSource = AcSource()
    output_w: Annotated[float, Quantity("P_inv", "Continuous output of the inverter", "W")]
    leg_w: Annotated[float, Quantity("P_leg", "Continuous power of one leg", "W")]
    output_v: Annotated[float, Quantity("V_ac", "Voltage between lines", "V")]
    leg_v: Annotated[float, Quantity("V_leg", "Voltage from line to neutral", "V")]
    overloads: list[Overload] = Field(min_length=1, description="What it holds for a time, at least one; a start is judged by the shortest")
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
    landing_asked: bool = Field(False, description="The maker asks for this order; else the crew may land by its own school")
    derating: Derating | None = Field(
        None, description="How its output falls in thin and in hot air; empty: it keeps its rating to its limits"
    )
    parallel: Parallel | None = Field(None, description="Several together; empty: the maker says nothing of it, one is allowed")
    network: Network | None = Field(None, description="How it is reached from afar; empty: the maker says nothing of it")
    settings: list[Range] = []
    idle_w: Annotated[float, Quantity("P_0", "Inverter's own draw", "W")] = Field(ge=0)

    @property
    def phases(self) -> tuple[AcLeg, ...]:
        """Live conductors of its output."""
        return PHASES[self.output]


PHASES: dict[str, tuple[AcLeg, ...]] = {"single phase": ("L1",), "split phase": ("L1", "L2"), "three phase": ("L1", "L2", "L3")}

"""Boards, transfer equipment, generators, current transformers and anchors."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.base import CardBase, EnclosureCard, find_terminal
from gumboot.core.card.parts import DataPort, Frozen, Port, Speed, Terminal, Tip, UnitLoad
from gumboot.core.quantity import Quantity


class CtCard(CardBase):
    """Split-core current transformer."""

    kind: Literal["ct"]
    rated_a: Annotated[float, Quantity("I_ct", "CT rating", "A")]
    ratio: str
    opening_mm: Annotated[float, Quantity("d_ct", "Opening of the CT", "mm")]
    lead_m: Annotated[float, Quantity("L_ct", "Lead of the CT", "m")]
    accuracy_pct: Annotated[float, Quantity("e_ct", "Accuracy of the CT", "%")]
    s1: str = Field("", max_length=20, description="Colour of the secondary's S1")
    s2: str = Field("", max_length=20, description="Colour of the secondary's S2")


class ScrewCard(CardBase):
    """A lag screw that holds brackets to studs."""

    kind: Literal["screw"]
    diameter_mm: Annotated[float, Quantity("D", "Diameter of the screw", "mm")] = Field(gt=2, le=20)
    length_mm: Annotated[float, Quantity("L_s", "Length of the screw", "mm")] = Field(gt=10, le=300)
    lateral_allowable_n: Annotated[float, Quantity("Z", "Allowable shear of one screw", "N")] = Field(gt=0)
    tip: Tip | None = Field(None, description="What meets its head")
    washer: bool = Field(False, description="A washer goes under its head")
    torque_nm: Annotated[float | None, Quantity("M_s", "Torque at which the screw is left", "N m")] = Field(None, gt=0, lt=200)
    torque_tolerance_pct: Annotated[float, Quantity("b_M", "Band allowed on the torque of the screw", "%")] = Field(15, gt=0, le=25)


class LineDeviceCard(CardBase):
    """A device that answers on a Modbus line: a meter, a charging point."""

    kind: Literal["line-device"]
    data_ports: list[DataPort] = Field(min_length=1, max_length=4, description="Its RS-485 terminals first")
    load: UnitLoad = Field("1", description="Load on the line, in unit loads")
    address_first: int = Field(1, ge=1, le=247, description="Lowest address that it can be set to")
    address_last: int = Field(247, ge=1, le=247, description="Highest address that it can be set to")
    address_shipped: int | None = Field(None, ge=1, le=247, description="The address that it comes with")
    speeds: list[Speed] = Field(min_length=1, description="Speeds that it can be set to, the one that it comes with first")
    set_by: str = Field("", max_length=120, description="How address and speed are set")
    terminator: Literal["", "switch", "bridge", "none"] = Field(
        "", description="How the line is ended at it; empty: its maker does not say"
    )
    protection: str = Field("", max_length=120, description="What stands before it where it is fed from the mains")


class TransferCard(EnclosureCard):
    """A gateway or transfer box that holds the islanding contactor, or a manual transfer switch."""

    kind: Literal["transfer"]
    style: Literal["gateway", "manual"]
    rated_a: Annotated[float, Quantity("I_tr", "Rating of the transfer equipment", "A")]
    withstand_a: Annotated[float | None, Quantity("I_cw", "Fault current that {title} withstands", "A")] = Field(None, gt=0)
    neutral_switched: bool = False
    data_ports: list[DataPort] = []


class GeneratorCard(CardBase):
    """A generator for the generator input."""

    kind: Literal["generator"]
    power_w: Annotated[float, Quantity("P_gen", "Generator power", "W")]
    voltage_v: Annotated[float, Quantity("V_gen", "Generator voltage", "V")]
    frequency_hz: Annotated[float | None, Quantity("f_gen", "Generator frequency", "Hz")] = Field(None, ge=45, le=66)
    device_a: Annotated[float, Quantity("I_g", "Generator's own device", "A")]
    fault_a: Annotated[float | None, Quantity("I_kG", "Generator's fault current", "A")] = Field(None, gt=0)
    neutral_bonded: bool = Field(False, description="Neutral is bonded to the frame inside the generator")
    ports: list[Port] = []
    data_ports: list[DataPort] = []

    def terminal(self, port: str, terminal: str) -> Terminal:
        """The terminal by port and terminal id. Raises WrongCard."""
        return find_terminal(self.title, self.ports, port, terminal)


class BoardCard(EnclosureCard):
    """A board, busbar box or transition box: somewhere conductors meet."""

    kind: Literal["board"]
    is_found: bool = Field(False, description="Stands in the house and was read off: it is not bought")
    busbar_a: Annotated[float, Quantity("I_bar", "Bars of {title}", "A")]
    main_device_a: Annotated[float | None, Quantity("I_m", "Main device of {title}", "A")] = None
    ways: Annotated[int | None, Quantity("n_w", "Ways of {title}", hint="One for each live pole.")] = Field(None, gt=0, le=120)
    interrupting_a: Annotated[float | None, Quantity("I_cu", "AC fault current that the devices in {title} break", "A")] = Field(None, gt=0)
    dc_voltage: Annotated[float | None, Quantity("U_dc", "DC rating of {title}", "V")] = None
    dc_interrupting_a: Annotated[
        float | None, Quantity("I_cu", "DC fault current that the fuses of {title} break", "A", hint="String fuses inside it.")
    ] = Field(None, gt=0)


class AnchorBase(Frozen):
    """What an anchor bears in one kind of masonry: allowable values, the maker's safety already in them."""

    base: Literal["concrete", "solid units", "hollow units"]
    pull_n: Annotated[float, Quantity("T_a", "Allowable pull of the anchor", "N")] = Field(gt=0)
    shear_n: Annotated[float, Quantity("V_a", "Allowable shear of the anchor", "N")] = Field(gt=0)
    edge_mm: Annotated[float | None, Quantity("c_min", "Anchor from an edge at least", "mm")] = Field(None, gt=0, le=1000)
    spacing_mm: Annotated[float | None, Quantity("s_min", "Anchors apart at least", "mm")] = Field(None, gt=0, le=1000)


class AnchorCard(CardBase):
    """A masonry anchor: what it bears, in what, at which embedment."""

    kind: Literal["anchor"]
    diameter_mm: Annotated[float, Quantity("D", "Diameter of the anchor", "mm")] = Field(gt=2, le=30)
    length_mm: Annotated[float, Quantity("L_a", "Length of the anchor", "mm")] = Field(gt=10, le=400)
    hole_mm: Annotated[float, Quantity("d_h", "Drill bit", "mm")] = Field(gt=2, le=40)
    hole_depth_mm: Annotated[float, Quantity("h_h", "Depth of the hole", "mm")] = Field(gt=10, le=400)
    embedment_mm: Annotated[float, Quantity("h_ef", "Embedment that the anchor's values hold for", "mm")] = Field(gt=5, le=300)
    torque_nm: Annotated[float | None, Quantity("M_a", "Torque of the anchor's nut or screw", "N m")] = Field(None, gt=0, lt=500)
    torque_tolerance_pct: Annotated[float, Quantity("b_M", "Band allowed on the torque of the anchor", "%")] = Field(10, gt=0, le=25)
    washer: bool = Field(False, description="A washer goes under its head or nut")
    bases: list[AnchorBase] = Field(min_length=1, max_length=3)

"""Modules, optimisers and PV inverters."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from gumboot.core.card.base import CardBase, EnclosureCard
from gumboot.core.card.inverter import PHASES, AcLeg, AcSource, Output, Tracker
from gumboot.core.quantity import Quantity


class ModuleCard(CardBase):
    """PV module."""

    kind: Literal["module"]
    power_w: Annotated[float, Quantity("P_mod", "Module power", "W")]
    voc_v: Annotated[float, Quantity("V_oc", "Module open-circuit voltage at 25 °C", "V")]
    vmp_v: Annotated[float, Quantity("V_mp", "Module voltage at maximum power, 25 °C", "V")]
    isc_a: Annotated[float, Quantity("I_sc", "Module short-circuit current", "A")]
    imp_a: Annotated[float, Quantity("I_mp", "Module current at maximum power", "A")]
    voc_per_k: Annotated[float, Quantity("beta", "Temperature coefficient of the open-circuit voltage", "1/K")]
    vmp_per_k: Annotated[float, Quantity("gamma", "Temperature coefficient of the operating voltage", "1/K")]
    noct_c: Annotated[float | None, Quantity("T_noct", "Nominal operating cell temperature", "°C")] = Field(None, ge=30, le=70)
    system_v_max: Annotated[float, Quantity("V_sys", "Module's maximum system voltage", "V")]
    fuse_max_a: Annotated[float, Quantity("I_fmax", "Largest fuse the module bears", "A")]
    width_mm: Annotated[float, Quantity("w_mod", "Width of a module", "mm")] = Field(gt=0)
    height_mm: Annotated[float, Quantity("h_mod", "Height of a module", "mm")] = Field(gt=0)


class PvInverterCard(EnclosureCard):
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


class OptimiserCard(CardBase):
    """A power optimiser at each module; the inverter holds the string at one voltage."""

    kind: Literal["optimiser"]
    string_v: Annotated[float, Quantity("V_fix", "String voltage that the inverter holds", "V")]
    count_min: Annotated[int, Quantity("n_lo", "Fewest modules in an optimised string")]
    count_max: Annotated[int, Quantity("n_hi", "Most modules in an optimised string")]
    string_max_w: Annotated[float, Quantity("P_max", "Most power of an optimised string", "W")]
    safe_v: Annotated[float | None, Quantity("V_safe", "Voltage of an optimiser before it is commanded", "V")] = Field(None, gt=0, le=60)
    output_max_a: Annotated[float, Quantity("I_opt", "Largest output current of an optimiser", "A")]

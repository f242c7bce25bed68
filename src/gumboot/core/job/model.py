"""The job document. ``None`` means not answered yet: a gap, never a guess."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gumboot.core.card.parts import Frozen
from gumboot.core.job.bank import Bank, BatteryUnit, PinPair
from gumboot.core.job.demand import Demand
from gumboot.core.job.loads import Backup, Consumption, Leg, Load
from gumboot.core.job.modbus import Modbus
from gumboot.core.job.references import check_references
from gumboot.core.job.roof import Face, Obstacle, String
from gumboot.core.job.runs import Run
from gumboot.core.job.sensing import CtPlace, Meter, Sensing
from gumboot.core.job.settings import Settings, TariffWindow
from gumboot.core.job.site import Climate, Site
from gumboot.core.job.things import AnyThing, Equipment
from gumboot.core.job.upgrade import upgraded
from gumboot.core.job.wall import Anchor, Board, Opening, Placement, Wall
from gumboot.core.limits import check_size
from gumboot.core.quantity import Quantity

__all__ = [
    "Anchor",
    "Backup",
    "Bank",
    "BatteryUnit",
    "Board",
    "BookId",
    "Climate",
    "Consumption",
    "CtPlace",
    "Demand",
    "Equipment",
    "Face",
    "Job",
    "Leg",
    "Load",
    "Meter",
    "Modbus",
    "Obstacle",
    "Opening",
    "PinPair",
    "Placement",
    "Preferences",
    "Run",
    "Sensing",
    "Settings",
    "Site",
    "String",
    "TariffWindow",
    "ToolItem",
    "Wall",
]
BookId = Literal["nec-2023", "iec-60364", "bs-7671", "as-nzs-3000"]


Landing = Literal["as the card says", "AC, PV, battery", "battery, PV, AC"]


class Preferences(Frozen):
    """How this crew works."""

    units: Literal["US", "SI"] = "US"
    drop_limit_pct: Annotated[float, Quantity("dv_max", "Drop wanted at most", "%")] = Field(3, gt=0, le=10)
    landing: Landing = Field(
        "as the card says",
        description="Order of landing at an inverter whose maker asks for none: earth is first and live ends last in each",
    )
    lighting: bool = Field(True, description="Lighting hangs on the backed-up board")
    start_of_autonomy_pct: Annotated[float, Quantity("S_0", "State of charge when the outage begins", "%")] = Field(100, ge=5, le=100)
    pv_loss_pct: Annotated[float, Quantity("l_pv", "PV lost to dirt, shade, wiring and mismatch", "%")] = Field(12, ge=0, le=60)
    slack_pct: Annotated[float, Quantity("s_cut", "Slack added to each length when cable is cut", "%")] = Field(10, ge=0, le=50)


class ToolItem(Frozen):
    """A torque tool or a meter with the last day its calibration holds (ISO date), the torques that it reads, the voltage it may be on."""

    id: str
    title: str
    kind: Literal["torque tool", "meter"] = "torque tool"
    calibrated_to: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")
    low_nm: Annotated[float | None, Quantity("M_lo", "Least torque of {title}", "N m")] = Field(None, gt=0, lt=500)
    high_nm: Annotated[float | None, Quantity("M_hi", "Largest torque of {title}", "N m")] = Field(None, gt=0, lt=500)
    rated_v: Annotated[float | None, Quantity("V_m", "Voltage that {title} is rated for", "V")] = Field(None, gt=0, le=2000)


class Job(Frozen):
    """One house."""

    format: Literal["gumboot.job/3"] = "gumboot.job/3"
    id: str = Field(pattern=r"^[a-z0-9-]+$")
    title: str = Field(min_length=1, max_length=80)
    story: str = ""
    rule_book: BookId = "nec-2023"
    site: Site
    demand: Demand = Demand()
    equipment: Equipment = Equipment()
    things: list[AnyThing] = []
    loads: list[Load] = []
    faces: list[Face] = []
    strings: list[String] = []
    pv_mode: Literal["independent", "parallel"] = Field("independent", description="How the PV inputs are set")
    string_fuse_a: Annotated[float | None, Quantity("I_f_str", "String fuse", "A", hint="Where strings are joined.")] = Field(None, gt=0)
    banks: list[Bank] = Field(min_length=1)
    runs: list[Run] = []
    backup: Backup = Backup()
    walls: list[Wall] = Field([Wall()], min_length=1)
    sensing: Sensing = Sensing()
    modbus: Modbus = Modbus()
    settings: Settings = Settings()
    preferences: Preferences = Preferences()
    tools: list[ToolItem] = []
    consumption: Consumption = Consumption()
    cards: dict[str, int] = Field({}, description="Revision of each card that this job was planned with")

    @model_validator(mode="before")
    @classmethod
    def _of_any_format(cls, document: Any) -> Any:
        if isinstance(document, dict):
            check_size(document)
            return upgraded(document)
        return document

    @model_validator(mode="after")
    def _ids_are_unique(self) -> Job:
        lists: dict[str, Sequence[Any]] = {
            "loads": self.loads,
            "faces": self.faces,
            "strings": self.strings,
            "runs": self.runs,
            "banks": self.banks,
            "walls": self.walls,
            "sensing.meters": self.sensing.meters,
            "modbus.devices": self.modbus.devices,
            "settings.tariff": self.settings.tariff,
            "tools": self.tools,
            "things and batteries": [*self.things, *(unit for bank in self.banks for unit in bank.units)],
            "boxes on walls": [place for wall in self.walls for place in wall.placements],
        }
        lists |= {f"faces.{face.id}.obstacles": face.obstacles for face in self.faces}
        check_references(self.things, self.banks, self.loads)
        for name, items in lists.items():
            ids = [item.id for item in items]
            if len(ids) != len(set(ids)):
                raise ValueError(f"{name}: two entries share one id; give each its own")
        return self

"""The places of a job for equipment, each with the thing that stands there and the kind of card that belongs to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Generic, Protocol, TypeVar

from gumboot.core.card.boxes import AnchorCard, BoardCard, CtCard, GeneratorCard, LineDeviceCard, ScrewCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.model import AnyCard
from gumboot.core.card.solar import ModuleCard, OptimiserCard, PvInverterCard
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard
from gumboot.core.errors import WrongCard
from gumboot.core.job.bank import Bank
from gumboot.core.job.sensing import Meter
from gumboot.core.job.things import (
    BoardThing,
    BusbarThing,
    GeneratorThing,
    InverterThing,
    PvInverterThing,
    RoofBoxThing,
    SwitchFuseThing,
    TransferThing,
)
from gumboot.core.once import once
from gumboot.core.values import Values

Enclosed = InverterCard | BatteryCard | SwitchFuseCard | BoardCard | TransferCard | GeneratorCard | PvInverterCard
Converter = InverterCard | PvInverterCard
Held = TypeVar(
    "Held",
    bound=InverterThing
    | SwitchFuseThing
    | BusbarThing
    | RoofBoxThing
    | BoardThing
    | TransferThing
    | GeneratorThing
    | PvInverterThing
    | Bank
    | Meter,
)
Made = TypeVar("Made", bound=AnyCard)


@dataclass(frozen=True, slots=True)
class Seat(Generic[Held, Made]):
    """A thing of the job and its card. ``id`` is the job's own name of it."""

    thing: Held
    card: Made
    id: str = field(init=False)

    def __post_init__(self) -> None:
        # Asked for some six hundred times in a derivation.
        object.__setattr__(self, "id", self.thing.id)

    @property
    def name(self) -> str:
        """What people call it: its title, or its name in the job where it carries none, as a bank does."""
        title: str = getattr(self.thing, "title", "")
        return title or self.id


InverterSeat = Seat[InverterThing, InverterCard]
BankSeat = Seat[Bank, BatteryCard]
BoardSeat = Seat[BoardThing, BoardCard]
TransferSeat = Seat[TransferThing, TransferCard]
GeneratorSeat = Seat[GeneratorThing, GeneratorCard]
PvInverterSeat = Seat[PvInverterThing, PvInverterCard]
SwitchFuseSeat = Seat[SwitchFuseThing, SwitchFuseCard]
BusbarSeat = Seat[BusbarThing, BoardCard]
RoofBoxSeat = Seat[RoofBoxThing, BoardCard]


class AnySeat(Protocol):
    """A thing with its card, whatever its kind."""

    @property
    def id(self) -> str:
        """The job's own name of it."""
        ...

    @property
    def name(self) -> str:
        """What people call it."""
        ...

    @property
    def card(self) -> AnyCard:
        """Its card."""
        ...


class Seats(Values):
    """The things of a job with their cards; the first inverter leads its group."""

    inverters: tuple[InverterSeat, ...]
    banks: tuple[BankSeat, ...]
    switch_fuses: tuple[SwitchFuseSeat, ...]
    busbars: tuple[BusbarSeat, ...]
    roof_boxes: tuple[RoofBoxSeat, ...]
    boards: tuple[BoardSeat, ...]
    transfers: tuple[TransferSeat, ...]
    generators: tuple[GeneratorSeat, ...]
    pv_inverters: tuple[PvInverterSeat, ...]
    meter: Meter | None
    of_meters: Mapping[str, CtCard]
    of_devices: Mapping[str, LineDeviceCard]
    module: ModuleCard | None
    of_faces: Mapping[str, ModuleCard]
    optimiser: OptimiserCard | None
    anchor: AnchorCard | None
    screw: ScrewCard | None

    def all(self) -> tuple[AnySeat, ...]:
        """Every thing that has a place of its own, kind by kind."""
        groups: tuple[tuple[AnySeat, ...], ...] = (
            *(self.inverters, self.banks, self.switch_fuses, self.busbars, self.roof_boxes, self.boards),
            *(self.transfers, self.generators, self.pv_inverters),
        )
        return tuple(seat for group in groups for seat in group)

    @once
    def inverter(self) -> InverterCard:
        """The card of the leading inverter. Raises WrongCard."""
        return needed(self.inverters[0].card if self.inverters else None, "inverter", "things")

    @property
    def ct(self) -> CtCard | None:
        """The card of the meter's CTs."""
        return self.of_meters.get(self.meter.id) if self.meter else None

    @property
    def battery(self) -> BatteryCard:
        """The card of the first bank's batteries."""
        return self.banks[0].card

    @property
    def switch_fuse(self) -> SwitchFuseCard | None:
        """The first of its seat, None where there is none; so the others below."""
        return self.switch_fuses[0].card if self.switch_fuses else None

    @property
    def busbar_box(self) -> BoardCard | None:
        """The busbar box of the first bank."""
        return self.busbars[0].card if self.busbars else None

    @property
    def roof_box(self) -> BoardCard | None:
        """The box at the roof of the first inverter."""
        return self.roof_boxes[0].card if self.roof_boxes else None

    @property
    def transfer(self) -> TransferCard | None:
        """The transfer equipment."""
        return self.transfers[0].card if self.transfers else None

    @property
    def generator(self) -> GeneratorCard | None:
        """The generator."""
        return self.generators[0].card if self.generators else None

    @property
    def pv_inverter(self) -> PvInverterCard | None:
        """The first PV inverter."""
        return self.pv_inverters[0].card if self.pv_inverters else None

    @once
    def mains(self) -> tuple[BoardSeat, ...]:
        """The main boards, the one that the survey tells of first."""
        return tuple([b for b in self.boards if b.thing.duty == "main"])

    def board(self, duty: str) -> BoardSeat | None:
        """The first board of a duty."""
        return next((b for b in self.boards if b.thing.duty == duty), None)

    @property
    def main_board(self) -> BoardCard | None:
        """The main board."""
        return self.mains[0].card if self.mains else None

    @property
    def sub_board(self) -> BoardCard:
        """The backed-up board. Raises WrongCard."""
        found = self.board("backed-up")
        return needed(found.card if found else None, "backed-up board", "things.sub-board.card")

    def module_on(self, face: str) -> ModuleCard:
        """The module card of a face: its own, else the job's. Raises WrongCard where there is neither."""
        return self.of_faces.get(face) or needed(self.module, "module", "equipment.module")

    def module_or_none(self, face: str) -> ModuleCard | None:
        """As ``module_on``, None where there is neither."""
        return self.of_faces.get(face) or self.module


def needed(card: Made | None, what: str, path: str) -> Made:
    """The card of a place that must be filled. Raises WrongCard, naming the field."""
    if card is None:
        raise WrongCard(f"This job names no {what}, and what is decided needs one. Choose a card at {path}.")
    return card

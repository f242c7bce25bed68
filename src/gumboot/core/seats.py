"""The places of a job for equipment, each with the kind of card that belongs there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

from gumboot.core.card import Shelf
from gumboot.core.card.model import (
    AnchorCard,
    AnyCard,
    BatteryCard,
    BoardCard,
    CtCard,
    GeneratorCard,
    InverterCard,
    ModuleCard,
    OptimiserCard,
    PvInverterCard,
    SwitchFuseCard,
    TransferCard,
)
from gumboot.core.errors import UnknownCard, WrongCard
from gumboot.core.job import Job

KIND_OF_ROLE = {
    "inverter": "inverter",
    "battery": "battery",
    "module": "module",
    "ct": "ct",
    "switch_fuse": "switch-fuse",
    "busbar_box": "board",
    "roof_box": "board",
    "sub_board": "board",
    "main_board": "board",
    "transfer": "transfer",
    "generator": "generator",
    "pv_inverter": "pv-inverter",
    "optimiser": "optimiser",
    "anchor": "anchor",
}
Enclosed = InverterCard | BatteryCard | SwitchFuseCard | BoardCard | TransferCard | GeneratorCard | PvInverterCard
Converter = InverterCard | PvInverterCard


@dataclass(frozen=True, slots=True)
class Seats:
    """The cards of a job by their places; None where none is chosen."""

    inverter: InverterCard
    battery: BatteryCard
    sub_board: BoardCard
    module: ModuleCard | None
    ct: CtCard | None
    switch_fuse: SwitchFuseCard | None
    busbar_box: BoardCard | None
    roof_box: BoardCard | None
    main_board: BoardCard | None
    transfer: TransferCard | None
    generator: GeneratorCard | None
    pv_inverter: PvInverterCard | None
    optimiser: OptimiserCard | None
    anchor: AnchorCard | None

    @property
    def modules(self) -> ModuleCard:
        """The module card of a job that has strings. Raises WrongCard."""
        return needed(self.module, "module")


Kind = TypeVar("Kind")


def needed(card: Kind | None, role: str) -> Kind:
    """The card of a place that must be filled. Raises WrongCard, naming the field."""
    if card is None:
        raise WrongCard(f"This job names no {role.replace('_', ' ')}, and what is decided needs one. Choose a card at equipment.{role}.")
    return card


def _seat(job: Job, shelf: Shelf, role: str) -> AnyCard | None:
    card_id = getattr(job.equipment, role)
    if card_id is None:
        return None
    try:
        card = shelf[card_id]
    except KeyError:
        raise UnknownCard(f"equipment.{role}", card_id) from None
    if card.kind != KIND_OF_ROLE[role]:
        raise WrongCard(f"{card.title} is a {card.kind}; equipment.{role} needs a {KIND_OF_ROLE[role]}. Choose another card.")
    return card


def seats_of(job: Job, shelf: Shelf) -> Seats:
    """The cards of a job. Raises UnknownCard for one that the shelf lacks, WrongCard for one of another kind."""
    return Seats(**{role: _seat(job, shelf, role) for role in KIND_OF_ROLE})  # type: ignore[arg-type]

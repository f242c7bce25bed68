"""Card kinds, told apart by ``kind``."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any

from pydantic import Field, TypeAdapter

from gumboot.core.card.boxes import AnchorCard, BoardCard, CtCard, GeneratorCard, LineDeviceCard, ScrewCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.solar import ModuleCard, OptimiserCard, PvInverterCard
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard
from gumboot.core.card.upgrade import upgraded
from gumboot.core.limits import MOST_CARD_ITEMS, check_size

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
    | LineDeviceCard
    | ScrewCard
)


Card = Annotated[AnyCard, Field(discriminator="kind")]


CARD: TypeAdapter[Card] = TypeAdapter(Card)


Shelf = Mapping[str, AnyCard]


def parse_card(data: Any) -> AnyCard:
    """Validate one card document; pydantic's ValidationError names each bad field. Raises ValueError for one beyond reason."""
    check_size(data, MOST_CARD_ITEMS)
    return CARD.validate_python(upgraded(data) if isinstance(data, dict) else data)

"""What makers say of their products. A card is data: nothing in it is worked out."""

from gumboot.core.card.boxes import BoardCard, CtCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.model import Card, Shelf, parse_card
from gumboot.core.card.parts import Terminal
from gumboot.core.card.solar import ModuleCard
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard

__all__ = [
    "BatteryCard",
    "BoardCard",
    "Card",
    "CtCard",
    "InverterCard",
    "ModuleCard",
    "Shelf",
    "SwitchFuseCard",
    "Terminal",
    "parse_card",
]

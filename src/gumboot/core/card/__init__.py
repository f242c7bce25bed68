"""What makers say of their products. A card is data: nothing in it is worked out."""

from gumboot.core.card.model import (
    BatteryCard,
    BoardCard,
    Card,
    CtCard,
    InverterCard,
    ModuleCard,
    Shelf,
    SwitchFuseCard,
    Terminal,
    parse_card,
)

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

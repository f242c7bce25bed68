"""Which boxes are to be placed, and between which heights each hangs well."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.card.base import EnclosureCard
from gumboot.core.card.boxes import BoardCard, TransferCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.card.storage import BatteryCard, SwitchFuseCard
from gumboot.core.ledger import Ledger
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall.station import footprint, standing_units
from gumboot.core.study.placing.parts import Piece

# Lower edge of a wall battery, which is lifted; middle of what is switched by hand; middle of everything else: common practice.
BATTERY_LOW_MM, REACH_MM, BETWEEN_MM, MOST_UP_MM = (150.0, 700.0), (900.0, 1700.0), (500.0, 1700.0), 6000.0
SWITCHED = (BoardCard, TransferCard, SwitchFuseCard)


def _heights(card: EnclosureCard, high: float) -> tuple[float, float]:
    """Between which heights its lower edge hangs well: batteries low, what is switched within reach, the rest between."""
    if isinstance(card, BatteryCard):
        return BATTERY_LOW_MM
    if isinstance(card, InverterCard):
        return 0.0, MOST_UP_MM
    low, most = REACH_MM if isinstance(card, SWITCHED) else BETWEEN_MM
    return max(0.0, low - high / 2), most - high / 2


def _on_floor(card: EnclosureCard) -> bool:
    """Whether it stands on the floor: stacks, towers, cabinets with their modules inside."""
    if isinstance(card, BatteryCard):
        return card.floor_standing or card.arrangement != "parallel"
    return isinstance(card, InverterCard) and card.bank_internal


def pieces_of(plan: Plan) -> Iterator[Piece]:
    """Everything that hangs or stands at a wall by itself; what stands in a stack or cabinet goes with that."""
    ledger, banks = Ledger(plan.house), [tuple(unit.id for unit in bank.thing.units) for bank in plan.seats.banks]
    inside = {unit for units in banks for unit in units} - set(standing_units(ledger))
    for name in plan.house.hangable:
        card = plan.house.cards[name]
        if name in inside or not isinstance(card, EnclosureCard):
            continue
        wide, high = footprint(ledger, name, card.body)
        low, most = _heights(card, high)
        kin = next((tuple(unit for unit in units if unit != name) for units in banks if name in units), ())
        yield Piece(name, card.title, card.body, wide, high, _on_floor(card), low, most, kin, ledger.seats.screw)

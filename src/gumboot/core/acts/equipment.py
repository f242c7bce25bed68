"""Which equipment an act was done on: another card at the same place is another thing, and nothing that was seen of the former holds for it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from gumboot.core.acts.act import Act, Kind
from gumboot.core.acts.leads import lead_made, lead_proved
from gumboot.core.plan.derive import Plan
from gumboot.core.seats import AnySeat

# Acts at one box; what is read in several boxes is a check, which names them.
AT_ITS_PLACE = (
    Kind.UNPACK,
    Kind.INSIDE,
    Kind.MARKED,
    Kind.HOLE,
    Kind.FIXED,
    Kind.LIFT,
    Kind.TORQUE,
    Kind.RECHECK,
    Kind.COVER,
    Kind.PHOTO,
    Kind.SERIAL,
    Kind.FIRMWARE,
    Kind.BRIDGE,
    Kind.JOINT,
    Kind.FERRITE,
    Kind.BRIDGED,
    Kind.ENTRIES,
)
CHECKS = (Kind.LOOK, Kind.MEASUREMENT, Kind.DISPLAYS)
LEADS = (Kind.LEAD, Kind.RING)
OF_THE_HOUSE = (Kind.STEP,)
# One unit at a time; at a bank, all of them.
RITUALS = (Kind.RITUAL, Kind.READ_BACK)
OF_THE_INVERTERS = (Kind.SETTING, Kind.METER)


def equipped(plan: Plan) -> Callable[[Act], Act]:
    """Says of an act with which card at which place it is done. Acts that are about none stay as they are."""
    cards = {place: card.id for place, card in plan.house.cards.items()}
    seats = plan.seats
    inverters = {seat.id: cards[seat.id] for seat in seats.inverters if seat.id in cards}
    sources: tuple[AnySeat, ...] = (*seats.inverters, *seats.pv_inverters, *seats.transfers, *seats.generators)
    units = (unit.id for bank in seats.banks for unit in bank.thing.units)
    energised = {place: cards[place] for place in (*(seat.id for seat in sources), *units) if place in cards}
    joined = {act: tuple(end.place for end in lead.ends) for lead in plan.leads.leads for act in (lead_made(lead), lead_proved(lead))}
    opened = {f"check:{check.id}": check.places for check in plan.all_checks()}

    def of(act: Act) -> Mapping[str, str]:
        if act.kind in AT_ITS_PLACE:
            return {act.thing: cards[act.thing]} if act.thing in cards else {}
        if act.kind in LEADS:
            return {place: cards[place] for place in joined.get(act.id, ()) if place in cards}
        if act.kind in CHECKS:
            places = [place for place in opened.get(act.id, ()) if place in cards]
            return {place: cards[place] for place in places} or energised
        if act.kind in RITUALS:
            return {act.thing: cards[act.thing]} if act.thing in cards else energised
        return inverters if act.kind in OF_THE_INVERTERS else energised if act.kind in OF_THE_HOUSE else {}

    def told(act: Act) -> Act:
        found = of(act)
        return act.but(lasts=act.lasts.but(cards=found)) if found else act

    return told

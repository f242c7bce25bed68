"""What cards say beside the numbers, at the act where it matters: notes of practice, and where their manuals tell of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gumboot.core.acts import Act, Kind
from gumboot.core.card.fitting_up import Topic
from gumboot.core.card.model import AnyCard
from gumboot.core.plan.leads import LeadKind
from gumboot.web.view import Bench

ALL_OF_LINKS: tuple[Topic, ...] = ("links", "programming", "network")


def notes_of(view: Bench, act: Act) -> list[str]:
    """What practice has to say of the things that an act is about, where it matters, and where their manuals tell of it."""
    if act.kind is Kind.LEAD and (lead := view.plan.leads.of(act.name)) is not None and lead.kind is LeadKind.NETWORK:
        return said_of(cards_of(view)[lead.ends[0].place], ("network",))
    topics = TOPICS.get(act.kind, ())
    return list(
        dict.fromkeys(note for place in places_of(view, act) if (card := cards_of(view).get(place)) for note in said_of(card, topics))
    )


def cards_of(view: Bench) -> dict[str, AnyCard]:
    """The card at each place that has one."""
    seats = view.plan.seats
    return {seat.id: seat.card for seat in seats.all()} | {unit.id: bank.card for bank in seats.banks for unit in bank.thing.units}


def places_of(view: Bench, act: Act) -> list[str]:
    """The things that an act is about: both ends of a lead, else its own."""
    lead = view.plan.leads.of(act.name) if act.kind in (Kind.LEAD, Kind.RING, Kind.BRIDGE) else None
    if lead is not None:
        return [end.place for end in lead.ends]
    known = cards_of(view)
    bank = next((bank for bank in view.plan.seats.banks if bank.id == act.thing), None)
    if bank is not None:
        return [bank.thing.units[0].id, view.plan.house.lead.id]
    return [act.thing if act.thing in known else act.name.partition(".")[0]]


# Which parts of a card's notes and of its manual belong to an act.
TOPICS: Mapping[Kind, tuple[Topic, ...]] = {
    **dict.fromkeys((Kind.INSIDE, Kind.HOLE, Kind.LIFT), ("wall",)),
    **dict.fromkeys((Kind.TORQUE, Kind.RECHECK, Kind.JOINT, Kind.FERRITE, Kind.BRIDGED, Kind.ENTRIES), ("landing",)),
    **dict.fromkeys((Kind.RITUAL, Kind.READ_BACK), ("programming",)),
    **dict.fromkeys((Kind.LEAD, Kind.RING, Kind.BRIDGE), ("links",)),
    **dict.fromkeys((Kind.CORE, Kind.METER), ("sensing",)),
    **dict.fromkeys((Kind.STEP, Kind.OFF), ("power-up",)),
    Kind.COVER: ("cover",),
    Kind.SETTING: ("settings",),
}


def said_of(card: AnyCard, topics: Sequence[Topic]) -> list[str]:
    """What practice says of a card that belongs there, and where its manual tells of it."""
    notes = [*card.house_notes, *(note.text for note in card.notes if note.topic in topics)]
    return [*notes, *(f"See {card.title}: {told.where}." for told in card.manual if told.topic in topics)]


def house_notes(view: Bench) -> list[str]:
    """What practice has to say of linking the batteries and inverters of this house, each once."""
    seats = view.plan.seats
    notes = [note for group in (seats.banks, seats.inverters) for seat in group for note in said_of(seat.card, ALL_OF_LINKS)]
    return list(dict.fromkeys(notes))

"""What cards say beside the numbers, at the act where it matters: notes of practice, and where their manuals tell of it."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.acts import Act, Kind
from gumboot.core.acts.topics import topics_of
from gumboot.core.card.fitting_up import Topic
from gumboot.core.card.model import AnyCard
from gumboot.core.plan.leads import LeadKind
from gumboot.web.view import Bench

ALL_OF_LINKS: tuple[Topic, ...] = ("links", "programming", "network")


def notes_of(view: Bench, act: Act) -> list[str]:
    """What practice has to say of the things that an act is about, where it matters, and where their manuals tell of it."""
    if act.kind is Kind.LEAD and (lead := view.plan.leads.of(act.name)) is not None and lead.kind is LeadKind.NETWORK:
        card = cards_of(view)[lead.ends[0].place]
        return [*said_of(card, ("network",)), *of_crews(view, card, ("network",))]
    topics = topics_of(act)
    return list(dict.fromkeys(note for card in cards_at(view, act) for note in (*said_of(card, topics), *of_crews(view, card, topics))))


def cards_at(view: Bench, act: Act) -> list[AnyCard]:
    """The cards of the things that an act is about, each once."""
    known = cards_of(view)
    return list({known[place].id: known[place] for place in places_of(view, act) if place in known}.values())


def of_crews(view: Bench, card: AnyCard, topics: Sequence[Topic]) -> list[str]:
    """What the company's crews wrote of a card and a planner took, where it belongs; one without a part of its own belongs everywhere."""
    return [note.text for note in view.crew_notes.get(card.id, ()) if not note.topic or note.topic in topics]


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


def said_of(card: AnyCard, topics: Sequence[Topic]) -> list[str]:
    """What practice says of a card that belongs there, and where its manual tells of it."""
    notes = [*card.house_notes, *(note.text for note in card.notes if note.topic in topics)]
    return [*notes, *(f"See {card.title}: {told.where}." for told in card.manual if told.topic in topics)]


def house_notes(view: Bench) -> list[str]:
    """What practice has to say of linking the batteries and inverters of this house, each once."""
    seats = view.plan.seats
    notes = [note for group in (seats.banks, seats.inverters) for seat in group for note in said_of(seat.card, ALL_OF_LINKS)]
    return list(dict.fromkeys(notes))

"""The card of an act for the hand: what to see and to reach, drawn and written, and what its answers are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

from markupsafe import Markup

from gumboot.core.acts import Act, Kind
from gumboot.core.figure import Figure
from gumboot.core.finding import Finding
from gumboot.core.plan.leads import Lead, LeadKind
from gumboot.core.plan.terminations import Termination
from gumboot.core.recording import against, could_not_inputs
from gumboot.drawing import show
from gumboot.drawing.hand.ending import Ending, ending_of
from gumboot.drawing.hand.ruler import ruler
from gumboot.web.act_words import between, figure_of
from gumboot.web.bag.pictures import look_of
from gumboot.web.card_notes import cards_at, notes_of
from gumboot.web.page_words import cited_of
from gumboot.web.torques import caution_of, torque_of
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Amount:
    """A value to reach or to find: its digits and unit as they are read off, its band in words, and the same in other units."""

    digits: str
    unit: str
    words: str
    others: tuple[str, ...]
    ruler: Markup


@dataclass(frozen=True, slots=True)
class Card:
    """What a card shows of an act."""

    act: Act
    term: Termination | None
    amount: Amount | None
    prepare: str
    caution: str
    strip: tuple[str, str] | None
    ending: Ending | None
    findings: list[Finding]
    notes: list[str]
    figure: Figure | None
    cited: Sequence[tuple[str, str, str]]


def _torque(b: Bench, term: Termination) -> Amount | None:
    found = torque_of(b, term)
    if term.torque is None:
        return None
    drawn = ruler(f"band-{term.id}", found.low_nm, found.high_nm, term.torque.value)
    return Amount(found.digits, found.unit, found.band, found.others, drawn)


def _read(b: Bench, act: Act) -> Amount | None:
    """What an instrument should show."""
    band, expected = act.band, act.band.expected
    ends = [end.value if end is not None else None for end in (band.low, band.high)]
    if ends == [None, None] and expected is None:
        return None
    words = between(b, band.unit, *ends)
    shown = expected or band.low or band.high
    digits, unit = show.in_system(shown.value, band.unit, b.system) if shown is not None else ("", band.unit)
    sign = "" if expected is not None or None not in ends else "≥" if ends[1] is None else "≤"
    drawn = ruler(f"band-{act.name}", ends[0], ends[1], expected.value if expected is not None else None)
    return Amount(f"{sign}{digits}", unit, words, (), drawn)


def _prepare(term: Termination) -> str:
    """How an end is made ready beside its strip, which is drawn."""
    rest = term.preparation.partition(" · ")[2]
    return f"{rest[:1].upper()}{rest[1:]}" if rest else ""


def card_of(b: Bench, act: Act) -> Card:
    """The card of an act under the plan of a bench."""
    term = b.plan.termination(act.name) if act.kind is Kind.TORQUE else None
    figure = b.figure_of(figure_of(act)) if figure_of(act) else None
    strip = None
    if term is not None:
        mm = term.terminal.strip_mm
        strip = (show.quantity(mm, "mm", "SI"), show.quantity(mm, "mm", "US"))
    return Card(
        act=act,
        term=term,
        amount=_torque(b, term) if term is not None else _read(b, act),
        prepare=_prepare(term) if term is not None else act.prepare,
        caution=caution_of(term) if term is not None else act.caution,
        strip=strip,
        ending=ending_of(term) if term is not None else None,
        findings=[f for f in b.plan.findings if term is not None and f.where == term.where],
        notes=notes_of(b, act),
        figure=figure,
        cited=cited_of(b, figure) if figure is not None else [],
    )


def _left(b: Bench, act: Act) -> dict[str, Any]:
    """What a setting is asked to be left at, and all that its device offers."""
    row = next(row for row in b.plan.settings.sheet if row.key == act.name)
    if row.figure is None:
        return {"asked": row.text, "choices": list(row.choices)}
    # What is set is what is shown: whether it is near enough to what was worked out, the rule of the sheet says.
    return {"asked": b.quantity(row.figure.value, row.figure.unit), "unit": b.shown_unit(row.figure.unit)}


def _rung(lead: Lead) -> dict[str, Any]:
    """Of every core where it is probed and where it must beep."""
    near, far = (end.title for end in lead.ends)
    cores = {
        f"pin-{wire.first}": {"pin": wire.first, "wanted": str(wire.second), "words": f"{wire.colour.capitalize()}, {wire.signal}"}
        for wire in lead.wires
    }
    return {"near": near, "far": far, "cores": cores}


def aim_of(b: Bench, card: Card) -> dict[str, Any]:
    """What the answers of an act are made of, for a script: the value that one tap records, and what is offered beside it."""
    act, found = card.act, dict[str, Any]()
    if card.term is not None:
        found["end"] = card.term.terminal.end
        found["by"] = card.term.tightened_by
    if act.band.unit:
        found["shows"] = b.shown_unit(act.band.unit)
    if card.amount is not None:
        band = card.amount.words or f"{card.amount.digits} {card.amount.unit}"
        found |= {"digits": card.amount.digits, "unit": card.amount.unit, "band": band}
    if act.kind is Kind.SETTING:
        found |= _left(b, act)
    if act.kind is Kind.LEAD and (lead := b.plan.leads.of(act.name)) is not None and lead.kind is LeadKind.NETWORK:
        found["done"] = ["It has joined", "its lamp or screen says so"]
    if act.kind is Kind.RING and (lead := b.plan.leads.of(act.name)) is not None:
        found |= _rung(lead)
    if cards_at(b, act):
        found["noted"] = True
    if not act.is_derived and not act.makes_safe:
        found["could_not"] = next(list(asked.choices) for asked in could_not_inputs(act) if asked.name == "could_not")
    return found


def spoken_against(b: Bench, act: Act) -> dict[str, list[str]]:
    """What speaks against a tool for an act whatever the day: its range, its rating."""
    found = {tool.id: list(against(act, tool, date.fromisoformat(tool.calibrated_to))) for tool in b.job.tools}
    return {tool: words for tool, words in found.items() if words}


def place_of(b: Bench, act: Act) -> str:
    """The box or run that an act is at, as the header names it."""
    term = b.plan.termination(act.name) if act.kind in (Kind.TORQUE, Kind.RECHECK) else None
    return term.place if term is not None else act.thing


def title_of(card: Card) -> str:
    """What the hand calls an act: an end by its port and terminal, as the box stands beside it."""
    return card.term.title if card.term is not None else card.act.title


def looks(b: Bench, act: Act) -> dict[str, Any]:
    """Where an act looks, as data."""
    return look_of(b.plan, act).carried()

"""What the station Bank is drawn from."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from markupsafe import Markup

from gumboot.core.errors import GumbootError
from gumboot.core.figure import Figure
from gumboot.core.plan.bank import BankPlan
from gumboot.core.study import growth
from gumboot.core.study.growth import Addition, Refusal, refusals
from gumboot.drawing import bank as drawing
from gumboot.web.quantities import parse
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Answered:
    """A question of the bank's table, its figure, and what that stands against: words around figures."""

    question: str
    figure: Figure
    against: tuple[str | Figure, ...] = ()
    aside: bool = False


@dataclass(frozen=True, slots=True)
class Room:
    """A limit of growth: how many more it lets in, and why."""

    limit: str
    more: Figure
    why: str
    is_short: bool


@dataclass(frozen=True, slots=True)
class BankPart:
    """One bank: what limits it, what is asked of it, its batteries, and its room to grow."""

    id: str
    at: str
    heading: str
    drawing: Markup
    chain: Markup
    weakest: str
    weakest_a: Figure
    design_a: Figure
    questions: list[tuple[str, str]]
    table: list[Answered]
    units: list[str]
    room: list[Room]
    helps: str


@dataclass(frozen=True, slots=True)
class Question:
    """A value that is asked of a battery that may join."""

    name: str
    words: str
    unit: str


@dataclass(frozen=True, slots=True)
class BankView:
    """The station Bank; ``may_join`` is what speaks against a battery that is asked about, None where none is."""

    banks: list[BankPart]
    several: bool
    batteries: list[tuple[str, str]]
    asked: str
    questions: tuple[Question, ...]
    unreadable: str
    may_not: list[Refusal] | None


QUESTIONS = (
    Question("age", "its age", "months"),
    Question("bank_age", "the bank's age", "months"),
    Question("volts", "it measures", "V"),
    Question("bank_volts", "the bank measures", "V"),
)
# How a value that cannot be read is spoken of.
SPOKEN = {"age": "Its age", "bank_age": "The bank's age", "volts": "What it measures", "bank_volts": "What the bank measures"}


def _asked_of(b: Bench, k: BankPlan, *, first: bool) -> Iterator[tuple[str, str]]:
    """The fields of a bank that its kind has, by path and words."""
    at, seat = f"banks.{k.id}", b.plan.house.bank(k.id)
    card, strings = seat.card, seat.thing.strings
    if card.arrangement == "parallel" or strings > 1:
        yield f"{at}.cabling", "Cabling"
    if card.arrangement in ("stack", "blocks") and (card.strings_max > 1 or strings > 1):
        yield f"{at}.strings", "Stacks side by side" if card.arrangement == "stack" else "Strings side by side"
        if card.arrangement == "blocks" and strings > 1:
            yield f"{at}.string_fuse_a", "Fuse of each string"
            yield f"{at}.string_fuse_v", "its DC rating"
            yield f"{at}.string_fuse_breaks_a", "it breaks, DC"
    yield f"{at}.precharge", "Pre-charge fitted"
    if first:
        yield "preferences.start_of_autonomy_pct", "Charge when counted"
        yield "settings.reserve_pct", "Reserve"
    mains = b.plan.house.mains_of(k.id)
    for c in mains:
        of = f" of {c.owner}" if len(mains) > 1 or len(b.plan.banks) > 1 else ""
        yield f"runs.{c.id}.length_m", f"Main leads{of}, one way"
        yield f"runs.{c.id}.ambient_c", "Hottest air along them"


def _energy(b: Bench, k: BankPlan) -> Iterator[Answered]:
    figures, s = b.plan.figures, k.supply
    yield Answered(
        "Usable at the cells",
        s.usable,
        (f"from {b.job.preferences.start_of_autonomy_pct:g} % down to the battery's stop",),
        aside=True,
    )
    if (peukert := figures.get(k.key("bank.peukert"))) is not None:
        fullest, rated = figures[k.key("bank.hour_a")], figures[k.key("bank.rated_a")]
        yield Answered(peukert.name, peukert, (fullest, " in the fullest hour; rated at ", rated), aside=True)
    if (cold := figures.get(k.key("bank.usable_cold"))) is not None and k.coldest is not None:
        yield Answered(cold.name, cold, ("at ", k.coldest, ", the coldest air there"), aside=True)
    with_others = " with the other banks" if len(b.plan.banks) > 1 else ""
    yield Answered("Kept as reserve, AC side", k.reserve_wh, ("carries ", figures["settings.reserve_hours"], with_others))


def _currents(b: Bench, k: BankPlan) -> Iterator[Answered]:
    figures, s, several = b.plan.figures, k.supply, len(b.plan.seats.inverters) > 1
    for n, unit in enumerate(b.plan.house.on_bank(k.id)):
        drawn = figures["bank.drawn_a" + ("" if unit.id == b.plan.house.lead.id else f".{unit.id}")]
        against = (f"{s.bms_a.name.replace('BMS limits', 'BMS')} ", s.bms_a) if n == 0 else ()
        yield Answered(f"Current at full output, lowest voltage{f', {unit.id}' if several else ''}", drawn, against)


def _faults(b: Bench, k: BankPlan, *, first: bool) -> Iterator[Answered]:
    figures, s, card = b.plan.figures, k.supply, b.plan.house.bank(k.id).card
    broken: list[str | Figure] = []
    for fuse in {seat.card.id: seat.card for seat in b.plan.house.fuses_of(k.id)}.values():
        broken += [", "] if broken else []
        broken += [figures[f"card.{fuse.id}.interrupting_a"], f" broken by {fuse.title}"]
    yield Answered(s.fault_a.name, s.fault_a, tuple(broken))
    if (far := figures.get(k.key("bank.fault_far_a"))) is not None:
        yield Answered(far.name, far, ("main cable counted",), aside=True)
    for share in k.shares:
        yield Answered(share.name, share, ("one battery gives ", figures[f"card.{card.id}.discharge_a"]))
    if first and (ripple := figures.get("bank.ripple_a")) is not None:
        yield Answered(ripple.name, ripple, ("heats lugs and fuse",), aside=True)
    if (at_breaker := figures.get(k.key("bank.fault_at_breaker"))) is not None:
        breaks = figures.get(f"card.{card.id}.breaker_interrupting_a")
        yield Answered(at_breaker.name, at_breaker, ("its breaker breaks ", breaks) if breaks is not None else ())
    yield Answered("Pre-charge, at least", k.precharge_s, ("resistor takes ", k.precharge_j))


def _part(b: Bench, k: BankPlan, *, first: bool) -> BankPart:
    seat, several = b.plan.house.bank(k.id), len(b.plan.banks) > 1
    units = seat.thing.units
    rooms = growth.room_to_grow(b.plan, k.id)
    hanging = ", ".join(unit.id for unit in b.plan.house.on_bank(k.id))
    return BankPart(
        id=k.id,
        at=f"banks.{k.id}",
        heading=f"{len(units)} × {seat.card.title}, {hanging}" if several else "",
        drawing=drawing.bank_of(b.plan, k),
        chain=drawing.chain_of(b.plan, k),
        weakest=k.weakest.title,
        weakest_a=k.weakest.amps,
        design_a=k.supply.design_a,
        questions=list(_asked_of(b, k, first=first)),
        table=[*_energy(b, k), *_currents(b, k), *_faults(b, k, first=first)],
        units=[u.id for u in units],
        room=[Room(r.limit, r.figure(len(units)), r.why, r.more < 0) for r in rooms],
        helps=growth.helps_power(b.plan, k.id),
    )


def _addition(b: Bench) -> Addition | str:
    """The battery that is asked about, or what of it cannot be read."""
    card = b.shelf.get(b.query.get("join", ""))
    if card is None:
        return "There is no such card."
    numbers: dict[str, float | None] = {}
    for q in QUESTIONS:
        text = b.query.get(q.name, "").strip()
        try:
            numbers[q.name] = parse(text, "V" if q.unit == "V" else "") if text else None
        except GumbootError as refused:
            return f"{SPOKEN[q.name]}: {refused}"
    firmware, bank = b.query.get("firmware", "").strip() or None, b.query.get("bank", "")
    return Addition(card, numbers["age"], firmware, numbers["volts"], numbers["bank_age"], numbers["bank_volts"], bank)


def view_of(b: Bench) -> BankView:
    """The station as its page needs it; the job's own battery stands first among those that may join."""
    own = b.plan.seats.battery.id
    cards: list[Any] = sorted((c for c in b.shelf.values() if c.kind == "battery"), key=lambda c: (c.id != own, c.title))
    asked = _addition(b) if b.query.get("join") else None
    return BankView(
        banks=[_part(b, k, first=n == 0) for n, k in enumerate(b.plan.banks)],
        several=len(b.plan.banks) > 1,
        batteries=[(c.id, c.title) for c in cards],
        asked=b.query.get("join") or own,
        questions=QUESTIONS,
        unreadable=asked if isinstance(asked, str) else "",
        may_not=list(refusals(b.plan, asked)) if isinstance(asked, Addition) else None,
    )

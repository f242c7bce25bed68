"""Do the things of a job name each other rightly? A name that leads nowhere would be a wire that ends in the air."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from gumboot.core.card.parts import Frozen
from gumboot.core.job.loads import Load
from gumboot.core.job.things import (
    AnyThing,
    BoardThing,
    BusbarThing,
    GeneratorThing,
    InverterThing,
    PvInverterThing,
    RoofBoxThing,
    SwitchFuseThing,
    TransferThing,
)

Named = tuple[str, str | None, str]
WORDS: Mapping[str, str] = {
    "bank": "bank",
    "inverter": "inverter",
    "converter": "inverter or PV inverter",
    "board": "board",
    "fed": "board or transfer equipment",
    "main": "main board",
    "backed-up": "backed-up board",
    "combining": "combining panel",
}


def _named(thing: AnyThing) -> Iterator[Named]:
    """Field, what it names, and which sort of thing that must be."""
    match thing:
        case InverterThing():
            yield "bank", thing.bank, "bank"
            yield "board", thing.board, "fed"
            yield "feeds", thing.feeds, "fed"
        case SwitchFuseThing():
            yield "inverter", thing.inverter, "inverter"
        case BusbarThing():
            yield "bank", thing.bank, "bank"
        case RoofBoxThing():
            yield "inverter", thing.inverter, "converter"
        case BoardThing():
            yield "feeds", thing.feeds, "fed"
            yield "fed_from", thing.fed_from, thing.duty
        case TransferThing():
            yield "board", thing.board, "board"
            yield "feeds", thing.feeds, "board"
            yield "fed_from", thing.fed_from, "combining"
        case GeneratorThing():
            yield "feeds", thing.feeds, "inverter"
        case PvInverterThing():
            yield "feeds", thing.feeds, "board"


def _sorts(things: Sequence[AnyThing], banks: Sequence[Frozen]) -> dict[str, set[str]]:
    """Ids by the sort of thing that a field may name."""
    by = {seat: {t.id for t in things if t.seat == seat} for seat in ("inverter", "pv-inverter", "board", "transfer")}
    duties = {duty: {t.id for t in things if isinstance(t, BoardThing) and t.duty == duty} for duty in ("main", "backed-up", "combining")}
    return {
        **duties,
        "bank": {str(getattr(bank, "id", "")) for bank in banks},
        "inverter": by["inverter"],
        "converter": by["inverter"] | by["pv-inverter"],
        "board": by["board"],
        "fed": by["board"] | by["transfer"],
    }


def onward(things: Sequence[AnyThing]) -> dict[str, list[str]]:
    """What each thing feeds next on the way to the loads, whichever of the two says so."""
    found: dict[str, list[str]] = {}
    for thing in things:
        if isinstance(thing, InverterThing | BoardThing | TransferThing) and thing.feeds:
            found.setdefault(thing.id, []).append(thing.feeds)
        if isinstance(thing, BoardThing | TransferThing) and thing.fed_from:
            found.setdefault(thing.fed_from, []).append(thing.id)
    return {thing: list(dict.fromkeys(fed)) for thing, fed in found.items()}


def reach(fed: Mapping[str, Sequence[str]], start: str) -> tuple[str, ...]:
    """All that a thing feeds, near things first; the thing itself only where it feeds itself by way of others."""
    found: dict[str, None] = {}
    queue = list(fed.get(start, ()))
    while queue:
        at = queue.pop(0)
        if at not in found:
            found[at] = None
            queue.extend(fed.get(at, ()))
    return tuple(found)


def _check_circles(things: Sequence[AnyThing]) -> None:
    fed = onward(things)
    for start in fed:
        if start in reach(fed, start):
            field = "feeds" if any(t.id == start and getattr(t, "feeds", None) for t in things) else "fed_from"
            raise ValueError(f"things.{start}.{field} leads back to itself; name what it feeds on the way to the loads")


def check_references(things: Sequence[AnyThing], banks: Sequence[Frozen], loads: Sequence[Load]) -> None:
    """Raises ValueError that names the field and what may stand there."""
    sorts = _sorts(things, banks)
    if not sorts["inverter"]:
        raise ValueError("things: a house has at least one inverter; put one in before the last is taken out")
    for thing in things:
        for field, name, sort in _named(thing):
            if name is not None and name not in sorts[sort]:
                raise ValueError(
                    f"things.{thing.id}.{field} names '{name}', which is no {WORDS[sort]} of this job; "
                    f"it has {', '.join(sorted(sorts[sort])) or 'none'}"
                )
    _check_circles(things)
    boards = {t.id for t in things if isinstance(t, BoardThing) and t.duty == "backed-up"}
    for load in loads:
        if load.board and load.board not in boards:
            may = ", ".join(sorted(boards)) or "none"
            raise ValueError(f"loads.{load.id}.board names '{load.board}', which is no backed-up board of this job; it has {may}")

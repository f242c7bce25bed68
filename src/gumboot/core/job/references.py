"""Do the things of a job name each other rightly? A name that leads nowhere would be a wire that ends in the air."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from gumboot.core.card.parts import Frozen
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
        case TransferThing():
            yield "board", thing.board, "board"
            yield "feeds", thing.feeds, "board"
        case GeneratorThing():
            yield "feeds", thing.feeds, "inverter"
        case PvInverterThing():
            yield "feeds", thing.feeds, "board"


def _sorts(things: Sequence[AnyThing], banks: Sequence[Frozen]) -> dict[str, set[str]]:
    """Ids by the sort of thing that a field may name."""
    by = {seat: {t.id for t in things if t.seat == seat} for seat in ("inverter", "pv-inverter", "board", "transfer")}
    return {
        "bank": {str(getattr(bank, "id", "")) for bank in banks},
        "inverter": by["inverter"],
        "converter": by["inverter"] | by["pv-inverter"],
        "board": by["board"],
        "fed": by["board"] | by["transfer"],
    }


def _circle(things: Sequence[AnyThing]) -> str | None:
    """A thing that feeds itself by way of others."""
    onward = {t.id: t.feeds for t in things if isinstance(t, BoardThing | TransferThing) and t.feeds}
    for start in onward:
        seen, at = set(), onward.get(start)
        while at is not None and at not in seen:
            if at == start:
                return start
            seen.add(at)
            at = onward.get(at)
    return None


def check_references(things: Sequence[AnyThing], banks: Sequence[Frozen]) -> None:
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
    if (start := _circle(things)) is not None:
        raise ValueError(f"things.{start}.feeds leads back to itself; name what it feeds on the way to the loads")

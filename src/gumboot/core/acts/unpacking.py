"""The acts of unpacking: what is in each box, and the number of what carries one, read off before its plate hangs against a wall."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from gumboot.core.acts.act import Act, Kind, ident
from gumboot.core.acts.assembly import called
from gumboot.core.acts.fitting_up import YES_NO
from gumboot.core.card.base import EnclosureCard
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.wall import Box
from gumboot.core.seats import AnySeat


def _unpacked(box: Box, name: str, card: EnclosureCard, alike: Sequence[str]) -> Act:
    """What must be in the box. What is missing holds the lift; where the same part lies is told."""
    others = f" The same parts are in the box{'es' if len(alike) > 1 else ''} of {', '.join(alike)}." if alike else ""
    return Act(
        id=ident("unpack", box.id),
        kind=Kind.UNPACK,
        station="wire",
        title=f"{name} unpacked: all of it there, nothing broken",
        thing=box.id,
        see=f"Beside the {box.title}: {', '.join(card.in_box)}. Corners, screen, sockets and lugs looked at.",
        caution=f"A picture of any damage before anything else; its maker asks for one.{others}",
        band=YES_NO,
    )


def _numbered(plan: Plan) -> Iterator[tuple[str, str]]:
    """What carries a serial number that warranty asks for, each with its name."""
    seats = plan.seats
    made: Iterable[AnySeat] = (*seats.inverters, *seats.pv_inverters, *seats.transfers, *seats.generators)
    for seat in made:
        yield seat.id, seat.name
    for bank in seats.banks:
        for unit in bank.thing.units:
            yield unit.id, unit.id


def _number(thing: str, name: str) -> Act:
    return Act(
        id=ident("serial", thing),
        kind=Kind.SERIAL,
        station="wire",
        title=f"Serial number of {name}",
        thing=thing,
        see="As it stands on its plate.",
        guards="paper",
    )


def unpacking_acts(plan: Plan) -> Iterator[Act]:
    """Every box that comes with something, and every number: before anything is drilled."""
    boxes, numbered = [box for wall in plan.walls for box in wall.boxes], dict(_numbered(plan))
    for box in boxes:
        card = plan.house.cards.get(box.id)
        if isinstance(card, EnclosureCard) and card.in_box:
            yield _unpacked(box, called(plan, box), card, [b.id for b in boxes if b.id != box.id and plan.house.cards.get(b.id) is card])
        if (name := numbered.pop(box.id, None)) is not None:
            yield _number(box.id, name)
    yield from (_number(thing, name) for thing, name in numbered.items())

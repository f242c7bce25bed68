"""Which parts of a house are fed apart from each other in an outage, and what belongs to each."""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.installation.places import Places
from gumboot.core.job.sensing import Meter
from gumboot.core.seats import InverterSeat, Seats


def islands_of(house: Places) -> tuple[tuple[InverterSeat, ...], ...]:
    """The inverters by island: those that feed something in common. The leader of the house leads the first."""
    groups: list[tuple[list[InverterSeat], set[str]]] = []
    for inverter in house.seats.inverters:
        units, feeds = [inverter], {inverter.id, *house.below(inverter.id)}
        for joined in [g for g in groups if not feeds.isdisjoint(g[1])]:
            groups.remove(joined)
            units, feeds = joined[0] + units, joined[1] | feeds
        groups.append((units, feeds))
    order = [i.id for i in house.seats.inverters]
    return tuple(sorted((tuple(units) for units, _ in groups), key=lambda units: order.index(units[0].id)))


def _meter(house: Places, inverters: Sequence[InverterSeat], *, is_first: bool) -> Meter | None:
    """The set of CTs of an island: its leader's, else one wired to another of its inverters; what none reads is the first's."""
    meters = house.job.sensing.meters
    of = {m.inverter: m for m in reversed(meters)}
    wired = [of[i.id] for i in inverters if i.id in of]
    if is_first and not wired:
        everyone = {i.id for i in house.seats.inverters}
        wired = [m for m in meters if m.inverter not in everyone]
    return wired[0] if wired else None


def part_of(house: Places, inverters: Sequence[InverterSeat], *, is_first: bool) -> Seats:
    """The things of one island: those that it feeds or that serve it. What none feeds belongs to the first, where it is judged."""
    seats, ids = house.seats, {i.id for i in inverters}
    below = {i.id for i in inverters}.union(*(house.below(i.id) for i in inverters))
    fed = {i.id for i in house.seats.inverters}.union(*(house.below(i.id) for i in house.seats.inverters))

    def belongs(thing: str) -> bool:
        return thing in below or (is_first and thing not in fed)

    banks = {i.thing.bank for i in inverters}
    return seats.but(
        inverters=tuple(inverters),
        banks=tuple(b for b in seats.banks if b.id in banks),
        switch_fuses=tuple(s for s in seats.switch_fuses if s.thing.inverter in ids),
        busbars=tuple(b for b in seats.busbars if b.thing.bank in banks),
        boards=tuple(b for b in seats.boards if b.thing.duty == "main" or belongs(b.id)),
        transfers=tuple(t for t in seats.transfers if belongs(t.id)),
        generators=tuple(g for g in seats.generators if g.thing.feeds in ids),
        pv_inverters=tuple(p for p in seats.pv_inverters if belongs(p.thing.feeds)),
        meter=_meter(house, inverters, is_first=is_first),
    )

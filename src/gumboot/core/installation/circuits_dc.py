"""Direct current: from the roof to the inverters, and between batteries and inverters."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.parts import Role
from gumboot.core.installation.parts import Circuit, Core, End, Input
from gumboot.core.installation.places import Places
from gumboot.core.seats import BankSeat, BusbarSeat, InverterSeat


def pv_name(at: Input) -> str:
    """The circuit of a PV input."""
    return f"pv-{at.name.lower().replace(' ', '-')}"


def _pv(at: Input, roof: str) -> Circuit:
    tracker, port = at.tracker.id, at.tracker.port
    pair: tuple[tuple[Role, str], ...] = (("positive", "+"), ("negative", "-"))
    cores = tuple(Core(role, (End(roof, tracker, t), End(at.place, port, t))) for role, t in pair)
    earth = Core("earth", (End(roof, "EARTH", tracker), End(at.place, "EARTH", port)))
    return Circuit(pv_name(at), f"PV run, {at.name}", "pv", (*cores, earth), at.place)


# Names that circuits of one of each bear; those of further things have the thing's name behind.
FEEDERS = ("grid", "backup", "bat-main", "interlinks", "through", "inverter-out", "generator-feed", "pv-ac")


def unit_name(unit: str) -> str:
    """The circuit of a battery's lead: the battery's name, unless a feeder bears it."""
    return f"lead-{unit}" if unit in FEEDERS else unit


def _nth(card: BoardCard, port: str, role: Role, nth: int, *, main: bool = False, beyond: str = "") -> str:
    """The n-th stud of a role on a port of the bars, from 0. ``beyond`` is what it would be called where there are too few, which
    the card then lacks by name; without it the last stands for it, and a rule says that there are too few."""
    found = next((p for p in card.ports if p.id == port), None)
    studs = [t.id for t in found.terminals if t.role == role and t.id.startswith("main") == main] if found else []
    if nth >= len(studs) and (beyond or not studs):
        return beyond or role
    return studs[min(nth, len(studs) - 1)]


def _unit(first: str, last: str, nth: int, box: BusbarSeat, bank: BankSeat) -> Circuit:
    """The lead of a battery to the bars; of a string of blocks from the plus of its first and the minus of its last."""
    card, at, string = box.card, box.id, bank.card.arrangement == "blocks"
    plus = _nth(card, "BATTERIES", "positive", nth, beyond=f"{first} +")
    minus = _nth(card, "BATTERIES", "negative", nth, beyond=f"{first} -")
    # Blocks have no case to bond.
    earth = () if string else (Core("earth", (End(first, "CASE", "E"), End(at, "EARTH", _nth(card, "EARTH", "earth", nth, beyond=first)))),)
    cores = (
        Core("positive", (End(first, "BATTERY", "+"), End(at, "BATTERIES", plus))),
        Core("negative", (End(last, "BATTERY", "-"), End(at, "BATTERIES", minus))),
        *earth,
    )
    title = f"Lead of the string of {first}" if string else f"Battery lead, {first}"
    return Circuit(unit_name(first), title, "battery-unit", cores, bank.id)


def main_name(house: Places, inverter: InverterSeat) -> str:
    """The circuit between an inverter and its bank."""
    return "bat-main" if inverter is house.lead else f"bat-main-{inverter.id}"


def _main(house: Places, bank: BankSeat, inverter: InverterSeat, nth: int) -> Circuit:
    """From the bank to one of its inverters, through that inverter's switch and fuse."""
    units, card, box = bank.thing.units, bank.card, house.busbar_of(bank.id)
    first, last = units[0].id, units[-1 if card.arrangement == "blocks" else 0].id
    plus = End(box.id, "MAIN", _nth(box.card, "MAIN", "positive", nth)) if box else End(first, "BATTERY", "+")
    minus = End(box.id, "MAIN", _nth(box.card, "MAIN", "negative", nth)) if box else End(last, "BATTERY", "-")
    earth = End(box.id, "EARTH", _nth(box.card, "EARTH", "earth", nth, main=True)) if box else End(first, "CASE", "E")
    switch = house.switch_fuse_of(inverter.id)
    fuse = (End(switch.id, "LINE", "+"), End(switch.id, "LOAD", "+")) if switch else ()
    bonded = () if card.arrangement == "blocks" else (Core("earth", (earth, End(inverter.id, "EARTH", "BATTERY"))),)
    cores = (
        Core("positive", (plus, *fuse, End(inverter.id, "BATTERY", "+"))),
        Core("negative", (minus, End(inverter.id, "BATTERY", "-"))),
        *bonded,
    )
    title = "Battery main" if inverter is house.lead else f"Battery main, {inverter.id}"
    return Circuit(main_name(house, inverter), title, "battery", cores, inverter.id)


def _bank(house: Places, bank: BankSeat) -> Iterator[Circuit]:
    inverters = [i for i in house.on_bank(bank.id) if not i.card.bank_internal]
    if bank.card.arrangement == "docked" or not inverters:
        return
    units, box = bank.thing.units, house.busbar_of(bank.id)
    if bank.card.arrangement == "blocks" and len(units) > 1:
        joints = tuple(
            Core("positive", (End(a.id, "BATTERY", "-"), End(b.id, "BATTERY", "+")))
            for string in bank.thing.stacks()
            for a, b in itertools.pairwise(string)
        )
        first = bank is house.seats.banks[0]
        yield Circuit("interlinks" if first else f"interlinks-{bank.id}", "Links between the blocks", "interlink", joints, bank.id)
    if box:
        ends = {stack[0].id: stack[-1].id for stack in bank.thing.stacks()} if bank.card.arrangement == "blocks" else {}
        yield from (_unit(head.id, ends.get(head.id, head.id), nth, box, bank) for nth, head in enumerate(house.heads(bank.id)))
    yield from (_main(house, bank, inverter, nth) for nth, inverter in enumerate(inverters))


def dc_circuits(house: Places) -> Iterator[Circuit]:
    """PV runs of the inputs that carry strings, then each bank's leads and mains."""
    for at in house.inputs:
        roof = house.roof_box_of(at.place)
        if roof is not None and house.strings_on(at):
            yield _pv(at, roof.id)
    for bank in house.seats.banks:
        yield from _bank(house, bank)

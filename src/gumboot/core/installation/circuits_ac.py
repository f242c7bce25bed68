"""Alternating current: from the street to the inverters, and from the inverters by way of panel and transfer to the loads."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gumboot.core.card.inverter import AcLeg
from gumboot.core.card.parts import Role
from gumboot.core.installation.parts import LINE_ROLES, Circuit, Core, End, Kind
from gumboot.core.installation.places import Places
from gumboot.core.seats import InverterSeat, TransferSeat


class Port(NamedTuple):
    """A port of a thing; ``lines`` are its own names of the lines where they differ from the house's."""

    place: str
    port: str
    lines: Sequence[AcLeg] = ()


class Named(NamedTuple):
    """What a circuit is called; ``base`` is its name where there is one of its kind, which the bars of boards go by."""

    base: str
    title: str
    kind: Kind
    owner: str
    suffix: str = ""

    @property
    def id(self) -> str:
        """The circuit's id."""
        return f"{self.base}-{self.suffix}" if self.suffix else self.base


def _bar(house: Places, board: str, terminal: str, base: str) -> str:
    """The clamp of a neutral or earth bar: that of its circuit, else the first of the bar, of whose clamps each is like the other."""
    wanted = f"{terminal} {base}"
    clamps = [t.id for port in house.card_at(board).ports if port.id == "BARS" for t in port.terminals]
    return wanted if wanted in clamps else next((clamp for clamp in clamps if clamp.startswith(f"{terminal} ")), wanted)


def _ac(house: Places, named: Named, source: Port, load: Port, lines: Sequence[AcLeg]) -> Circuit:
    """An AC circuit from its source's port to its load's. A board keeps neutrals and earths on its bars."""

    def end(at: Port, terminal: str, nth: int) -> End:
        if house.card_at(at.place).kind == "board":
            on_bars = terminal in ("N", "E")
            way = named.id if named.kind == "pv-ac" and at.port == "BREAKER" else named.suffix
            return End(at.place, "BARS" if on_bars else at.port, _bar(house, at.place, terminal, named.base) if on_bars else terminal, way)
        if terminal == "E":
            return End(at.place, "EARTH", at.port)
        return End(at.place, at.port, at.lines[nth] if at.lines and terminal != "N" else terminal)

    def core(role: Role, terminal: str, nth: int = 0) -> Core:
        return Core(role, (end(source, terminal, nth), end(load, terminal, nth)))

    cores = (*(core(LINE_ROLES[line], line, nth) for nth, line in enumerate(lines)), core("neutral", "N"), core("earth", "E"))
    title = f"{named.title}, {named.suffix}" if named.suffix else named.title
    return Circuit(named.id, title, named.kind, cores, named.owner)


def _suffix(house: Places, inverter: InverterSeat) -> str:
    return "" if inverter is house.lead else inverter.id


def _grid_port(house: Places, inverter: InverterSeat) -> Iterator[Circuit]:
    """From a board to an inverter's grid port."""
    board = inverter.thing.board
    if board is not None and house.has_grid and any(port.id == "GRID" for port in inverter.card.ports):
        named = Named("grid", "Grid feed", "grid", inverter.id, _suffix(house, inverter))
        port = Port(inverter.id, "GRID", inverter.card.phases)
        yield _ac(house, named, Port(board, "BREAKER"), port, house.phases_of(inverter))


def _transfer_grid(house: Places, transfer: TransferSeat) -> Iterator[Circuit]:
    """From the main board to the transfer equipment."""
    board, extra = transfer.thing.board, "" if transfer is house.seats.transfers[0] else transfer.id
    if board is None or not house.has_grid:
        return
    if transfer.card.style == "gateway":
        named = Named("grid", "Grid feed", "grid", house.lead.id, extra)
        yield _ac(house, named, Port(board, "BREAKER"), Port(transfer.id, "GRID"), house.legs)
    else:
        named = Named("through", "Grid to transfer switch", "through", house.lead.id, extra)
        yield _ac(house, named, Port(board, "TRANSFER"), Port(transfer.id, "GRID"), house.legs)


def _output(house: Places, inverter: InverterSeat) -> Circuit:
    """From an inverter to what it feeds."""
    card, lines, extra = house.card_at(inverter.thing.feeds), house.phases_of(inverter), _suffix(house, inverter)
    load = Port(inverter.id, "LOAD", inverter.card.phases)
    if card.kind == "transfer" and card.style == "gateway":
        named = Named("through", "Gateway to inverter", "through", inverter.id, extra)
        return _ac(house, named, Port(inverter.thing.feeds, "INV"), Port(inverter.id, "AC", inverter.card.phases), lines)
    if card.kind == "transfer":
        named = Named("inverter-out", "Inverter to transfer switch", "through", inverter.id, extra)
        return _ac(house, named, load, Port(inverter.thing.feeds, "INV"), lines)
    if any(b.id == inverter.thing.feeds and b.thing.duty == "combining" for b in house.seats.boards):
        named = Named("inverter-out", "Inverter to combining panel", "output", inverter.id, extra)
        return _ac(house, named, load, Port(inverter.thing.feeds, "INVERTERS"), lines)
    named = Named("backup", "Backed-up feed", "backup", inverter.id, extra)
    return _ac(house, named, load, Port(inverter.thing.feeds, "MAIN"), lines)


def _onward(house: Places) -> Iterator[Circuit]:
    """From combining panels and transfer equipment to what they feed."""
    for board in house.seats.boards:
        if board.thing.feeds is None:
            continue
        onto = house.card_at(board.thing.feeds)
        if onto.kind == "transfer":
            named = Named("combined", "Combined output", "through", board.id)
            yield _ac(house, named, Port(board.id, "MAIN"), Port(board.thing.feeds, "INV"), house.legs)
        else:
            named = Named("backup", "Backed-up feed", "backup", board.id)
            yield _ac(house, named, Port(board.id, "MAIN"), Port(board.thing.feeds, "MAIN"), house.legs)
    for transfer in house.seats.transfers:
        extra = "" if transfer is house.seats.transfers[0] else transfer.id
        named = Named("backup", "Backed-up feed", "backup", transfer.id, extra)
        yield _ac(house, named, Port(transfer.id, "LOAD"), Port(transfer.thing.feeds, "MAIN"), house.legs)


def ac_circuits(house: Places) -> Iterator[Circuit]:
    """Feeds from the street, outputs, onward feeds, generators, AC-coupled PV."""
    seats = house.seats
    gateways = {t.id for t in seats.transfers if t.card.style == "gateway"}
    for transfer in seats.transfers:
        yield from (c for c in _transfer_grid(house, transfer) if c.kind == "grid")
    for inverter in seats.inverters:
        if inverter.thing.feeds not in gateways:
            yield from _grid_port(house, inverter)
    for transfer in seats.transfers:
        yield from (c for c in _transfer_grid(house, transfer) if c.kind != "grid")
    yield from (_output(house, inverter) for inverter in seats.inverters)
    yield from _onward(house)
    for nth, generator in enumerate(seats.generators):
        to = house.inverter(generator.thing.feeds)
        if not any(port.id == "GEN" for port in to.card.ports):
            continue  # a rule says that there is no input for it
        named = Named("generator-feed", "Generator feed", "generator", generator.id, generator.id if nth else "")
        yield _ac(house, named, Port(generator.id, "OUT"), Port(to.id, "GEN", to.card.phases), house.phases_of(to))
    for nth, other in enumerate(seats.pv_inverters):
        named = Named("pv-ac", "PV inverter feed", "pv-ac", other.id, other.id if nth else "")
        board = house.card_at(other.thing.feeds)
        # A board with no place of its own for PV takes it on a breaker as any other circuit.
        port = "PV" if board.kind == "board" and any(p.id == "PV" for p in board.ports) else "BREAKER"
        yield _ac(house, named, Port(other.id, "AC"), Port(other.thing.feeds, port), other.card.phases)

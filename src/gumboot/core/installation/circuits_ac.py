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

    @property
    def whole_title(self) -> str:
        """What people call it: with the suffix behind, but for the feed of a board, which names the board."""
        return f"{self.title}, {self.suffix}" if self.suffix and self.base != "feeder" else self.title


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
    return Circuit(named.id, named.whole_title, named.kind, cores, named.owner)


class _Names:
    """Names of circuits: the first of a kind has the plain one, another that of its thing behind it."""

    def __init__(self) -> None:
        self.taken: set[str] = set()

    def named(self, base: str, title: str, kind: Kind, owner: str, suffix: str, *, thing: str) -> Named:
        """A name that no circuit has: with ``suffix`` behind, or with the thing's where that is taken."""
        found = Named(base, title, kind, owner, suffix)
        if found.id in self.taken:
            found = found._replace(suffix=thing)
        self.taken.add(found.id)
        return found


def _suffix(house: Places, inverter: InverterSeat) -> str:
    return "" if inverter is house.lead else inverter.id


def _extra(house: Places, transfer: TransferSeat) -> str:
    """What circuits of transfer equipment end in: nothing for the first that the leader feeds."""
    of_leader = (t for t in house.seats.transfers if t.id in house.below(house.lead.id))
    return "" if transfer is next(of_leader, None) else transfer.id


def _grid_port(house: Places, names: _Names, inverter: InverterSeat) -> Iterator[Circuit]:
    """From a board to an inverter's grid port."""
    board = inverter.thing.board
    if board is not None and house.has_grid and any(port.id == "GRID" for port in inverter.card.ports):
        named = names.named("grid", "Grid feed", "grid", inverter.id, _suffix(house, inverter), thing=inverter.id)
        port = Port(inverter.id, "GRID", inverter.card.phases)
        yield _ac(house, named, Port(board, "BREAKER"), port, house.phases_of(inverter))


def _transfer_grid(house: Places, names: _Names, transfer: TransferSeat) -> Circuit | None:
    """From the main board to the transfer equipment."""
    board, feeding = transfer.thing.board, house.feeding(transfer.id)
    if board is None or not house.has_grid or not feeding:
        return None
    owner, lines = feeding[0].id, house.legs_of(feeding)
    extra = _extra(house, transfer)
    if transfer.card.style == "gateway":
        named = names.named("grid", "Grid feed", "grid", owner, extra, thing=transfer.id)
        return _ac(house, named, Port(board, "BREAKER"), Port(transfer.id, "GRID"), lines)
    named = names.named("through", "Grid to transfer switch", "through", owner, extra, thing=transfer.id)
    return _ac(house, named, Port(board, "TRANSFER"), Port(transfer.id, "GRID"), lines)


def _output(house: Places, names: _Names, inverter: InverterSeat) -> Circuit:
    """From an inverter to what it feeds."""
    fed, lines, extra = inverter.thing.feeds, house.phases_of(inverter), _suffix(house, inverter)
    card, load = house.card_at(fed), Port(inverter.id, "LOAD", inverter.card.phases)

    def named(base: str, title: str, kind: Kind) -> Named:
        return names.named(base, title, kind, inverter.id, extra, thing=inverter.id)

    if card.kind == "transfer" and card.style == "gateway":
        through = named("through", "Gateway to inverter", "through")
        return _ac(house, through, Port(fed, "INV"), Port(inverter.id, "AC", inverter.card.phases), lines)
    if card.kind == "transfer":
        return _ac(house, named("inverter-out", "Inverter to transfer switch", "through"), load, Port(fed, "INV"), lines)
    if any(b.id == fed and b.thing.duty == "combining" for b in house.seats.boards):
        return _ac(house, named("inverter-out", "Inverter to combining panel", "output"), load, Port(fed, "INVERTERS"), lines)
    return _ac(house, named("backup", "Backed-up feed", "backup"), load, Port(fed, "MAIN"), lines)


def _onward(house: Places, names: _Names) -> Iterator[Circuit]:
    """From combining panels and transfer equipment to what they feed."""
    for board in house.seats.boards:
        if board.thing.feeds is None:
            continue
        onto, feeding = house.card_at(board.thing.feeds), house.feeding(board.id)
        lines, extra = house.legs_of(feeding), "" if house.lead in feeding else board.id
        if onto.kind == "transfer":
            named = names.named("combined", "Combined output", "through", board.id, extra, thing=board.id)
            yield _ac(house, named, Port(board.id, "MAIN"), Port(board.thing.feeds, "INV"), lines)
        else:
            named = names.named("backup", "Backed-up feed", "backup", board.id, extra, thing=board.id)
            yield _ac(house, named, Port(board.id, "MAIN"), Port(board.thing.feeds, "MAIN"), lines)
    for transfer in house.seats.transfers:
        lines, panel = house.legs_of(house.feeding(transfer.id)), transfer.thing.fed_from
        if panel is not None and panel in house.cards:
            named = names.named("combined", "Combined output", "through", panel, transfer.id, thing=transfer.id)
            yield _ac(house, named, Port(panel, "INVERTERS"), Port(transfer.id, "INV"), lines)
        extra = _extra(house, transfer)
        named = names.named("backup", "Backed-up feed", "backup", transfer.id, extra, thing=transfer.id)
        yield _ac(house, named, Port(transfer.id, "LOAD"), Port(transfer.thing.feeds, "MAIN"), lines)


def _behind(house: Places, names: _Names) -> Iterator[Circuit]:
    """From backed-up boards to those that stand behind them."""
    for board in house.boards:
        if board.thing.fed_from is not None and house.feeding(board.id):
            named = names.named("feeder", f"Feed of {board.name}", "feeder", board.id, board.id, thing=board.id)
            source = Port(board.thing.fed_from, "BREAKER")
            yield _ac(house, named, source, Port(board.id, "MAIN"), house.legs_of(house.feeding(board.id)))


def _generators(house: Places, names: _Names) -> Iterator[Circuit]:
    for nth, generator in enumerate(house.seats.generators):
        to = house.inverter(generator.thing.feeds)
        if not any(port.id == "GEN" for port in to.card.ports):
            continue  # a rule says that there is no input for it
        extra = generator.id if nth else ""
        named = names.named("generator-feed", "Generator feed", "generator", generator.id, extra, thing=generator.id)
        yield _ac(house, named, Port(generator.id, "OUT"), Port(to.id, "GEN", to.card.phases), house.phases_of(to))


def _pv(house: Places, names: _Names) -> Iterator[Circuit]:
    for nth, other in enumerate(house.seats.pv_inverters):
        named = names.named("pv-ac", "PV inverter feed", "pv-ac", other.id, other.id if nth else "", thing=other.id)
        board = house.card_at(other.thing.feeds)
        # A board with no place of its own for PV takes it on a breaker as any other circuit.
        port = "PV" if board.kind == "board" and any(p.id == "PV" for p in board.ports) else "BREAKER"
        yield _ac(house, named, Port(other.id, "AC"), Port(other.thing.feeds, port), other.card.phases)


def _between_mains(house: Places, names: _Names, circuits: Sequence[Circuit]) -> Iterator[Circuit]:
    """From a main board to one that stands behind it, where a source gives back along it; other feeders are the house's own matter."""
    mains, giving = {b.id for b in house.seats.mains}, {i.id for i in house.seats.inverters if i.card.role != "off-grid"}
    at = [c.source for c in circuits if c.kind in ("grid", "through") and c.owner in giving]
    joined = [board for board in (*at, *(c.load for c in circuits if c.kind == "pv-ac")) if board in mains]
    for board in house.seats.mains:
        if board.thing.fed_from is None or not any(board.id in house.mains_above(place) for place in joined):
            continue
        named = names.named("feeder", f"Feed of {board.name}", "main-feeder", board.id, board.id, thing=board.id)
        # A board that the survey found says nothing of where its feed lands: any of its own clamps stands for that.
        port = "MAIN" if house.lands_its_feed(board.id) else "BREAKER"
        yield _ac(house, named, Port(board.thing.fed_from, "BREAKER"), Port(board.id, port), house.legs)


def ac_circuits(house: Places) -> Iterator[Circuit]:
    """Feeds from the street, outputs, onward feeds, boards behind boards, generators, AC-coupled PV, feeders between main boards."""
    names = _Names()
    if all(board.thing.fed_from is None for board in house.seats.mains):
        yield from _of_the_inverters(house, names)
        return
    found = [*_of_the_inverters(house, names)]
    yield from found
    yield from _between_mains(house, names, found)


def _of_the_inverters(house: Places, names: _Names) -> Iterator[Circuit]:
    seats = house.seats
    gateways = {t.id for t in seats.transfers if t.card.style == "gateway"}
    for transfer in seats.transfers:
        if transfer.id in gateways and (circuit := _transfer_grid(house, names, transfer)):
            yield circuit
    for inverter in seats.inverters:
        if inverter.thing.feeds not in gateways:
            yield from _grid_port(house, names, inverter)
    for transfer in seats.transfers:
        if transfer.id not in gateways and (circuit := _transfer_grid(house, names, transfer)):
            yield circuit
    yield from (_output(house, names, inverter) for inverter in seats.inverters)
    yield from _onward(house, names)
    yield from _behind(house, names)
    yield from _generators(house, names)
    yield from _pv(house, names)

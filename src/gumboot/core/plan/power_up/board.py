"""The switching network of a job: what each switch joins, and where power comes from."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import BankPlan, OneBank, bank_of, banks_of
from gumboot.core.seats import BoardSeat, GeneratorSeat, InverterSeat, PvInverterSeat
from gumboot.core.sim.switch_line import Line, Switch, Unit

BANK_TITLES = {"stack": "Battery stack", "blocks": "Battery bank"}


class BatterySwitch(NamedTuple):
    """What a hand switches on of a bank."""

    id: str
    title: str
    bank: OneBank


def battery_switches(ledger: Ledger) -> list[BatterySwitch]:
    """What a hand switches on of every bank: each parallel battery, or the stack, the blocks or the cabinet as one."""
    return [switch for bank in banks_of(ledger) for switch in switches_of(bank)]


def switches_of(bank: OneBank) -> list[BatterySwitch]:
    """As ``battery_switches``, of one bank."""
    card, units = bank.card, bank.units
    if card.arrangement == "parallel" and not bank.inverter.bank_internal:
        return [BatterySwitch(u.id, u.id, bank) for u in units]
    if len(bank.heads) > 1:
        what = "Fuse of the string of" if bank.of_strings else "Battery stack"
        return [BatterySwitch(head.id, f"{what} {head.id}", bank) for head in bank.heads]
    return [BatterySwitch(units[0].id, bank.of(BANK_TITLES.get(card.arrangement, "Battery cabinet")), bank)]


def mark_of(house: House, inverter: InverterSeat) -> str:
    """What the ids of an inverter's switches, steps and circuits end in: nothing for the leader."""
    return "" if inverter.id == house.leader else f"-{inverter.id}"


def mark(ledger: Ledger, inverter: InverterSeat) -> str:
    """As ``mark_of``."""
    return mark_of(ledger.house, inverter)


def of(ledger: Ledger, inverter: InverterSeat) -> str:
    """How titles of one inverter among several name it."""
    return f" of {inverter.name}" if len(ledger.house.whole.seats.inverters) > 1 else ""


def panelled(ledger: Ledger) -> bool:
    """Whether several inverters meet at a combining panel."""
    inverters = ledger.seats.inverters
    return len(inverters) > 1 and all(i.thing.feeds in ledger.house.panels for i in inverters)


def bars_of(bank: OneBank | BankPlan) -> str:
    """The node of a bank's bars on the switching network."""
    return f"dc-bus{bank.mark}"


def _dc(bank: OneBank) -> str:
    """Where a bank's breakers lead: its bars before a switch-fuse, or the terminals of its first inverter."""
    return bars_of(bank) if bank.switch_fuses else f"inverter-dc{mark(bank.ledger, bank.inverters[0])}"


def _of_unit(ledger: Ledger, inverter: InverterSeat) -> Iterator[Switch]:
    """Pre-charge and switch-fuse, the inverter's own switch, and its breaker in the combining panel."""
    m, whose, uid, island = mark(ledger, inverter), of(ledger, inverter), inverter.id, ledger.house.mark
    if ledger.house.switch_fuse_of(uid) is not None:
        bus = bars_of(bank_of(ledger, inverter))
        yield Switch(f"precharge{m}", f"Pre-charge button{whose}", bus, f"inverter-dc{m}", "precharge", uid, island)
        yield Switch(f"battery-switch{m}", f"Battery switch-fuse{whose}", bus, f"inverter-dc{m}", "battery switch", uid, island)
    title = f"{inverter.name} on" if whose else "Inverter on"
    yield Switch(f"inverter{m}", title, f"inverter-dc{m}", f"inverter-load{m}", "inverter", uid, island)
    if ledger.once(panelled):
        title = f"Breaker{whose} in the combining panel"
        yield Switch(f"panel-{uid}", title, f"inverter-load{m}", f"panel-bar{island}", "panel", uid, island)


def board_node(house: House, board: str) -> str:
    """The node of a backed-up board on the switching network."""
    if board == house.first_board:
        return "backed-up-board"
    own = f"backed-up-board{house.mark}"
    return own if house.mark and board == house.boards[0].id else f"backed-up-board-{board}"


class BoardSwitch(NamedTuple):
    """A switch of a backed-up board: its main, or the breaker in the board ahead of it."""

    switch: Switch
    board: BoardSeat
    is_first: bool


def board_switches(ledger: Ledger) -> list[BoardSwitch]:
    """The mains of an island's backed-up boards, and the breakers of those that stand behind another."""
    house = ledger.house
    island, lead = house.mark, house.lead
    source = f"panel-bar{island}" if panelled(ledger) else f"inverter-load{mark(ledger, lead)}"
    found = []
    for n, board in enumerate(house.boards):
        name, node = board.name, board_node(house, board.id)
        if n == 0:
            title = ledger.titled("Backed-up board main")
            found.append(BoardSwitch(Switch(f"sub-main{island}", title, source, node, "main", island=island), board, True))
        elif board.thing.fed_from in {b.id for b in house.boards}:
            near = board_node(house, str(board.thing.fed_from))
            switch = Switch(f"feeder-{board.id}", f"Breaker of {name} in the board ahead", near, node, "feeder", island=island)
            found.append(BoardSwitch(switch, board, False))
        else:
            switch = Switch(f"sub-main-{board.id}", f"Main of {name}", source, node, "main", island=island)
            found.append(BoardSwitch(switch, board, False))
    return found


def main_words(house: House, inverter: InverterSeat) -> str:
    """What the main board is called that an inverter joins: by its name where the house has several."""
    mains = house.whole.seats.mains
    if len(mains) < 2:
        return "the main board"
    joined = house.main_of(inverter)
    return next((b.name for b in mains if b.id == joined), "the main board")


def _of_sources(ledger: Ledger, inverter: InverterSeat, part: House) -> Iterator[Switch]:
    """The grid breaker and the PV switch of an inverter, which belongs to an island."""
    m, whose, uid, island = mark(ledger, inverter), of(ledger, inverter), inverter.id, part.mark
    if part.joins_grid:
        title = f"Grid breaker{whose} in {main_words(part, inverter)}"
        yield Switch(f"grid-breaker{m}", title, "main-board", f"inverter-grid{m}", "grid", uid, island)
    if any(ledger.house.strings_on(at) for at in ledger.house.inputs if at.place == uid) or (not m and _others_have_strings(ledger)):
        yield Switch(f"pv-switch{m}", f"PV switch{whose}", f"pv-strings{m}", f"inverter-pv{m}", "PV", uid, island)


def _others_have_strings(ledger: Ledger) -> bool:
    """Strings on a PV inverter, or on a tracker that none has: one PV switch stands for them."""
    hanging = {s.id for i in ledger.seats.inverters for at in ledger.house.inputs if at.place == i.id for s in ledger.house.strings_on(at)}
    return any(s.id not in hanging for s in ledger.job.strings)


def unstrung(ledger: Ledger) -> list[PvInverterSeat]:
    """PV inverters of whose strings nothing is said, as of one that stood there before: their breaker is what keeps PV off."""
    house = ledger.house.whole
    return [pv for pv in ledger.seats.pv_inverters if not any(house.strings_on(at) for at in house.inputs if at.place == pv.id)]


def _pv_breakers(ledger: Ledger) -> Iterator[Switch]:
    house = ledger.house.whole
    mains = {b.id for b in house.seats.mains}
    for pv in unstrung(ledger):
        board = str(pv.thing.feeds)
        near = "main-board" if board in mains else board_node(house, board)
        yield Switch(f"pv-breaker-{pv.id}", f"Breaker of {pv.name}", near, f"pv-inverter-{pv.id}", "PV", island=ledger.house.mark)


def generator_breakers(ledger: Ledger) -> list[tuple[Switch, GeneratorSeat]]:
    """The breaker of each generator of an island, between it and the input of the inverter that it feeds."""
    found, every = [], [g.id for g in ledger.house.whole.seats.generators]
    for generator in ledger.seats.generators:
        nth = every.index(generator.id)
        g, fed = f"-{generator.id}" if nth else "", ledger.house.inverter(generator.thing.feeds)
        title = f"Breaker of {generator.id}" if nth else "Generator breaker"
        far = f"inverter-generator{mark(ledger, fed)}"
        found.append((Switch(f"generator-breaker{g}", title, f"generator{g}", far, "generator", fed.id, ledger.house.mark), generator))
    return found


def _batteries(ledger: Ledger) -> Iterator[tuple[Switch, str]]:
    """The switches of every bank, each with the node of its cells."""
    for b in ledger.once(battery_switches):
        island = next(part.house.mark for part in ledger.islands if b.bank.seat in part.seats.banks)
        cells = f"{b.id}-cells"
        yield (
            Switch(b.id, b.title if b.bank.of_strings else f"{b.title} breaker and power", cells, _dc(b.bank), "battery", island=island),
            cells,
        )


def switch_line(ledger: Ledger) -> Line:
    """The switching network of this job, from what it has: batteries, inverters, panels, backed-up boards, grid, PV, generators."""
    job, parts = ledger.job, ledger.islands
    packs = list(_batteries(ledger))
    switches, sources = [s for s, _ in packs], [(cells, "battery") for _, cells in packs]
    switches += [s for part in parts for i in part.seats.inverters for s in _of_unit(part, i)]
    switches += [b.switch for part in parts for b in part.once(board_switches)]
    supplies = [s for part in parts for i in part.seats.inverters for s in _of_sources(ledger, i, part.house)]
    switches += [s for s in supplies if s.part == "grid"] + [s for s in supplies if s.part == "PV"]
    switches += [s for part in parts for s in _pv_breakers(part)]
    if job.site.supply != "none":
        sources.append(("main-board", "grid"))
    sources += [(s.near, "PV") for s in supplies if s.part == "PV"]
    for breaker in (breaker for part in parts for breaker, _ in part.once(generator_breakers)):
        switches.append(breaker)
        sources.append((breaker.near, "generator"))
    if job.backup.bypass != "none":
        switches.append(Switch("bypass", "Bypass from the main board", "main-board", "backed-up-board", "bypass"))
    units = tuple([_unit(mark(ledger, i)) for part in parts for i in part.seats.inverters])
    return Line(switches=tuple(switches), sources=tuple(sources), interlocked=job.backup.bypass == "interlocked", units=units)


def _unit(m: str) -> Unit:
    """The nodes of an inverter, by the mark of its ids."""
    return Unit(
        switch=f"inverter{m}",
        dc=f"inverter-dc{m}",
        load=f"inverter-load{m}",
        grid=f"inverter-grid{m}",
        generator=f"inverter-generator{m}",
    )

"""What does each busbar see of its main device and its sources, and what may it carry?"""

from __future__ import annotations

from collections.abc import Sequence

from gumboot.core.figure import BY_VALUE, Figure
from gumboot.core.installation import House
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.group import summed
from gumboot.core.plan.sources import sources_at_first
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rules import Asked, parallel
from gumboot.core.rules import connection as rules
from gumboot.core.seats import AnySeat, BoardSeat, PvInverterSeat, TransferSeat

JUDGES: dict[str, Asked[rules.Bar]] = {rule.code: rule for rule in (rules.busbar, rules.main_switch)}


def busbar_case(ledger: Ledger) -> nec.BusbarCase:
    """The case of NEC 705.12(B) that the survey says."""
    site = ledger.job.site
    return site.busbar_case or ("opposite ends" if site.busbar_opposite_end else "sum")


def _sum_of_devices(ledger: Ledger, bar: Figure) -> tuple[Figure, Figure]:
    devices, source = ledger.job.site.board_devices_a, ledger.book.boards.source
    if not devices:
        waits = "The busbar rule by sum of devices"
        ledger.gap("site.board_devices_a", "survey", "Which load and source devices are on the busbar?", waits)
    amps = nec.devices_sum_a(devices)
    summed_up = ledger.work("circuits.busbar_sum", "I_sum", "Every device but the main", amps, "A", source=source, limits="705.12(B)(3).")
    return summed_up, ledger.work("circuits.busbar_limit", "I_lim", ledger.book.boards.limit_name, bar, "A", source=source)


def _sum_of_feeds(ledger: Ledger, main: Figure, bar: Figure, sources: Figure) -> tuple[Figure, Figure]:
    clauses, case = ledger.book.boards, busbar_case(ledger)
    seen = clauses.demand(main, sources)
    fed = ledger.work("circuits.busbar_sum", "I_sum", clauses.demand_name, seen, "A", source=clauses.source)
    allowed, holds = clauses.limit(bar, case), clauses.limit_holds
    limit = ledger.work("circuits.busbar_limit", "I_lim", clauses.limit_name, allowed, "A", source=clauses.source, limits=holds)
    most = clauses.largest_main(bar, sources, case)
    if most is not None:
        name, why = "Largest main device beside these sources", "What a main-breaker derate must reach."
        ledger.work("circuits.busbar_main_most", "I_main_max", name, most, "A", source=clauses.source, limits=why)
    return fed, limit


def main_board(ledger: Ledger) -> tuple[Figure | None, Figure | None]:
    """The main board's busbar against its main device and the sources; what it sees and what it may carry, for the drawing."""
    main, bar = ledger.asked("site.service_main_a"), ledger.asked("site.busbar_a")
    if main is None or bar is None:
        return None, None
    clauses, sources = ledger.book.boards, sources_at_first(ledger)
    if sources is None:
        return None, None
    if clauses.has_connections and ledger.job.site.connection == "supply side":
        ledger.ask(rules.supply_side, rules.Against(found=sources, most=main))
        return None, None
    if clauses.has_connections and ledger.job.site.connection == "controlled":
        setting = ledger.asked("site.control_setting_a")
        if setting is not None:
            ledger.ask(rules.controlled, rules.Against(found=setting, most=bar))
        return None, None
    by_devices = clauses.has_connections and busbar_case(ledger) == "sum of devices"
    fed, limit = _sum_of_devices(ledger, bar) if by_devices else _sum_of_feeds(ledger, main, bar, sources)
    facts = rules.Bar(
        where="main board", total=fed, limit=limit, feeds=FEEDS[clauses.rule], bar=clauses.bar, act=clauses.act, field="site.busbar_a"
    )
    ledger.ask(JUDGES[clauses.rule], facts)
    return fed, limit


FEEDS = {rules.busbar.code.value: "Main device and inverter", rules.main_switch.code.value: "Main device and sources"}


def backed_up_boards(ledger: Ledger) -> None:
    """Each backed-up board between its sources: its main, and the PV inverters on it or on a board behind it."""
    if not ledger.seats.pv_inverters:
        return
    for seat in ledger.house.boards:
        own = {seat.id, *ledger.house.below(seat.id)}
        feeding = [pv for pv in ledger.seats.pv_inverters if pv.thing.feeds in own]
        if feeding:
            _backed_up_board(ledger, seat, feeding)


def _backed_up_board(ledger: Ledger, seat: BoardSeat, feeding: Sequence[PvInverterSeat]) -> None:
    clauses, board = ledger.book.boards, seat.card
    mark, of = ("", "") if seat.id == ledger.house.first_board else (f".{seat.id}", f", {seat.id}")
    bar, main = ledger.read(board, "busbar_a"), ledger.read(board, "main_device_a")
    parts = [ledger.read(pv.card, "output_current_a") for pv in feeding]
    behind = summed(ledger, f"circuits.sub_board_pv{mark}", "I_pv", f"PV inverters on the backed-up board{of}", parts)
    seen = clauses.demand(main, behind)
    words = "the PV inverter" if len(feeding) == 1 else f"{len(feeding)} PV inverters"
    name = f"Backed-up board's main and {words}{of}"
    fed = ledger.work(f"circuits.sub_board_sum{mark}", "I_sum", name, seen, "A", source=clauses.source)
    allowed, limit = clauses.limit(bar, "opposite ends"), bar
    if allowed is not bar:
        name, holds = f"Backed-up board's busbar allows{of}", "The two sources at opposite ends of the busbar."
        limit = ledger.work(f"circuits.sub_board_limit{mark}", "I_lim", name, allowed, "A", source=clauses.source, limits=holds)
    facts = rules.Bar(
        where=f"backed-up board{of}",
        total=fed,
        limit=limit,
        feeds=f"Its main and {words}",
        bar="its busbar",
        act="Choose a board with a larger busbar or a smaller main.",
        field=f"things.{seat.id}.card",
    )
    ledger.ask(JUDGES[clauses.rule], facts)


def each_is_fed_once(ledger: Ledger) -> None:
    """Every backed-up board is fed by an inverter, by one way; so is the inverter side of transfer equipment."""
    house, inverters = ledger.house, {i.id for i in ledger.seats.inverters}
    for board in house.boards:
        fed = [i.id for i in house.feeding(board.id)]
        ledger.ask(rules.board_is_fed, rules.Fed(board=board.id, inverters=fed))
    mains = {b.id for b in ledger.seats.mains}
    fed_things: list[AnySeat] = [*house.boards, *ledger.seats.transfers]
    for thing in fed_things:
        by = [c.source for c in house.circuits if c.load == thing.id and c.kind != "pv-ac" and c.source not in mains]
        ways = [*dict.fromkeys("the inverters" if source in inverters else source for source in by)]
        # The same panel twice, by its main and by a breaker, is two ways as well.
        twice = [source for source in ways if by.count(source) > 1]
        ledger.ask(rules.is_fed_once, rules.FedBy(place=thing.id, by=[*ways, *twice], field=f"things.{thing.id}.fed_from"))


def combining_panels(ledger: Ledger) -> None:
    """The bar of each combining panel against all that feed it: its inverters, and its main from the other side."""
    clauses = ledger.book.boards
    for panel in [board for board in ledger.seats.boards if board.thing.duty == "combining"]:
        feeding = [i for i in ledger.seats.inverters if i.thing.feeds == panel.id]
        if not feeding:
            continue
        key = f"circuits.{panel.id}"
        units = max(([i for i in feeding if leg in ledger.house.phases_of(i)] for leg in ledger.house.legs), key=len)
        parts = [ledger.read(i.card, "output_current_a") for i in units]
        parts += [ledger.read(pv.card, "output_current_a") for pv in ledger.seats.pv_inverters if pv.thing.feeds == panel.id]
        amps = summed(ledger, f"{key}.in_a", "I_in", f"Inverters on one leg of {panel.id}", parts)
        seen = clauses.panel_demand(amps)
        total_a = ledger.work(f"{key}.sum_a", "I_sum", f"{clauses.panel_name}, {panel.id}", seen, "A", source=clauses.panel_source)
        ledger.ask(parallel.panel_bar, parallel.PanelBar(panel=panel.id, total=total_a, limit=ledger.read(panel.card, "busbar_a")))


def _devices_to(house: House, plan: CircuitsPlan, thing: str) -> list[Figure]:
    """The devices of the circuits that end at a thing."""
    sized = [plan.sized[c.id] for c in house.circuits if c.load == thing and c.id in plan.sized]
    return [z.device for z in sized if z.device is not None]


def behind_devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every bar and transfer switch of an island against the device ahead of it."""
    house = ledger.house
    for board in house.boards:
        ahead = [f for f in (ledger.stated(board.card, "main_device_a"), *_devices_to(house, plan, board.id)) if f is not None]
        where = "backed-up board" if board.id == house.first_board else board.id
        _ahead(ledger, where, board, ledger.read(board.card, "busbar_a"), min(ahead, key=BY_VALUE, default=None))
    for transfer in ledger.seats.transfers:
        largest = max(_devices_to(house, plan, transfer.id), key=BY_VALUE, default=None)
        _ahead(ledger, transfer_place(ledger, transfer), transfer, ledger.read(transfer.card, "rated_a"), largest)
    for panel in ledger.seats.boards:
        if panel.id in house.panels:
            _ahead(ledger, panel.id, panel, ledger.read(panel.card, "busbar_a"), ledger.stated(panel.card, "main_device_a"))


def ways_suffice(ledger: Ledger) -> None:
    """The live poles of loads, PV inverters and feeders on each backed-up board against its ways, where its card tells them."""
    house = ledger.house
    for board in house.boards:
        ways = ledger.stated(board.card, "ways")
        if ways is None:
            continue
        loads = [x for x in house.backed if (x.board or house.first_board) == board.id]
        poles = sum(len(set(x.leg.split("+"))) for x in loads)
        poles += sum(len(pv.card.phases) for pv in ledger.seats.pv_inverters if pv.thing.feeds == board.id)
        poles += sum(
            len([core for core in c.cores if core.role.startswith("line")]) for c in house.of_kind("feeder") if c.source == board.id
        )
        key, name = f"circuits.{board.id}.poles", f"Live poles that hang on {board.id}"
        used = ledger.work(key, "n_p", name, float(poles), "", source="arith", limits="Loads, PV inverters and feeders; its main apart.")
        ledger.ask(rules.room_in_the_board, rules.Ways(board=board.id, poles=used, ways=ways, field=f"things.{board.id}.card"))


def transfer_place(ledger: Ledger, transfer: TransferSeat) -> str:
    """How findings call transfer equipment: by its id where there are several."""
    return "transfer" if len(ledger.house.whole.seats.transfers) == 1 else transfer.id


def _ahead(ledger: Ledger, where: str, seat: AnySeat, bar: Figure, device: Figure | None) -> None:
    if device is not None:
        ledger.ask(rules.behind_its_device, rules.Ahead(where=where, rated=bar, device=device, field=f"things.{seat.id}.card"))


def main_behind_its_device(ledger: Ledger) -> None:
    """The main board's bar against the service's main device."""
    site = ledger.job.site
    if site.supply != "none" and site.busbar_a is not None and site.service_main_a is not None:
        bar, device = ledger.decided("site.busbar_a"), ledger.decided("site.service_main_a")
        ledger.ask(rules.behind_its_device, rules.Ahead(where="main board", rated=bar, device=device, field="site.busbar_a"))


def main_as_surveyed(ledger: Ledger) -> None:
    """Busbar and main device of the first main board, as the survey and the chosen card say."""
    site, mains = ledger.job.site, ledger.seats.mains
    if site.supply == "none" or not mains:
        return
    board = mains[0]
    for what, said, path in (("busbar", site.busbar_a, "busbar_a"), ("main device", site.service_main_a, "main_device_a")):
        card, field = ledger.stated(board.card, path), "site.busbar_a" if path == "busbar_a" else "site.service_main_a"
        if said is not None and card is not None:
            facts = rules.Surveyed(what=what, board=board.id, title=board.card.title, said=ledger.decided(field), card=card, field=field)
            ledger.ask(rules.survey_matches_card, facts)

"""What does each busbar see of its main device and its sources, and what may it carry?"""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rules import Asked
from gumboot.core.rules import connection as rules

JUDGES: dict[str, Asked[rules.Bar]] = {rule.code: rule for rule in (rules.busbar, rules.main_switch)}


def sources_together(ledger: Ledger) -> Figure:
    """Current of every source behind the board: the battery inverter's, and that of AC-coupled PV."""
    output, pv = ledger.read(ledger.seats.inverter, "output_current_a"), ledger.seats.pv_inverter
    if pv is None:
        return output
    return ledger.work("circuits.sources_a", "I_src", "Sources together", output + ledger.read(pv, "output_current_a"), "A", "arith")


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
    total = ledger.work("circuits.busbar_sum", "I_sum", "Every device but the main", amps, "A", source, limits="705.12(B)(3).")
    return total, ledger.work("circuits.busbar_limit", "I_lim", ledger.book.boards.limit_name, bar, "A", source)


def _sum_of_feeds(ledger: Ledger, main: Figure, bar: Figure, sources: Figure) -> tuple[Figure, Figure]:
    clauses, case = ledger.book.boards, busbar_case(ledger)
    seen = clauses.demand(main, sources)
    total = ledger.work("circuits.busbar_sum", "I_sum", clauses.demand_name, seen, "A", clauses.source)
    allowed, holds = clauses.limit(bar, case), clauses.limit_holds
    limit = ledger.work("circuits.busbar_limit", "I_lim", clauses.limit_name, allowed, "A", clauses.source, limits=holds)
    most = clauses.largest_main(bar, sources, case)
    if most is not None:
        name, why = "Largest main device beside these sources", "What a main-breaker derate must reach."
        ledger.work("circuits.busbar_main_most", "I_main_max", name, most, "A", clauses.source, limits=why)
    return total, limit


def main_board(ledger: Ledger) -> tuple[Figure | None, Figure | None]:
    """The main board's busbar against its main device and the sources; what it sees and what it may carry, for the drawing."""
    main, bar = ledger.asked("site.service_main_a"), ledger.asked("site.busbar_a")
    if main is None or bar is None:
        return None, None
    clauses, sources = ledger.book.boards, sources_together(ledger)
    if clauses.has_connections and ledger.job.site.connection == "supply side":
        ledger.ask(rules.supply_side, rules.Against(found=sources, most=main))
        return None, None
    if clauses.has_connections and ledger.job.site.connection == "controlled":
        setting = ledger.asked("site.control_setting_a")
        if setting is not None:
            ledger.ask(rules.controlled, rules.Against(found=setting, most=bar))
        return None, None
    by_devices = clauses.has_connections and busbar_case(ledger) == "sum of devices"
    total, limit = _sum_of_devices(ledger, bar) if by_devices else _sum_of_feeds(ledger, main, bar, sources)
    facts = rules.Bar(
        where="main board", total=total, limit=limit, feeds=FEEDS[clauses.rule], bar=clauses.bar, act=clauses.act, field="site.busbar_a"
    )
    ledger.ask(JUDGES[clauses.rule], facts)
    return total, limit


FEEDS = {rules.busbar.code.value: "Main device and inverter", rules.main_switch.code.value: "Main device and sources"}


def backed_up_board(ledger: Ledger) -> None:
    """The backed-up board between two sources: its main and the PV inverter that feeds it from the other end."""
    board, pv, clauses = ledger.seats.sub_board, ledger.seats.pv_inverter, ledger.book.boards
    if pv is None:
        return
    bar, main = ledger.read(board, "busbar_a"), ledger.read(board, "main_device_a")
    seen = clauses.demand(main, ledger.read(pv, "output_current_a"))
    name = "Backed-up board's main and the PV inverter"
    total = ledger.work("circuits.sub_board_sum", "I_sum", name, seen, "A", clauses.source)
    allowed, limit = clauses.limit(bar, "opposite ends"), bar
    if allowed is not bar:
        name, holds = "Backed-up board's busbar allows", "The two sources at opposite ends of the busbar."
        limit = ledger.work("circuits.sub_board_limit", "I_lim", name, allowed, "A", clauses.source, limits=holds)
    facts = rules.Bar(
        where="backed-up board",
        total=total,
        limit=limit,
        feeds="Its main and the PV inverter",
        bar="its busbar",
        act="Choose a board with a larger busbar or a smaller main.",
        field="things.sub-board.card",
    )
    ledger.ask(JUDGES[clauses.rule], facts)


def behind_devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every bar and transfer switch against the device ahead of it."""
    backup, grid = plan.sized.get("backup"), plan.sized.get("grid")
    board, transfer, site = ledger.seats.sub_board, ledger.seats.transfer, ledger.job.site
    ahead = [f for f in (ledger.stated(board, "main_device_a"), backup.device if backup else None) if f is not None]
    rows = [("backed-up board", "things.sub-board.card", ledger.read(board, "busbar_a"), min(ahead, key=lambda f: f.value, default=None))]
    if transfer is not None:
        rows.append(("transfer", "things.transfer.card", ledger.read(transfer, "rated_a"), grid.device if grid else None))
    if site.supply != "none" and site.busbar_a is not None and site.service_main_a is not None:
        rows.append(("main board", "site.busbar_a", ledger.decided("site.busbar_a"), ledger.decided("site.service_main_a")))
    for where, field, bar, device in rows:
        if device is not None:
            ledger.ask(rules.behind_its_device, rules.Ahead(where=where, rated=bar, device=device, field=field))

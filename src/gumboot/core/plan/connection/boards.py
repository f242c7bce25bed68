"""What does each busbar see of its main device and its sources, and what may it carry?"""

from __future__ import annotations

from gumboot.core.expression import total
from gumboot.core.figure import Figure
from gumboot.core.ledger import Ledger
from gumboot.core.plan.circuits import CircuitsPlan
from gumboot.core.plan.group import leg_output_a, summed
from gumboot.core.rulebook.north_american import connection as nec
from gumboot.core.rules import Asked, parallel
from gumboot.core.rules import connection as rules

JUDGES: dict[str, Asked[rules.Bar]] = {rule.code: rule for rule in (rules.busbar, rules.main_switch)}


def sources_together(ledger: Ledger) -> Figure:
    """Current of every source behind the board: the battery inverters', and that of AC-coupled PV."""
    output, others = leg_output_a(ledger), [ledger.read(pv.card, "output_current_a") for pv in ledger.seats.pv_inverters]
    if not others:
        return output
    return ledger.work("circuits.sources_a", "I_src", "Sources together", total([output, *others], output), "A", "arith")


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
    summed_up = ledger.work("circuits.busbar_sum", "I_sum", "Every device but the main", amps, "A", source, limits="705.12(B)(3).")
    return summed_up, ledger.work("circuits.busbar_limit", "I_lim", ledger.book.boards.limit_name, bar, "A", source)


def _sum_of_feeds(ledger: Ledger, main: Figure, bar: Figure, sources: Figure) -> tuple[Figure, Figure]:
    clauses, case = ledger.book.boards, busbar_case(ledger)
    seen = clauses.demand(main, sources)
    fed = ledger.work("circuits.busbar_sum", "I_sum", clauses.demand_name, seen, "A", clauses.source)
    allowed, holds = clauses.limit(bar, case), clauses.limit_holds
    limit = ledger.work("circuits.busbar_limit", "I_lim", clauses.limit_name, allowed, "A", clauses.source, limits=holds)
    most = clauses.largest_main(bar, sources, case)
    if most is not None:
        name, why = "Largest main device beside these sources", "What a main-breaker derate must reach."
        ledger.work("circuits.busbar_main_most", "I_main_max", name, most, "A", clauses.source, limits=why)
    return fed, limit


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
    fed, limit = _sum_of_devices(ledger, bar) if by_devices else _sum_of_feeds(ledger, main, bar, sources)
    facts = rules.Bar(
        where="main board", total=fed, limit=limit, feeds=FEEDS[clauses.rule], bar=clauses.bar, act=clauses.act, field="site.busbar_a"
    )
    ledger.ask(JUDGES[clauses.rule], facts)
    return fed, limit


FEEDS = {rules.busbar.code.value: "Main device and inverter", rules.main_switch.code.value: "Main device and sources"}


def backed_up_board(ledger: Ledger) -> None:
    """The backed-up board between its sources: its main and the PV inverters that feed it from the other end."""
    seat, clauses = ledger.seats.board("backed-up"), ledger.book.boards
    feeding = [pv for pv in ledger.seats.pv_inverters if seat is not None and pv.thing.feeds == seat.id]
    if seat is None or not feeding:
        return
    board = seat.card
    bar, main = ledger.read(board, "busbar_a"), ledger.read(board, "main_device_a")
    parts = [ledger.read(pv.card, "output_current_a") for pv in feeding]
    behind = summed(ledger, "circuits.sub_board_pv", "I_pv", "PV inverters on the backed-up board", parts)
    seen = clauses.demand(main, behind)
    words = "the PV inverter" if len(feeding) == 1 else f"{len(feeding)} PV inverters"
    name = f"Backed-up board's main and {words}"
    fed = ledger.work("circuits.sub_board_sum", "I_sum", name, seen, "A", clauses.source)
    allowed, limit = clauses.limit(bar, "opposite ends"), bar
    if allowed is not bar:
        name, holds = "Backed-up board's busbar allows", "The two sources at opposite ends of the busbar."
        limit = ledger.work("circuits.sub_board_limit", "I_lim", name, allowed, "A", clauses.source, limits=holds)
    facts = rules.Bar(
        where="backed-up board",
        total=fed,
        limit=limit,
        feeds=f"Its main and {words}",
        bar="its busbar",
        act="Choose a board with a larger busbar or a smaller main.",
        field=f"things.{seat.id}.card",
    )
    ledger.ask(JUDGES[clauses.rule], facts)


def combining_panels(ledger: Ledger) -> None:
    """The bar of each combining panel against all that feed it: its inverters, and its main from the other side."""
    clauses = ledger.book.boards
    for panel in ledger.seats.boards:
        feeding = [i for i in ledger.seats.inverters if i.thing.feeds == panel.id]
        if panel.thing.duty != "combining" or not feeding:
            continue
        key = f"circuits.{panel.id}"
        units = max(([i for i in feeding if leg in ledger.house.phases_of(i)] for leg in ledger.house.legs), key=len)
        parts = [ledger.read(i.card, "output_current_a") for i in units]
        parts += [ledger.read(pv.card, "output_current_a") for pv in ledger.seats.pv_inverters if pv.thing.feeds == panel.id]
        amps = summed(ledger, f"{key}.in_a", "I_in", f"Inverters on one leg of {panel.id}", parts)
        seen = clauses.panel_demand(amps)
        total_a = ledger.work(f"{key}.sum_a", "I_sum", f"{clauses.panel_name}, {panel.id}", seen, "A", clauses.panel_source)
        ledger.ask(parallel.panel_bar, parallel.PanelBar(panel=panel.id, total=total_a, limit=ledger.read(panel.card, "busbar_a")))


def behind_devices(ledger: Ledger, plan: CircuitsPlan) -> None:
    """Every bar and transfer switch against the device ahead of it."""
    backup, grid = plan.sized.get("backup"), plan.sized.get("grid")
    board, transfer, site = ledger.seats.sub_board, ledger.seats.transfer, ledger.job.site
    ahead = [f for f in (ledger.stated(board, "main_device_a"), backup.device if backup else None) if f is not None]
    own = next(b.id for b in ledger.seats.boards if b.thing.duty == "backed-up")
    rows = [("backed-up board", f"things.{own}.card", ledger.read(board, "busbar_a"), min(ahead, key=lambda f: f.value, default=None))]
    if transfer is not None:
        field = f"things.{ledger.seats.transfers[0].id}.card"
        rows.append(("transfer", field, ledger.read(transfer, "rated_a"), grid.device if grid else None))
    for panel in ledger.seats.boards:
        if panel.thing.duty == "combining":
            device = ledger.stated(panel.card, "main_device_a")
            rows.append((panel.id, f"things.{panel.id}.card", ledger.read(panel.card, "busbar_a"), device))
    if site.supply != "none" and site.busbar_a is not None and site.service_main_a is not None:
        rows.append(("main board", "site.busbar_a", ledger.decided("site.busbar_a"), ledger.decided("site.service_main_a")))
    for where, field, bar, device in rows:
        if device is not None:
            ledger.ask(rules.behind_its_device, rules.Ahead(where=where, rated=bar, device=device, field=field))

"""The rows on the inverter's right: service, main board, transfer equipment, backed-up board, and the runs between them."""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.board import board_node
from gumboot.core.plan.settings import supply_of
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.layout import BEHIND, WIDTH, behind, bypass


def supply_words(plan: Plan) -> str:
    """What the network brings, as written beside the meter."""
    return f"grid {supply_of(plan.house).removeprefix(plan.house.output).strip()}"


def service(d: Diagram, x: float, top: float) -> None:
    """Meter and CTs on the service conductors, above the main board."""
    service = d.plan.figures.get("in.site.service_main_a")
    d.wire([(x, 8), (x, 30)], "main-board", service)
    d.wire([(x, 58), (x, top)], "main-board", service)
    with d.opening(service, "Meter, main device"):
        d.c.circle(x, 44, 14, "page", "ink", 1.8)
        d.c.text(x, 48, "kWh", 10, "middle")
    d.c.text(x - 22, 20, supply_words(d.plan), 12, "end")
    for k, ct in enumerate(d.plan.sensing.cts):
        y = 78 + k * 26
        with d.opening(ct.expected, f"{ct.place.channel} should read"):
            d.c.circle(x, y, 8, "page", "ink", 1.6)
            d.c.text(x - 28, y + 4, f"{ct.place.channel} {ct.place.leg}", 11, "end")
        tip = 1 if ct.place.arrow == "toward house" else -1
        d.c.path([(x - 17, y - 7 * tip), (x - 17, y + 7 * tip)], "ink", 1.4)
        d.c.path([(x - 21, y + 2 * tip), (x - 17, y + 8 * tip), (x - 13, y + 2 * tip)], "ink", 1.4)


def main_board(d: Diagram) -> None:
    """The main board with the grid breaker and its bus, or the words that there is none."""
    if d.at.main_y is None:
        d.c.text(WIDTH - 6, 12, "no grid" if not d.plan.house.joins_grid else "no main board chosen", 12, "end", "pencil")
        return
    (left, right), (top, bottom), grid = d.at.boards, d.at.main_y, d.at.rows["grid"]
    bus, rating = right - 16, d.plan.figures.get("in.site.busbar_a")
    service(d, bus, top)
    named = d.box(left, right, top, bottom, "Main board", rating, left=True)
    main = d.plan.job.site.service_main_a
    with d.opening(d.plan.figures.get("in.site.service_main_a"), "Main device"):
        d.c.text(left + 8, named + 15, "main " + (quantity(main, "A") if main else "?"), 11, mono=True)
    through = d.at.rows.get("through") if d.at.style == "manual" else None
    d.wire([(bus, named + 20), (bus, through or grid)], "main-board", rating)
    # The breaker sits in the board: the run ends at it, the busbar begins.
    d.wire([(left + 38, grid), (bus, grid)], "main-board", rating)
    sized = d.sized("grid")
    d.switch(left + 24, grid, "grid-breaker", "Grid breaker", sized.device if sized else None, ground="white")
    if through is not None:
        d.wire([(left, through), (bus, through)], "main-board", d.conductor("through"))
        run_label(d, "through", d.at.transfer[1], through)
    if d.plan.circuits.busbar_sum and d.plan.circuits.busbar_limit:
        with d.opening(d.plan.circuits.busbar_sum, "Busbar rule"):
            d.c.text(left + 8, bottom - 20, f"bus {figure_text(d.plan.circuits.busbar_sum)}", 11, "start", "pencil", mono=True)
            d.c.text(left + 8, bottom - 7, f"of {figure_text(d.plan.circuits.busbar_limit)}", 11, "start", "pencil", mono=True)


def run_label(d: Diagram, circuit: str, x: float, y: float) -> None:
    """Cores and label of a run that leaves a box at its right edge."""
    d.cores(circuit, x + 6, y)
    d.label(circuit, x + 10, y)


def sub_board(d: Diagram) -> None:
    """The backed-up board, and the bypass to it where there is one."""
    (left, right), (top, bottom), load = d.at.boards, d.at.sub_y, d.at.rows["backup"]
    own, around = d.plan.seats.board("backed-up"), bypass(d.plan)
    title = (own.thing.title if own is not None and len(d.plan.house.whole.boards) > 1 else "") or "Backed-up board"
    named = d.box(left, right, top, bottom, title, d.card("sub_board", "main_device_a"), left=True)
    bus = right - 16
    coupled = d.at.rows.get("pv-ac")
    first = named + 8 if around != "none" else load
    d.wire([(bus, max(load, coupled or load)), (bus, load), (left + 38, load)], "backed-up-board", d.plan.loads.running_total)
    sized = d.sized("backup")
    rating = sized.device if sized else None
    d.switch(left + 24, load, "sub-main", "Backed-up board's main", rating, ground="white")
    on_it = d.plan.house.loads_on((own,)) if own is not None else []
    d.c.text(left + 8, load + 46, f"{len(on_it)} circuits", 11, ink="pencil")
    boards_behind(d, d.at.boards, d.at.sub_y[1])
    if around != "none" and d.at.main_y is not None:
        middle = (d.at.main_y[1] + top) / 2
        grid = d.at.rows["grid"]
        d.wire([(bus, grid), (bus, middle - 8)], "main-board")
        d.wire([(bus, middle + 8), (bus, first), (bus, load)], "backed-up-board")
        closed = d.live is None or "bypass" in d.closed
        d.c.rect(bus - 5, middle - 12, 10, 24, "page", None)
        d.c.line(bus, middle + 8, bus if closed else bus - 9, middle - 8 if closed else middle - 5, "ink", 2.4)
        for dy in (-8, 8):
            d.c.circle(bus, middle + dy, 2.2, "ink", None)
        locked = around == "interlocked"
        d.c.text(bus - 14, middle - 3, "bypass,", 11, "end", "ink" if locked else "oxide", bold=not locked)
        d.c.text(
            bus - 14, middle + 11, "interlocked" if locked else "no interlock", 11, "end", "ink" if locked else "oxide", bold=not locked
        )
        if d.live is not None:
            d.c.text(bus - 14, middle + 25, "closed" if closed else "open", 11, "end", "pencil")


def boards_behind(d: Diagram, columns: tuple[float, float], y: float) -> None:
    """The boards that stand behind the backed-up board, each with the run from it."""
    (left, right), house, first = columns, d.plan.house, d.plan.seats.board("backed-up")
    for board in behind(d.plan):
        cid, bus, node = f"feeder-{board.id}", right - 16, board_node(house, board.id)
        ahead = board_node(house, first.id) if first is not None else ""
        pulled, sized = d.conductor(cid), d.sized(cid)
        d.wire([(bus, y), (bus, y + 24)], ahead, pulled)
        d.wire([(bus, y + 24), (bus, y + 56)], node, pulled)
        closed = d.live is None or cid in d.closed
        d.c.rect(bus - 4, y + 14, 8, 20, "page", None)
        d.c.line(bus, y + 34, bus if closed else bus - 9, y + 14 if closed else y + 17, "ink", 2.4)
        with d.opening(pulled, f"Feed of {board.id}"):
            words = figure_text(pulled) if pulled else "not sized"
            d.c.text(bus - 12, y + 20, words, 12, "end", "ink" if pulled else "ochre", mono=True, bold=True)
        d.callout(cid, left + 14, y + 21)
        if sized is not None and sized.device is not None:
            with d.opening(sized.device, f"Breaker of {board.id}"):
                d.c.text(bus - 12, y + 34, quantity(sized.device.value, "A"), 11, "end", mono=True)
        d.box(left, right, y + 42, y + BEHIND, board.name, d.plan.figures.get(f"card.{board.card.id}.busbar_a"), left=True)
        d.c.text(left + 8, y + BEHIND - 8, f"{len(house.loads_on((board,)))} circuits", 11, ink="pencil")
        y += BEHIND


def runs(d: Diagram) -> None:
    """The AC runs between inverter, transfer equipment and boards."""
    at, rows = d.at, d.at.rows
    out, board = at.inverter[1], at.boards[0]
    load, grid = rows["backup"], rows.get("grid")
    if at.style == "gateway":
        rated = d.card("transfer", "rated_a")
        d.wire([(out, rows["through"]), (at.transfer[0], rows["through"])], "inverter-load", d.conductor("through"))
        run_label(d, "through", out, rows["through"])
        _transfer_box(d, "Gateway", rated)
        if grid is not None:
            d.wire([(at.transfer[1], grid), (board + 10, grid)], "inverter-grid", d.conductor("grid"))
            run_label(d, "grid", at.transfer[1], grid)
        d.wire([(at.transfer[1], load), (board + 10, load)], "inverter-load", d.conductor("backup"))
        run_label(d, "backup", at.transfer[1], load)
        return
    if grid is not None:
        d.wire([(out, grid), (board + 10, grid)], "inverter-grid", d.conductor("grid"))
        run_label(d, "grid", out, grid)
    if at.style == "manual":
        d.wire([(out, load), (at.transfer[0], load)], "inverter-load", d.conductor("inverter-out"))
        run_label(d, "inverter-out", out, load)
        _transfer_box(d, "Transfer switch", d.card("transfer", "rated_a"))
        if "through" in rows and grid is not None:
            d.wire([(at.transfer[1], rows["through"]), (board, rows["through"])], "main-board", d.conductor("through"))
        d.wire([(at.transfer[1], load), (board + 10, load)], "inverter-load", d.conductor("backup"))
        run_label(d, "backup", at.transfer[1], load)
        return
    d.wire([(out, load), (board + 10, load)], "inverter-load", d.conductor("backup"))
    run_label(d, "backup", out, load)


def _transfer_box(d: Diagram, title: str, rated: Figure | None) -> None:
    (left, right), (top, bottom) = d.at.transfer, d.at.transfer_y
    named = d.box(left, right, top, bottom, title, rated)
    if rated is not None:
        with d.opening(rated, title):
            d.c.text((left + right) / 2, named + 17, figure_text(rated), 12, "middle", mono=True)

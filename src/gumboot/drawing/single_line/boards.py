"""The rows on the inverter's right: service, main board, transfer equipment, backed-up board, and the runs between them."""

from __future__ import annotations

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.board import board_node
from gumboot.core.plan.settings import supply_of
from gumboot.core.seats import BoardSeat
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.extra import tag
from gumboot.drawing.single_line.layout import behind, bypass, circuits_on, joined_main
from gumboot.drawing.single_line.measures import AHEAD, BEHIND, FEED, WIDTH


def supply_words(plan: Plan) -> str:
    """What the network brings, as written beside the meter."""
    return f"grid {supply_of(plan.house).removeprefix(plan.house.output).strip()}"


def service(d: Diagram, x: float, top: float) -> None:
    """Meter and CTs on the service conductors, above the main board."""
    service = d.plan.figures.get("in.site.service_main_a")
    d.c.anchor("meter", x, 60)
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
    bus, joined = right - 16, joined_main(d.plan)
    service(d, bus, d.at.ahead[0][1] if d.at.ahead else top)
    for n, (board, y) in enumerate(d.at.ahead):
        following = d.at.ahead[n + 1][0] if n + 1 < len(d.at.ahead) else joined
        main_box(d, board, d.at.boards, (y, y + AHEAD))
        if following is not None:
            main_feed(d, following, d.at.boards, (y + AHEAD, y + AHEAD + FEED))
        tag(d, d.extras, board.id, right - 16, y + AHEAD)
    if joined is None:
        return
    rating, named = main_box(d, joined, d.at.boards, (top, bottom))
    tag(d, d.extras, joined.id, right, bottom)
    through = d.at.rows.get("through") if d.at.style == "manual" else None
    d.wire([(bus, named + 20), (bus, through or grid)], "main-board", rating)
    # The breaker sits in the board: the run ends at it, the busbar begins.
    d.wire([(left + 38, grid), (bus, grid)], "main-board", rating)
    sized = d.sized("grid")
    d.switch(left + 24, grid, "grid-breaker", "Grid breaker", sized.device if sized else None, ground="white")
    if through is not None:
        d.wire([(left, through), (bus, through)], "main-board", d.conductor("through"))
        run_label(d, "through", d.at.transfer[1], through)
    carried, limit = _on_bars(d, joined)
    if carried and limit:
        with d.opening(carried, "Busbar rule"):
            d.c.text(left + 8, bottom - d.at.main_spare - 20, f"bus {figure_text(carried)}", 11, "start", "pencil", mono=True)
            d.c.text(left + 8, bottom - d.at.main_spare - 7, f"of {figure_text(limit)}", 11, "start", "pencil", mono=True)


def _is_first(d: Diagram, board: BoardSeat) -> bool:
    """Whether it is the main board that the survey tells of; another's ratings are those of its card."""
    return board.id == d.plan.seats.mains[0].id


def _on_bars(d: Diagram, board: BoardSeat) -> tuple[Figure | None, Figure | None]:
    """What a main board's bars see, and what they may carry."""
    if _is_first(d, board):
        return d.plan.circuits.busbar_sum, d.plan.circuits.busbar_limit
    return d.plan.figures.get(f"circuits.{board.id}.sum_a"), d.plan.figures.get(f"circuits.{board.id}.limit_a")


def main_box(d: Diagram, board: BoardSeat, columns: tuple[float, float], rows: tuple[float, float]) -> tuple[Figure | None, float]:
    """The box of a main board with its main device. Returns what rates its bars, and where its name ends."""
    (left, right), (top, bottom), first = columns, rows, _is_first(d, board)
    of_card = f"card.{board.card.id}."
    rating = d.plan.figures.get("in.site.busbar_a" if first else f"{of_card}busbar_a")
    title = "Main board" if first and not board.thing.title else board.name
    named = d.box(left, right, top, bottom, title, rating, left=True, thing=board.id)
    main = d.plan.job.site.service_main_a if first else board.card.main_device_a
    with d.opening(d.plan.figures.get("in.site.service_main_a" if first else f"{of_card}main_device_a"), "Main device"):
        d.c.text(left + 8, named + 15, "main " + (quantity(main, "A") if main else "?"), 11, mono=True)
    return rating, named


def main_feed(d: Diagram, board: BoardSeat, columns: tuple[float, float], rows: tuple[float, float]) -> None:
    """The feed between two main boards, from the one above to the one below."""
    (left, right), (top, bottom) = columns, rows
    cid, bus = f"feeder-{board.id}", right - 16
    pulled, sized = d.conductor(cid), d.sized(cid)
    d.wire([(bus, top - 14), (bus, bottom)], "main-board", pulled)
    with d.opening(pulled, f"Feed of {board.name}"):
        words = figure_text(pulled) if pulled else "not sized" if cid in d.plan.house.whole.by_id else "the house's own"
        d.c.text(bus - 12, top + 20, words, 12, "end", "ink" if pulled else "ochre", mono=True, bold=True)
    d.callout(cid, left + 14, top + 25)
    if sized is not None and sized.device is not None:
        with d.opening(sized.device, f"Device of {board.name} in the board ahead"):
            d.c.rect(bus - 5, top + 8, 10, 18, "page", "ink", 1.3)
            d.c.text(bus - 12, top + 34, quantity(sized.device.value, "A"), 11, "end", mono=True)


def run_label(d: Diagram, circuit: str, x: float, y: float) -> None:
    """Cores and label of a run that leaves a box at its right edge."""
    d.cores(circuit, x + 6, y)
    d.label(circuit, x + 10, y)


def sub_board(d: Diagram) -> None:
    """The backed-up board, and the bypass to it where there is one."""
    (left, right), (top, bottom), load = d.at.boards, d.at.sub_y, d.at.rows["backup"]
    own, around = d.plan.seats.board("backed-up"), bypass(d.plan)
    title = (own.thing.title if own is not None and len(d.plan.house.whole.boards) > 1 else "") or "Backed-up board"
    rated = d.card("sub_board", "main_device_a")
    named = d.box(left, right, top, bottom, title, rated, left=True, thing=own.id if own is not None else "")
    bus = right - 16
    coupled = d.at.rows.get("pv-ac")
    first = named + 8 if around != "none" else load
    d.wire([(bus, max(load, coupled or load)), (bus, load), (left + 38, load)], "backed-up-board", d.plan.loads.running_total)
    sized = d.sized("backup")
    rating = sized.device if sized else None
    d.switch(left + 24, load, "sub-main", "Backed-up board's main", rating, ground="white")
    d.c.text(left + 8, load + 46, circuits_on(d.plan, own), 11, ink="pencil")
    if own is not None:
        tag(d, d.extras, own.id, right, bottom)
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
        rated = d.plan.figures.get(f"card.{board.card.id}.busbar_a")
        d.box(left, right, y + 42, y + BEHIND, board.name, rated, left=True, thing=board.id)
        d.c.text(left + 8, y + BEHIND - 8, circuits_on(d.plan, board), 11, ink="pencil")
        tag(d, d.extras, board.id, right, y + BEHIND)
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
    named = d.box(left, right, top, bottom, title, rated, thing=d.plan.seats.transfer.id if d.plan.seats.transfer else "")
    if rated is not None:
        with d.opening(rated, title):
            d.c.text((left + right) / 2, named + 17, figure_text(rated), 12, "middle", mono=True)

"""The diagram of a house with several inverters: every unit drawn, its runs numbered as in the schedule below it."""

from __future__ import annotations

import itertools
from collections.abc import Mapping

from gumboot.core.installation import unit_name
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.board import bars_of, mark_of
from gumboot.core.plan.strings import TrackerPlan
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line.boards import boards_behind, main_box, main_feed, service
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.extra import draw_extras, tag
from gumboot.drawing.single_line.extra_layout import Extra
from gumboot.drawing.single_line.inverter import legend
from gumboot.drawing.single_line.layout import circuit_of, circuits_on, has_grid
from gumboot.drawing.single_line.measures import FEED
from gumboot.drawing.single_line.several_layout import BAR, BOARDS, CELLS, INVERTER, PANEL, SWITCH, Beside, Block, MainBox, Places, lay_out
from gumboot.drawing.single_line.several_transfer import BOARD_ABOVE, BOARD_BELOW, BOX, INV_X, Way, circuits_of, main_of
from gumboot.drawing.svg import Canvas

Points = list[tuple[float, float]]


def ordinals(plan: Plan) -> dict[str, int]:
    """The number of each circuit in drawing and schedule."""
    return {c.id: n for n, c in enumerate(plan.house.whole.circuits, 1)}


class _Several(Diagram):
    def __init__(self, plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> None:
        self.places: Places = lay_out(plan)
        super().__init__(plan, live, closed, self.places.height)
        self.at.legend_y = self.places.legend
        self.numbers = ordinals(plan)

    @property
    def extras(self) -> list[Extra]:
        """The boxes below the diagram."""
        return self.places.extras

    def callout(self, circuit: str, x: float, y: float) -> None:
        """The number of a run on it; it opens the conductor that is pulled."""
        circuit, sized = circuit_of(self.plan, circuit), self.sized(circuit)
        self.c.anchor(circuit, x, y)
        if circuit not in self.numbers:
            return
        with self.opening(sized.installed if sized else None, sized.circuit.title if sized else circuit):
            self.c.circle(x, y, 9.5, "page", "ink" if sized else "ochre", 1.4)
            self.c.text(x, y + 4, str(self.numbers[circuit]), 11, "middle", mono=True, bold=True)


Upright = tuple[float, float, float]


def _uprights(at: Places) -> list[Upright]:
    """Where a run stands upright: its x, and the y of its ends."""
    climbing = [(b.grid_x, b.grid, at.breakers[k]) for k, b in enumerate(at.blocks)]
    return climbing + [(b.load_x, b.load, at.ways[k]) for k, b in enumerate(at.blocks)]


def _level(x1: float, x2: float, y: float, uprights: list[Upright]) -> Points:
    """A level run that hops over what stands upright in its way."""
    found = [(x1, y)]
    for x in sorted(x for x, a, b in uprights if x1 + 1 < x < x2 - 1 and min(a, b) < y < max(a, b)):
        found += [(x - 5, y), (x - 3.5, y - 4), (x, y - 5.5), (x + 3.5, y - 4), (x + 5, y)]
    return [*found, (x2, y)]


def _cells(d: _Several, t: TrackerPlan, y: float) -> None:
    d.c.anchor(t.circuit, CELLS + 23, y)
    d.c.anchor("roof", CELLS + 23, y)
    with d.c.opens(t.cold_v.key, f"{t.name}, {t.modules} modules, cold {figure_text(t.cold_v)}"):
        d.c.path([(CELLS, y + 11), (CELLS + 8, y - 11), (CELLS + 46, y - 11), (CELLS + 38, y + 11)], "ink", 1.5, "cell", closed=True)
        for k in (1, 2, 3):
            d.c.line(CELLS + k * 9.5, y + 11, CELLS + k * 9.5 + 8, y - 11, "pencil", 0.7)
        d.c.text(CELLS, y + 23, f"{t.tracker.id}, {len(t.strings)} × {t.modules}", 11, ink="pencil")


def _bank(d: _Several, bank: BankPlan) -> None:
    """Batteries on the bars of a bank, which reach past all its inverters; none where they stand inside them."""
    rows, plan = [(unit, y) for of, unit, y in d.places.batteries if of is bank], d.plan
    if not rows:
        return
    seat, bus = plan.house.bank(bank.id), bars_of(bank)
    energy = plan.figures.get(f"card.{seat.card.id}.energy_wh")
    box = plan.house.busbar_of(bank.id)
    busbar = plan.figures.get(f"card.{box.card.id}.busbar_a") if box else None
    d.c.anchor("bank", BAR, rows[0][1])
    d.c.anchor(bank.id, BAR, rows[0][1])
    d.c.anchor(box.id if box else "", BAR, rows[0][1])
    for unit, y in rows:
        name = unit_name(unit.id)
        lead = plan.circuits.sized.get(name)
        d.wire([(46, y), (62, y)], f"{unit.id}-cells", lead.installed if lead else None)
        d.wire([(62, y), (BAR, y)], bus, lead.installed if lead else None)
        with d.opening(energy, unit.id):
            d.c.rect(4, y - 11, 42, 22, "white", "ink", 1.4)
            d.c.text(
                25,
                y + 4,
                f"{len(seat.thing.stacks()[0])} ×" if seat.card.in_series else unit.id,
                11,
                "middle",
            )
        d.switch(64, y, unit.id, f"Breaker of {unit.id}", None, words=False)
        if name in d.numbers:
            d.callout(name, 86, y)
    ends = [*(y for _, y in rows), *(b.main for b in d.places.blocks if b.seat in plan.house.on_bank(bank.id))]
    d.wire([(BAR, min(ends) - 10), (BAR, max(ends) + 10)], bus, busbar)
    d.c.text(4, rows[0][1] - 20, "DC busbars" if len(plan.banks) == 1 else bank.id, 11, ink="pencil")
    own = d.sized(unit_name(rows[0][0].id))
    if own is not None and own.device is not None:
        with d.opening(own.device, "Breakers in the batteries"):
            d.c.text(4, rows[-1][1] + 28, f"each {quantity(own.device.value, 'A')}", 11, mono=True)


def _feeding(d: _Several, b: Block) -> None:
    """Strings and battery main of one inverter."""
    m, left = mark_of(d.plan.house, b.seat), INVERTER[0]
    for k, (t, y) in enumerate(b.strings):
        _cells(d, t, y)
        pulled = d.conductor(t.circuit)
        d.wire([(CELLS + 42, y), (SWITCH, y)], f"pv-strings{m}", pulled)
        d.wire([(SWITCH, y), (left, y)], f"inverter-pv{m}", pulled)
        d.cores(t.circuit, CELLS + 58, y)
        d.callout(t.circuit, CELLS + 100, y)
        d.switch(SWITCH, y, f"pv-switch{m}", "PV switch", None, words=False)
        if k == len(b.strings) - 1:
            d.c.text(SWITCH, y + 16, "PV switch", 11, "middle", "pencil")
    circuit = f"bat-main{m}"
    if circuit not in d.numbers:
        return
    pulled, sized = d.conductor(circuit), d.sized(circuit)
    bank = d.plan.bank_at(b.seat)
    d.wire([(BAR, b.main), (SWITCH, b.main)], bars_of(bank), pulled)
    d.wire([(SWITCH, b.main), (left, b.main)], f"inverter-dc{m}", pulled)
    d.cores(circuit, CELLS + 58, b.main)
    d.callout(circuit, CELLS + 100, b.main)
    fused = d.plan.house.switch_fuse_of(b.seat.id)
    if fused is not None:
        d.c.anchor(fused.id, SWITCH, b.main)
        d.c.anchor(f"precharge{m}", SWITCH, b.main)
        d.switch(SWITCH, b.main, f"battery-switch{m}", "Battery switch-fuse", sized.device if sized else None, fuse=True)


def _generator(d: _Several, b: Block) -> None:
    """The generator at the input of its inverter, with its breaker."""
    if not b.generator or not circuit_of(d.plan, "generator-feed"):
        return
    m, y, left, pulled = mark_of(d.plan.house, b.seat), b.generator, INVERTER[0], d.conductor("generator-feed")
    watts, sized = d.card("generator", "power_w"), d.sized("generator-feed")
    d.c.anchor(d.plan.seats.generators[0].id, CELLS + 14, y)
    d.wire([(CELLS + 28, y), (SWITCH, y)], "generator", pulled)
    d.wire([(SWITCH, y), (left, y)], f"inverter-generator{m}", pulled)
    with d.opening(watts, "Generator"):
        d.c.circle(CELLS + 14, y, 13, "page", "ink", 1.8)
        d.c.text(CELLS + 14, y + 5, "G", 13, "middle", bold=True)
    d.cores("generator-feed", CELLS + 50, y)
    d.callout("generator-feed", CELLS + 100, y)
    d.switch(SWITCH, y, "generator-breaker", "Generator breaker", sized.device if sized else None)


def _pv_inverter(d: _Several, beside: Beside, nth: int) -> None:
    """A PV inverter with its strings, and its output to the foot of the backed-up board."""
    (left, right), seat, plan = INVERTER, beside.seat, d.plan
    for t, y in beside.strings:
        _cells(d, t, y)
        d.wire([(CELLS + 42, y), (left, y)], "", d.conductor(t.circuit))
        d.cores(t.circuit, CELLS + 58, y)
        d.callout(t.circuit, CELLS + 100, y)
    watts = plan.figures.get(f"card.{seat.card.id}.output_w")
    d.box(left, right, beside.top, beside.bottom, seat.thing.title or "PV inverter", watts, thing=seat.id)
    circuit = next((c.id for c in plan.circuits.all if c.kind == "pv-ac" and c.owner == seat.id), "")
    if circuit:
        foot = BOARDS[0] + 22 + 18 * nth
        run = [(right, beside.out), (foot, beside.out), (foot, d.places.sub_board[1])]
        d.wire(run, "backed-up-board", d.conductor(circuit))
        d.cores(circuit, right + 30, beside.out)
        d.callout(circuit, right + 80, beside.out)


def _inverter(d: _Several, b: Block) -> None:
    """The box of one inverter with its part in the group."""
    m, (left, right), plan = mark_of(d.plan.house, b.seat), INVERTER, d.plan
    key = f"card.{b.seat.card.id}.output_w"
    y = d.box(left, right, b.top, b.bottom, b.seat.name, plan.figures.get(key), thing=b.seat.id) + 16
    middle, leads = (left + right) / 2, b.seat is plan.house.lead
    d.c.anchor(f"inverter{m}", middle, (b.top + b.bottom) / 2)
    part = "leader" if leads else "follower"
    phase = f", {b.seat.thing.phase}" if b.seat.thing.phase else ""
    y = max(y, b.grid + 20)
    if len(plan.seats.inverters) > 1:
        d.c.text(middle, y, f"{part}{phase}, no. {b.seat.thing.address}", 11, "middle", "pencil")
    amps = plan.bank_at(b.seat).supply.mains[b.seat.id]
    with d.c.opens(amps.key, f"Battery design current {figure_text(amps)}"):
        d.c.text(middle, y + 16, f"battery {figure_text(amps)}", 10, "middle", mono=True)
    allows = b.seat.card.parallel
    bonds = b.seat.card.neutral_bond == "relay" and (leads or (allows is not None and allows.bond == "each"))
    d.c.text(middle, y + 31, "bonds in island" if bonds else "does not bond", 11, "middle", "ink" if bonds else "pencil")
    if d.live is not None:
        d.c.text(middle, b.bottom - 10, "on" if f"inverter{m}" in d.closed else "off", 13, "middle", bold=True)
    d.c.text(right - 5, b.grid - 5, "GRID", 9, "end", "pencil")
    d.c.text(right - 5, b.load - 5, "LOAD", 9, "end", "pencil")


def _climbing(d: _Several, b: Block, breaker: float) -> None:
    """From an inverter's GRID terminals up to its breaker in the main board."""
    m, circuit = mark_of(d.plan.house, b.seat), f"grid{mark_of(d.plan.house, b.seat)}"
    if circuit not in d.numbers:
        return
    over = _uprights(d.places)
    leaving, arriving = _level(INVERTER[1], b.grid_x, b.grid, over), _level(b.grid_x, BOARDS[0] + 12, breaker, over)
    d.wire([*leaving, *arriving], f"inverter-grid{m}", d.conductor(circuit))
    d.cores(circuit, BOARDS[0] - 36, breaker)
    d.callout(circuit, BOARDS[0] - 54, breaker)
    sized = d.sized(circuit)
    d.switch(BOARDS[0] + 26, breaker, f"grid-breaker{m}", "Grid breaker", sized.device if sized else None, ground="white")


def _falling(d: _Several, b: Block, way: float) -> None:
    """From an inverter's LOAD terminals down to its breaker in the combining panel."""
    m = mark_of(d.plan.house, b.seat)
    circuit = f"inverter-out{m}" if f"inverter-out{m}" in d.numbers else f"backup{m}"
    if circuit not in d.numbers:
        return
    over = _uprights(d.places)
    leaving, arriving = _level(INVERTER[1], b.load_x, b.load, over), _level(b.load_x, PANEL[0] + 12, way, over)
    d.wire([*leaving, *arriving], f"inverter-load{m}", d.conductor(circuit))
    d.callout(circuit, PANEL[0] - 14, way)
    sized = d.sized(circuit)
    switch = f"panel-{b.seat.id}"
    d.switch(PANEL[0] + 26, way, switch, f"Panel breaker of {b.seat.name}", sized.device if sized else None, ground="white")


def _panel(d: _Several) -> None:
    """The combining panel's box, its bar and the feed onward."""
    panel = next((p for p in d.plan.seats.boards if p.thing.duty == "combining"), None)
    if panel is None:
        return
    at, total = d.places, d.plan.figures.get(f"circuits.{panel.id}.sum_a")
    d.box(*PANEL, *at.panel, panel.thing.title or "Combining panel", total, thing=panel.id)
    bar = PANEL[1] - 16
    rated = d.plan.figures.get(f"card.{panel.card.id}.busbar_a")
    d.wire([(bar, at.ways[0]), (bar, at.ways[-1])], "panel-bar", rated)
    for way in at.ways:
        d.wire([(PANEL[0] + 40, way), (bar, way)], "panel-bar", rated)
    if total is not None and rated is not None:
        with d.opening(total, "The bar"):
            words = f"bar {figure_text(total)} of {figure_text(rated)}"
            # Runs to transfer equipment leave at the panel's foot.
            if at.transfers:
                d.c.text(PANEL[0] - 4, at.panel[1] - 6, words, 10, "end", "pencil", mono=True)
            else:
                d.c.text((PANEL[0] + PANEL[1]) / 2, at.panel[1] + 14, words, 10, "middle", "pencil", mono=True)


def _onward(d: _Several) -> None:
    """From the panel's bar to the backed-up board."""
    at, pulled = d.places, d.conductor("backup")
    if not circuit_of(d.plan, "backup") or at.transfers:
        return
    d.wire([(PANEL[1] - 16, at.onward), (BOARDS[0] + 12, at.onward)], "panel-bar", pulled)
    d.callout("backup", PANEL[1] + 11, at.onward)
    d.cores("backup", PANEL[1] + 20, at.onward)
    left, right = BOARDS
    sized = d.sized("backup")
    d.wire([(left + 40, at.onward), (right - 16, at.onward)], "backed-up-board", d.plan.loads.running_total)
    d.switch(left + 26, at.onward, "sub-main", "Backed-up board's main", sized.device if sized else None, ground="white")
    d.c.text(left + 8, at.onward + 46, circuits_on(d.plan, d.plan.seats.board("backed-up")), 11, ink="pencil")
    boards_behind(d, BOARDS, at.sub_board[1])


def _transfer(d: _Several, way: Way) -> None:
    """One transfer switch or gateway: fed from the panel and the main board, and the board that it feeds."""
    combined, grid, onward = circuits_of(d.plan, way)
    (left, right), (boards, edge), over = PANEL, BOARDS, [(w.grid_x, w.breaker, w.grid) for w in d.places.transfers]
    rated = d.plan.figures.get(f"card.{way.seat.card.id}.rated_a")
    title = way.seat.thing.title or ("Gateway" if way.seat.card.style == "gateway" else "Transfer switch")
    if combined is not None:
        bar = right - 16
        run = [(bar, d.places.ways[-1]), (bar, d.places.panel[1] + 18), (INV_X, d.places.panel[1] + 18), (INV_X, way.inv), (left, way.inv)]
        d.wire(run, "panel-bar", d.conductor(combined.id))
        d.callout(combined.id, INV_X, way.inv - 14)
    if grid is not None and has_grid(d.plan):
        run = [(boards + 12, way.breaker), (way.grid_x, way.breaker), (way.grid_x, way.grid), (right, way.grid)]
        d.wire(run, "main-board", d.conductor(grid.id))
        d.wire([(boards + 12, way.breaker), (edge - 14, way.breaker)], "main-board", d.conductor(grid.id))
        d.callout(grid.id, boards + 32, way.breaker)
    d.box(left, right, way.top, way.top + BOX, title, rated, thing=way.seat.id)
    if rated is not None:
        d.c.text(left + 5, way.top + BOX - 6, figure_text(rated), 11, mono=True)
    d.c.text(left + 5, way.inv - 4, "INV", 9, ink="pencil")
    d.c.text(right - 5, way.grid - 4, "GRID", 9, "end", "pencil")
    if way.board is None or onward is None:
        return
    switch, node = main_of(d.plan, way)
    pulled, sized = d.conductor(onward.id), d.sized(onward.id)
    if way.board.id != d.plan.house.boards[0].id:
        top, bottom = way.load - BOARD_ABOVE, way.load + BOARD_BELOW
        d.box(
            boards,
            edge,
            top,
            bottom,
            way.board.name,
            d.plan.figures.get(f"card.{way.board.card.id}.main_device_a"),
            left=True,
            thing=way.board.id,
        )
    d.wire(_level(right, boards + 12, way.load, over), "panel-bar", pulled)
    d.callout(onward.id, boards - 2, way.load)
    d.wire([(boards + 40, way.load), (edge - 16, way.load)], node, pulled)
    d.switch(boards + 28, way.load, switch, "Main of the board", sized.device if sized else None, ground="white")
    d.c.text(boards + 8, way.load + 46, circuits_on(d.plan, way.board), 11, ink="pencil")


def _bonds(d: _Several, y: float, right: float) -> None:
    """Neutral and earth bars of the main board, and the bond between them where it stands there."""
    left = BOARDS[0]
    d.c.text(left + 8, y + 3, "N", 11, bold=True)
    d.c.path([(left + 20, y), (right - 50, y)], "pencil", 5)
    d.c.text(left + 8, y + 18, "E", 11, bold=True)
    d.c.path([(left + 20, y + 15), (right - 50, y + 15)], "wire-green", 5)
    if d.plan.job.site.neutral_bond != "none":
        d.c.path([(left + 40, y), (left + 40, y + 15)], "ink", 4)
        d.c.text(right - 44, y + 11, "bond", 11, bold=True)


def _boards(d: _Several) -> None:
    at, plan = d.places, d.plan
    left, right = BOARDS
    for n, box in enumerate(at.mains):
        _main(d, box, is_first=n == 0)
    own = plan.seats.board("backed-up")
    rated = d.card("sub_board", "main_device_a")
    d.box(left, right, *at.sub_board, "Backed-up board", rated, left=True, thing=own.id if own is not None else "")
    if own is not None:
        tag(d, d.extras, own.id, right, at.sub_board[1])


def _main(d: _Several, box: MainBox, *, is_first: bool) -> None:
    """One main board: its supply or its feed, its bars, and a way to each breaker in it."""
    at, (left, right) = d.places, BOARDS
    bus, feeding = right - 14, any(other.fed is box for other in at.mains)
    if is_first:
        service(d, bus, box.top)
    elif box.fed is None:
        d.wire([(bus, box.top - 26), (bus, box.top)], "main-board")
        d.c.text(bus - 8, box.top - 12, "a supply of its own", 11, "end", "pencil")
    rating, _ = main_box(d, box.seat, BOARDS, (box.top, box.bottom))
    lowest = box.rows[-1] if box.rows else box.top + 44
    d.wire([(bus, box.top + 44), (bus, box.bottom if feeding else lowest)], "main-board", rating)
    for row in [b for b in at.breakers if b in box.rows]:
        d.wire([(left + 40, row), (bus, row)], "main-board", rating)
    tag(d, d.extras, box.seat.id, right - 16 if feeding else right, box.bottom)
    if is_first:
        # Bars that feed another board below stand in the way.
        _bonds(d, box.bottom - 30 - box.spare, right - 12 if feeding else right)
    if box.fed is not None:
        main_feed(d, box.seat, (left, right + 2), (box.top - FEED, box.top))


def _no_panel(d: _Several) -> None:
    """Inverters that meet nowhere are told so: nobody takes the box's absence for the drawing's."""
    if not any(b.thing.duty == "combining" for b in d.plan.seats.boards):
        d.c.text(4, d.places.legend - 16, "The inverters meet at no combining panel.", 12, ink="oxide", bold=True)


def _links(d: _Several) -> None:
    """The link between the inverters, and the meter's lead to the leader."""
    blocks, middle = d.places.blocks, (INVERTER[0] + INVERTER[1]) / 2
    for a, b in itertools.pairwise(blocks):
        d.c.line(middle, a.bottom, middle, b.top, "pencil", 1.3, dash="5 3")
        d.c.text(middle + 6, (a.bottom + b.top) / 2 + 4, "link", 10, ink="pencil")
    if d.plan.sensing.cts:
        y = blocks[0].top + 14
        d.c.path([(INVERTER[1], y), (BOARDS[1] - 112, y), (BOARDS[1] - 112, 78)], "pencil", 1.3, dash="5 3")
        d.c.text(INVERTER[1] + 8, y - 5, "CT leads", 10, ink="pencil")


def several(plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> Canvas:
    """The diagram as drawn shapes."""
    d = _Several(plan, live, closed)
    for bank in plan.banks:
        _bank(d, bank)
    _boards(d)
    _panel(d)
    for way in d.places.transfers:
        _transfer(d, way)
    for k, b in enumerate(d.places.blocks):
        _feeding(d, b)
        _generator(d, b)
        _inverter(d, b)
        _climbing(d, b, d.places.breakers[k])
        _falling(d, b, d.places.ways[k])
    _onward(d)
    for nth, beside in enumerate(d.places.beside):
        _pv_inverter(d, beside, nth)
    _links(d)
    draw_extras(d, d.extras)
    _no_panel(d)
    legend(d)
    return d.c

"""The single-line diagram, laid out by the program; the same drawing serves as the live board, on paper and in exchange files."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager, nullcontext
from textwrap import wrap

from markupsafe import Markup

from gumboot.core.card.model import BatteryCard, InverterCard
from gumboot.core.figure import Figure
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import TrackerPlan
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.common.identification import identification
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line_layout import LEFT, SWITCH_X, WIDTH, Layout, has_grid, lay_out
from gumboot.drawing.svg import Canvas, text_width

SOURCE_INK = {
    "battery": "oxide",
    "grid": "blue",
    "PV": "ochre",
    "inverter": "green",
    "grid through the inverter": "blue",
    "generator": "ochre",
    "generator through the inverter": "ochre",
}
COLOUR_INK = {
    "black": "wire-black",
    "red": "wire-red",
    "white": "wire-white",
    "green": "wire-green",
    "green-yellow": "wire-green",
    "brown": "wire-brown",
    "grey": "wire-grey",
    "blue": "wire-blue",
    "dark blue": "wire-dark-blue",
}
ROLE_WORDS = {
    "line1": "L1",
    "line2": "L2",
    "line3": "L3",
    "neutral": "N",
    "earth": "earth",
    "positive": "+",
    "negative": "−",
}
BONDS = {
    "relay": "neutral bond: relay in island",
    "fixed in gateway": "neutral bond: fixed in the gateway",
    "none": "no neutral bond inside",
}


class _Diagram:
    def __init__(self, plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> None:
        self.plan, self.live, self.closed = plan, live, closed
        self.at: Layout = lay_out(plan)
        self.c = Canvas(
            "line",
            WIDTH,
            self.at.height,
            "Single-line diagram" if live is None else "Live board: conductors that are live are drawn heavy and coloured by source",
        )

    def sized(self, circuit: str) -> Sized | None:
        return self.plan.circuits.sized.get(circuit)

    def conductor(self, circuit: str) -> Figure | None:
        """The conductor pulled for a circuit, once it is sized."""
        sized = self.sized(circuit)
        return sized.installed if sized else None

    def card(self, role: str, field: str) -> Figure | None:
        """A figure read off the card in a role, if the plan has read it."""
        return self.plan.figures.get(f"card.{getattr(self.plan.seats, role).id}.{field}")

    def wire(self, points: list[tuple[float, float]], node: str = "", figure: Figure | None = None) -> None:
        """A conductor: heavy and coloured when its node is live, thin otherwise. It opens its circuit's figure."""
        with ExitStack() as stack:
            if figure is not None:
                stack.enter_context(self.c.opens(figure.key, f"{figure.name}: {figure_text(figure)}", "opens wire"))
            source = (self.live or {}).get(node)
            if self.live is None:
                self.c.path(points, "ink", 2.2)
            elif source:
                stack.enter_context(self.c.drawn_for("live", node=node, source=source))
                self.c.path(points, SOURCE_INK.get(source, "oxide"), 5)
            else:
                self.c.path(points, "pencil", 1.2, dash="4 3")
            if figure is not None:
                self.c.grip(points)

    @contextmanager
    def opening(self, figure: Figure | None, words: str) -> Iterator[None]:
        """Opens a figure's working, where the plan has that figure."""
        with self.c.opens(figure.key, f"{words}: {figure_text(figure)}") if figure is not None else nullcontext():
            yield

    def label(self, circuit: str, x: float, y: float) -> None:
        """Size, earth and drop of a circuit above its run; each opens its working."""
        sized = self.sized(circuit)
        if sized is None:
            self.c.text(x, y - 24, "not sized:", 11, ink="ochre")
            self.c.text(x, y - 11, "answer missing", 11, ink="ochre")
            return
        rows = [(sized.installed, f"{sized.circuit.title}", figure_text(sized.installed), 13, "ink", True)]
        if sized.earth is not None:
            rows.append((sized.earth, "Earth conductor", f"earth {figure_text(sized.earth)}", 11, "wire-green", False))
        rows.append((sized.drop_pct, "Drop", f"drop {figure_text(sized.drop_pct)}", 11, "pencil", False))
        for k, (figure, name, words, size, ink, bold) in enumerate(reversed(rows)):
            with self.opening(figure, name):
                self.c.text(x, y - 11 - 13 * k, words, size, ink=ink, mono=True, bold=bold)

    def cores(self, circuit: str, x: float, y: float) -> None:
        """A slanted stroke for each core across a run, in the colour of the local code."""
        found = next((c for c in self.plan.circuits.all if c.id == circuit), None)
        for k, core in enumerate(found.cores if found else ()):
            self.c.line(x + 5 * k, y + 6, x + 5 * k + 5, y - 6, COLOUR_INK[self.colour(core.role)], 2.4)

    def colour(self, role: str) -> str:
        """The local code's colour of a role."""
        rules = book(self.plan.job.rule_book)
        return identification(rules.identification, role).colour

    def switch(
        self,
        x: float,
        y: float,
        switch_id: str,
        title: str,
        rating: Figure | None,
        fuse: bool = False,
        ground: str = "page",
        words: bool = True,
    ) -> None:
        """A switch lying on a run, drawn open or closed; its rating and state stand below."""
        is_closed = self.live is None or switch_id in self.closed
        self.c.rect(x - 15, y - 4, 30, 8, ground, None)
        self.c.line(x - 15, y, x - 10, y, "ink", 1.6)
        self.c.line(x + 10, y, x + 15, y, "ink", 1.6)
        self.c.line(x - 10, y, x + 10 if is_closed else x + 7, y if is_closed else y - 9, "ink", 2.4)
        for dx in (-10, 10):
            self.c.circle(x + dx, y, 2.2, "ink", None)
        if fuse:
            self.c.rect(x - 7, y - 4, 14, 8, "white", "ink", 1.3)
        if not words:
            return
        below = y + 17
        if rating is not None:
            with self.opening(rating, title):
                self.c.text(x, below, quantity(rating.value, "A"), 12, "middle", mono=True, bold=True)
            below += 13
        if self.live is not None:
            self.c.text(x, below, "closed" if is_closed else "open", 11, "middle", "pencil")

    def box(self, x1: float, x2: float, y1: float, y2: float, title: str, figure: Figure | None, left: bool = False) -> float:
        """An enclosure; its name, broken into lines that fit, opens the figure that rates it. Returns where the name ends."""
        self.c.rect(x1, y1, x2 - x1, y2 - y1, "white", "ink", 1.8)
        lines = wrap(title, max(6, int((x2 - x1 - (34 if left else 12)) / text_width("n", 13, bold=True)))) or [title]
        with self.opening(figure, title):
            for k, line in enumerate(lines):
                self.c.text(x1 + 8 if left else (x1 + x2) / 2, y1 + 19 + 15 * k, line, 13, "start" if left else "middle", bold=True)
        return y1 + 19 + 15 * (len(lines) - 1)


def _modules(d: _Diagram, y: float, t: TrackerPlan) -> None:
    x = LEFT
    with d.c.opens(t.cold_v.key, f"{t.name}, {t.modules} modules, cold {figure_text(t.cold_v)}"):
        d.c.path([(x, y + 14), (x + 10, y - 14), (x + 58, y - 14), (x + 48, y + 14)], "ink", 1.6, "cell", closed=True)
        for k in (1, 2, 3):
            d.c.line(x + k * 12, y + 14, x + k * 12 + 10, y - 14, "pencil", 0.7)
        times = f"{len(t.strings)} × " if len(t.strings) > 1 else ""
        d.c.text(x, y + 27, f"{t.name}, {times}{t.modules} modules", 11, ink="pencil")


def _string_rows(d: _Diagram, trackers: list[TrackerPlan], right: float) -> None:
    for k, t in enumerate(trackers):
        cid = t.circuit
        y = d.at.rows[cid]
        _modules(d, y, t)
        d.wire([(LEFT + 53, y), (SWITCH_X, y)], "pv-strings", d.conductor(cid))
        d.wire([(SWITCH_X, y), (right, y)], "inverter-pv", d.conductor(cid))
        d.cores(cid, LEFT + 62, y)
        d.label(cid, LEFT + 84, y)
        # The poles of all strings are one handle: its state is written once, under the last.
        d.switch(SWITCH_X, y, "pv-switch", "PV switch", None, words=k == len(trackers) - 1)
        if k == len(trackers) - 1:
            d.c.text(SWITCH_X - 22, y + 17, "PV switch", 11, "end", "pencil")


def _parallel(d: _Diagram) -> None:
    units, at = d.plan.job.banks[0].units, d.at
    energy, busbar = d.card("battery", "energy_wh"), d.card("busbar_box", "busbar_a")
    bar = 104.0
    tight = len(at.units) > 1 and at.units[1] - at.units[0] < 24
    for k, (unit, y) in enumerate(zip(units, at.units, strict=True)):
        lead = d.conductor(unit.id)
        d.wire([(LEFT + 44, y), (LEFT + 66, y)], f"{unit.id}-cells", lead)
        d.wire([(LEFT + 66, y), (bar, y)], "dc-bus", lead)
        with d.opening(energy, unit.id):
            d.c.rect(LEFT, y - (6 if tight else 11), 44, 12 if tight else 22, "white", "ink", 1.4)
            d.c.text(LEFT + 22, y + 4, unit.id if not tight else str(k + 1), 11 if not tight else 9, "middle")
        own = d.sized(unit.id)
        with d.opening(own.device if own else None, f"Breaker of {unit.id}"):
            d.switch(LEFT + 68, y, unit.id, f"Breaker of {unit.id}", None, words=False)
    d.wire([(bar, at.units[0] - 10), (bar, at.units[-1] + 10)], "dc-bus", busbar)
    d.c.text(LEFT, at.units[0] - 20, "DC busbars", 11, ink="pencil")
    sized, last = d.sized(units[-1].id), at.units[-1]
    if sized is not None:
        with d.opening(sized.installed, "Battery leads"):
            said = f"leads {figure_text(sized.installed)}"
            d.c.text(LEFT, last + 28, said, 11, mono=True)
        if sized.device is not None:
            with d.opening(sized.device, "Breakers of the batteries"):
                d.c.text(
                    LEFT + text_width(said, 11, mono=True) + 12, last + 28, f"breakers {quantity(sized.device.value, 'A')}", 11, mono=True
                )
        words = [f"drop {figure_text(sized.drop_pct)}"]
        if sized.earth is not None:
            words.insert(0, f"earth {figure_text(sized.earth)}")
        with d.opening(sized.drop_pct, "Drop along a lead"):
            d.c.text(LEFT, last + 42, ", ".join(words), 11, ink="pencil", mono=True)


def _column(d: _Diagram, y: float) -> None:
    """A stack, blocks in series, or one battery: drawn as a column with what it holds."""
    card, units = d.plan.seats.battery, d.plan.job.banks[0].units
    if not isinstance(card, BatteryCard):
        raise TypeError(f"{card.id} is no battery card")
    rows = len(units) if card.in_series else 1
    h, top = min(18.0, 64.0 / rows), y - 30
    for k in range(rows):
        d.c.rect(LEFT, top + k * h, 62, h, "white", "ink", 1.3)
    volts = d.plan.figures.get("bank.nominal_v") or d.card("battery", "nominal_v")
    kind = {"stack": "modules, stacked", "blocks": "blocks in series"}.get(card.arrangement, "")
    below = max(top + rows * h, y + 20) + 15
    with d.opening(volts, card.title):
        words = f"{len(units)} {kind}" if card.in_series else units[0].id
        d.c.text(LEFT, below, f"{words}, {figure_text(volts)}" if volts else words, 11)
    links = d.sized("interlinks")
    if links is not None:
        with d.opening(links.installed, "Links between the blocks"):
            d.c.text(LEFT, below + 14, f"links {figure_text(links.installed)}", 11, ink="pencil", mono=True)
    d.wire([(LEFT + 62, y), (LEFT + 84, y)], f"{units[0].id}-cells", d.conductor("bat-main"))
    fused = bool(d.plan.seats.switch_fuse)
    main = d.sized("bat-main")
    d.wire([(LEFT + 84, y), (SWITCH_X, y)], "dc-bus" if fused else "inverter-dc", d.conductor("bat-main"))
    d.switch(LEFT + 86, y, units[0].id, "Battery's own switch", None if fused or main is None else main.device)


def _battery(d: _Diagram) -> None:
    y, right = d.at.rows.get("bat-main"), d.at.inverter[0]
    if y is None:
        return
    main, boxed = d.sized("bat-main"), bool(d.plan.seats.busbar_box)
    if boxed:
        _parallel(d)
        d.wire([(104, y), (SWITCH_X, y)], "dc-bus" if d.plan.seats.switch_fuse else "inverter-dc", d.conductor("bat-main"))
    else:
        _column(d, y)
    d.wire([(SWITCH_X, y), (right, y)], "inverter-dc", d.conductor("bat-main"))
    start = 112.0 if boxed else 106.0
    d.cores("bat-main", start, y)
    d.label("bat-main", start + 4, y)
    if d.plan.seats.switch_fuse:
        d.switch(SWITCH_X, y, "battery-switch", "Battery switch-fuse", main.device if main else None, fuse=True)


def _generator(d: _Diagram) -> None:
    y = d.at.rows.get("generator-feed")
    if y is None:
        return
    sized, watts = d.sized("generator-feed"), d.card("generator", "power_w")
    d.wire([(LEFT + 28, y), (SWITCH_X, y)], "generator", d.conductor("generator-feed"))
    d.wire([(SWITCH_X, y), (d.at.inverter[0], y)], "inverter-generator", d.conductor("generator-feed"))
    with d.opening(watts, "Generator"):
        d.c.circle(LEFT + 14, y, 14, "page", "ink", 1.8)
        d.c.text(LEFT + 14, y + 5, "G", 13, "middle", bold=True)
        d.c.text(LEFT, y + 29, f"generator {figure_text(watts)}" if watts else "generator", 11, ink="pencil")
    d.cores("generator-feed", LEFT + 40, y)
    d.label("generator-feed", LEFT + 74, y)
    d.switch(SWITCH_X, y, "generator-breaker", "Generator breaker", sized.device if sized else None)


def supply_words(plan: Plan) -> str:
    """What the network brings, as written beside the meter."""
    inverter = plan.seats.inverter
    if not isinstance(inverter, InverterCard):
        raise TypeError(f"{inverter.id} is no inverter card")
    volts = f"{inverter.leg_v:g}/{inverter.output_v:g} V" if inverter.output != "single phase" else f"{inverter.output_v:g} V"
    return f"grid {volts}"


def _service(d: _Diagram, x: float, top: float) -> None:
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


def _main_board(d: _Diagram) -> None:
    if d.at.main_y is None:
        d.c.text(WIDTH - 6, 12, "no grid" if d.plan.job.site.supply == "none" else "no main board chosen", 12, "end", "pencil")
        return
    (left, right), (top, bottom), grid = d.at.boards, d.at.main_y, d.at.rows["grid"]
    bus, rating = right - 16, d.plan.figures.get("in.site.busbar_a")
    _service(d, bus, top)
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
        _run_label(d, "through", d.at.transfer[1], through)
    if d.plan.circuits.busbar_sum and d.plan.circuits.busbar_limit:
        with d.opening(d.plan.circuits.busbar_sum, "Busbar rule"):
            d.c.text(left + 8, bottom - 20, f"bus {figure_text(d.plan.circuits.busbar_sum)}", 11, "start", "pencil", mono=True)
            d.c.text(left + 8, bottom - 7, f"of {figure_text(d.plan.circuits.busbar_limit)}", 11, "start", "pencil", mono=True)


def _run_label(d: _Diagram, circuit: str, x: float, y: float) -> None:
    """Cores and label of a run that leaves a box at its right edge."""
    d.cores(circuit, x + 6, y)
    d.label(circuit, x + 10, y)


def _sub_board(d: _Diagram) -> None:
    (left, right), (top, bottom), load, job = d.at.boards, d.at.sub_y, d.at.rows["backup"], d.plan.job
    named = d.box(left, right, top, bottom, "Backed-up board", d.card("sub_board", "main_device_a"), left=True)
    bus = right - 16
    coupled = d.at.rows.get("pv-ac")
    first = named + 8 if job.backup.bypass != "none" else load
    d.wire([(bus, max(load, coupled or load)), (bus, load), (left + 38, load)], "backed-up-board", d.plan.loads.running_total)
    sized = d.sized("backup")
    rating = sized.device if sized else None
    d.switch(left + 24, load, "sub-main", "Backed-up board's main", rating, ground="white")
    d.c.text(left + 8, load + 46, f"{sum(x.side == 'backed' for x in job.loads)} circuits", 11, ink="pencil")
    if job.backup.bypass != "none" and d.at.main_y is not None:
        middle = (d.at.main_y[1] + top) / 2
        grid = d.at.rows["grid"]
        d.wire([(bus, grid), (bus, middle - 8)], "main-board")
        d.wire([(bus, middle + 8), (bus, first), (bus, load)], "backed-up-board")
        closed = d.live is None or "bypass" in d.closed
        d.c.rect(bus - 5, middle - 12, 10, 24, "page", None)
        d.c.line(bus, middle + 8, bus if closed else bus - 9, middle - 8 if closed else middle - 5, "ink", 2.4)
        for dy in (-8, 8):
            d.c.circle(bus, middle + dy, 2.2, "ink", None)
        locked = job.backup.bypass == "interlocked"
        d.c.text(bus - 14, middle - 3, "bypass,", 11, "end", "ink" if locked else "oxide", bold=not locked)
        d.c.text(
            bus - 14, middle + 11, "interlocked" if locked else "no interlock", 11, "end", "ink" if locked else "oxide", bold=not locked
        )
        if d.live is not None:
            d.c.text(bus - 14, middle + 25, "closed" if closed else "open", 11, "end", "pencil")


def _runs(d: _Diagram) -> None:
    """The AC runs between inverter, transfer equipment and boards."""
    at, rows = d.at, d.at.rows
    out, board = at.inverter[1], at.boards[0]
    load, grid = rows["backup"], rows.get("grid")
    if at.style == "gateway":
        rated = d.card("transfer", "rated_a")
        d.wire([(out, rows["through"]), (at.transfer[0], rows["through"])], "inverter-load", d.conductor("through"))
        _run_label(d, "through", out, rows["through"])
        _transfer_box(d, "Gateway", rated)
        if grid is not None:
            d.wire([(at.transfer[1], grid), (board + 10, grid)], "inverter-grid", d.conductor("grid"))
            _run_label(d, "grid", at.transfer[1], grid)
        d.wire([(at.transfer[1], load), (board + 10, load)], "inverter-load", d.conductor("backup"))
        _run_label(d, "backup", at.transfer[1], load)
        return
    if grid is not None:
        d.wire([(out, grid), (board + 10, grid)], "inverter-grid", d.conductor("grid"))
        _run_label(d, "grid", out, grid)
    if at.style == "manual":
        d.wire([(out, load), (at.transfer[0], load)], "inverter-load", d.conductor("inverter-out"))
        _run_label(d, "inverter-out", out, load)
        _transfer_box(d, "Transfer switch", d.card("transfer", "rated_a"))
        if "through" in rows and grid is not None:
            d.wire([(at.transfer[1], rows["through"]), (board, rows["through"])], "main-board", d.conductor("through"))
        d.wire([(at.transfer[1], load), (board + 10, load)], "inverter-load", d.conductor("backup"))
        _run_label(d, "backup", at.transfer[1], load)
        return
    d.wire([(out, load), (board + 10, load)], "inverter-load", d.conductor("backup"))
    _run_label(d, "backup", out, load)


def _transfer_box(d: _Diagram, title: str, rated: Figure | None) -> None:
    (left, right), (top, bottom) = d.at.transfer, d.at.transfer_y
    named = d.box(left, right, top, bottom, title, rated)
    if rated is not None:
        with d.opening(rated, title):
            d.c.text((left + right) / 2, named + 17, figure_text(rated), 12, "middle", mono=True)


def _coupled(d: _Diagram) -> None:
    """A grid-tied PV inverter on the backed-up board, with its strings, on a row of its own."""
    y = d.at.rows.get("pv-ac")
    if y is None:
        return
    left, right = d.at.inverter
    _string_rows(d, d.at.coupled, left)
    last = max([y, *(d.at.rows[t.circuit] for t in d.at.coupled)])
    watts, sized = d.card("pv_inverter", "output_w"), d.sized("pv-ac")
    named = d.box(left, right, y - 24, last + 24, "PV inverter", watts)
    if watts:
        d.c.text((left + right) / 2, named + 16, figure_text(watts), 12, "middle", mono=True)
    board, bus = d.at.boards[0], d.at.boards[1] - 16
    d.wire([(right, y), (board, y)], "backed-up-board", d.conductor("pv-ac"))
    d.wire([(board, y), (bus, y)], "backed-up-board", d.conductor("pv-ac"))
    _run_label(d, "pv-ac", right, y)
    if sized and sized.device:
        with d.opening(sized.device, "PV breaker"):
            d.c.rect(board + 14, y - 5, 22, 10, "white", "ink", 1.3)
            d.c.text(board + 25, y + 17, figure_text(sized.device), 12, "middle", mono=True, bold=True)


def _inverter(d: _Diagram) -> None:
    inverter, supply = d.plan.seats.inverter, d.plan.bank.supply
    if not isinstance(inverter, InverterCard):
        raise TypeError(f"{inverter.id} is no inverter card")
    (left, right), (top, bottom) = d.at.inverter, d.at.inverter_y
    y = d.box(left, right, top, bottom, inverter.title, d.card("inverter", "output_w")) + 22
    middle = (left + right) / 2
    if "bat-main" not in d.at.rows:
        n = len(d.plan.job.banks[0].units)
        with d.c.opens("bank.usable", "Usable energy of the batteries inside"):
            d.c.text(middle, y, f"{n} batter{'ies' if n > 1 else 'y'} inside", 12, "middle")
        y += 17
    with d.c.opens(supply.design_a.key, f"Battery design current {figure_text(supply.design_a)}"):
        d.c.text(middle, y, f"battery {figure_text(supply.design_a)}", 12, "middle", mono=True)
    for k, line in enumerate(wrap(BONDS[inverter.neutral_bond], int((right - left - 8) / text_width("n", 11)))):
        d.c.text(middle, y + 18 + 14 * k, line, 11, "middle", "pencil")
        last = y + 18 + 14 * k
    if d.live is not None:
        d.c.text(middle, last + 20, "on" if "inverter" in d.closed else "off", 13, "middle", bold=True)


def _legend(d: _Diagram) -> None:
    """The local code's colours of the cores that this drawing shows."""
    y, x = d.at.legend_y, LEFT
    roles = dict.fromkeys(core.role for c in d.plan.circuits.all for core in c.cores)
    order = [r for r in ROLE_WORDS if r in roles]
    words = f"cores, {book(d.plan.job.rule_book).title}:"
    d.c.text(x, y, words, 11, ink="pencil")
    x += text_width(words, 11) + 14
    for role in order:
        colour = self_words(d.colour(role))
        d.c.line(x, y + 2, x + 6, y - 9, COLOUR_INK[d.colour(role)], 2.8)
        said = f"{ROLE_WORDS[role]} {colour}"
        d.c.text(x + 11, y, said, 11)
        x += 11 + text_width(said, 11) + 16


def self_words(colour: str) -> str:
    """A colour as a person says it."""
    return colour.replace("-", " and ")


def canvas(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Canvas:
    """The diagram as drawn shapes."""
    d = _Diagram(plan, live, closed)
    if d.at.own:
        _string_rows(d, d.at.own, d.at.inverter[0])
    _battery(d)
    _generator(d)
    _runs(d)
    _inverter(d)
    _main_board(d)
    _sub_board(d)
    if has_grid(plan):
        # Lines into a board stand on its ground: drawn again where the board's ground covered their ends.
        d.wire([(d.at.boards[0], d.at.rows["grid"]), (d.at.boards[0] + 10, d.at.rows["grid"])], "inverter-grid", d.conductor("grid"))
    d.wire([(d.at.boards[0], d.at.rows["backup"]), (d.at.boards[0] + 10, d.at.rows["backup"])], "inverter-load", d.conductor("backup"))
    _coupled(d)
    _legend(d)
    return d.c


def single_line(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Markup:
    """The diagram; with ``live`` it shows which conductors a set of closed switches makes live."""
    return canvas(plan, live, closed).render()

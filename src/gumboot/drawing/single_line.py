"""The single-line diagram, laid out from the plan; the same drawing serves as the live board."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import ExitStack, nullcontext
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sizing import Sized
from gumboot.core.plan.strings import TrackerPlan
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.svg import Canvas


@dataclass(frozen=True)
class Frame:
    """Left edge of the inverter, where the battery main rises into it, where its fuse sits, and the trackers on it."""

    left: float
    riser: float
    fuse_x: float
    trackers: list[TrackerPlan]


SOURCE_INK = {
    "battery": "oxide",
    "grid": "blue",
    "PV": "ochre",
    "inverter": "green",
    "grid through the inverter": "blue",
    "generator": "ochre",
    "generator through the inverter": "ochre",
}


class _Diagram:
    def __init__(self, plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> None:
        self.plan, self.live, self.closed = plan, live, closed
        self.c = Canvas(
            "line",
            728,
            470,
            "Single-line diagram" if live is None else "Live board: conductors that are live are drawn heavy and coloured by source",
        )

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

    def conductor(self, circuit: str) -> Figure | None:
        """The conductor pulled for a circuit, once it is sized."""
        sized = self.plan.circuits.sized.get(circuit)
        return sized.installed if sized else None

    def card(self, role: str, field: str) -> Figure | None:
        """A figure read off the card in a role, if the plan has read it."""
        return self.plan.figures.get(f"card.{getattr(self.plan.job.equipment, role)}.{field}")

    def label(self, sized: Sized | None, x: float, y: float, anchor: str = "start") -> None:
        """Size, earth and drop of a circuit; opens the working of the conductor."""
        if sized is None:
            self.c.text(x, y, "not sized: an answer is missing", 11, anchor, "ochre")
            return
        with self.c.opens(sized.installed.key, f"{sized.circuit.title}: {sized.size}"):
            self.c.text(x, y, figure_text(sized.installed), 13, anchor, mono=True, bold=True)
        if sized.earth is not None:
            with self.c.opens(sized.earth.key, f"Earth conductor {sized.earth_size}"):
                self.c.text(x, y + 18, f"earth {figure_text(sized.earth)}", 11, anchor, "wire-green", mono=True)
        with self.c.opens(sized.drop_pct.key, f"Drop {figure_text(sized.drop_pct)}"):
            self.c.text(x, y + (31 if sized.earth else 18), f"drop {figure_text(sized.drop_pct)}", 11, anchor, "pencil", mono=True)

    def switch(
        self,
        x: float,
        y: float,
        switch_id: str,
        title: str,
        sized: Sized | None = None,
        upright: bool = False,
        fuse: bool = False,
        ground: str = "page",
    ) -> None:
        """A switch drawn open or closed, with its device rating."""
        is_closed = self.live is None or switch_id in self.closed
        self.c.rect(x - (5 if upright else 16), y - (16 if upright else 5), 10 if upright else 32, 32 if upright else 10, ground, None)
        if upright:
            self.c.line(x, y - 16, x, y - 10, "ink", 1.6)
            self.c.line(x, y + 10, x, y + 16, "ink", 1.6)
            self.c.line(x, y + 10, x if is_closed else x + 11, y - 10 if is_closed else y - 6, "ink", 2.4)
        else:
            self.c.line(x - 16, y, x - 11, y, "ink", 1.6)
            self.c.line(x + 11, y, x + 16, y, "ink", 1.6)
            self.c.line(x - 11, y, x + 11, y if is_closed else y - 11, "ink", 2.4)
        for dx, dy in ((0, -10), (0, 10)) if upright else ((-11, 0), (11, 0)):
            self.c.circle(x + dx, y + dy, 2.2, "ink", None)
        if fuse:
            self.c.rect(x - 7, y - 4, 14, 8, "white", "ink", 1.3)
        tx, ty, anchor = (x + 20, y - 3, "start") if upright else (x, y - 18, "middle")
        if sized and sized.device:
            with self.c.opens(sized.device.key, f"{title}: {figure_text(sized.device)}"):
                self.c.text(tx, ty, quantity(sized.device.value, "A"), 12, anchor, mono=True, bold=True)
        if self.live is not None and title:
            self.c.text(tx, ty + 13 if upright else y + 22, "closed" if is_closed else "open", 11, anchor, "pencil")

    def box(self, x: float, y: float, w: float, h: float, title: str, figure: Figure | None, at: str = "middle") -> None:
        """An enclosure; its name opens the figure that rates it."""
        self.c.rect(x, y, w, h, "white", "ink", 1.8)
        with ExitStack() as stack:
            if figure is not None:
                stack.enter_context(self.c.opens(figure.key, f"{title}, {figure.name}: {figure_text(figure)}"))
            self.c.text(x + (w / 2 if at == "middle" else 10), y + 19, title, 13, at, bold=True)


def _frame(plan: Plan) -> Frame:
    """Where the inverter and its neighbours stand: moved left when transfer equipment stands between it and the boards."""
    left = 112.0 if plan.job.equipment.transfer else 212.0
    fuse_x = left + (0 if plan.job.equipment.generator else 78)
    return Frame(left, left + 120, fuse_x, [t for t in (plan.strings.trackers if plan.strings else ()) if t.place == "inverter"])


def _modules(d: _Diagram, x: float, y: float, t: TrackerPlan, words: bool = True) -> None:
    with d.c.opens(t.cold_v.key, f"{t.tracker.id}, {t.modules} modules, cold {figure_text(t.cold_v)}"):
        d.c.path([(x, y + 22), (x + 12, y - 8), (x + 64, y - 8), (x + 52, y + 22)], "ink", 1.6, "cell", closed=True)
        for k in (1, 2, 3):
            d.c.line(x + k * 13 + 2, y + 22, x + k * 13 + 13, y - 8, "pencil", 0.7)
        if words:
            d.c.text(x, y + 36, f"{t.tracker.id}, {t.modules} modules", 11, ink="pencil")


def _pv(d: _Diagram, f: Frame) -> None:
    for i, t in enumerate(f.trackers):
        x, y, port = 20.0, 24.0 + i * 66, f.left + 24.0 + (len(f.trackers) - 1 - i) * 34
        cid = f"pv-{t.tracker.id.lower()}"
        _modules(d, x, y, t)
        # The lowest string turns down first, so that no two runs cross.
        d.wire([(x + 60, y + 8), (port, y + 8), (port, 158)], "pv-strings", d.conductor(cid))
        d.wire([(port, 158), (port, 196)], "inverter-pv", d.conductor(cid))
        d.label(d.plan.circuits.sized.get(cid), min(port - 86, 132), y + 3) if port > 190 else d.label(
            d.plan.circuits.sized.get(cid), port + 8, y + 3
        )
    for i in reversed(range(len(f.trackers))):
        # The two poles are one handle: its state is written once.
        last = i == len(f.trackers) - 1
        d.switch(f.left + 24 + i * 34, 158, "pv-switch", "PV switch" if last else "", upright=True)
    if f.trackers:
        d.c.text(f.left + 10, 162, "PV switch", 11, "end", "pencil")


def _battery_symbol(d: _Diagram, x: float, y: float, words: str) -> None:
    d.c.line(x - 12, y, x + 12, y, "ink", 2)
    d.c.line(x - 6, y + 6, x + 6, y + 6, "ink", 4)
    d.c.text(x - 16, y + 19, words, 11, "start")


def _parallel(d: _Diagram, f: Frame) -> None:
    units, n, bus_y = d.plan.job.bank.units, len(d.plan.job.bank.units), 352.0
    pitch = min(72.0, (f.fuse_x - 60) / n)
    energy, busbar = d.card("battery", "energy_wh"), d.card("busbar_box", "busbar_a")
    for i, unit in enumerate(units):
        x = 42 + i * pitch
        lead = d.conductor(unit.id)
        d.wire([(x, 430), (x, 396)], f"{unit.id}-cells", lead)
        d.wire([(x, 396), (x, bus_y)], "dc-bus", lead)
        with d.c.opens(energy.key, f"{unit.id}: {figure_text(energy)}") if energy else nullcontext():
            _battery_symbol(d, x, 430, unit.id if pitch >= 40 else str(i + 1))
        sized = d.plan.circuits.sized.get(unit.id)
        said = pitch >= 60 or i == n - 1
        d.switch(x, 396, unit.id, f"Breaker of {unit.id}" if said else "", sized if said else None, upright=True)
        if sized and i == n - 1:
            d.label(sized, x + 24, 427)
    d.wire([(22, bus_y), (42 + n * pitch - 10, bus_y)], "dc-bus", busbar)
    d.wire([(32 + (n - 1) * pitch, bus_y), (f.fuse_x, bus_y)], "dc-bus", d.conductor("bat-main"))
    d.c.text(22, bus_y - 8, "DC busbars", 11, ink="pencil")


def _single(d: _Diagram, f: Frame) -> None:
    """A stack, blocks in series, or one battery: drawn as a column with what it holds."""
    card, units = d.plan.shelf[d.plan.job.equipment.battery], d.plan.job.bank.units
    n, fused = len(units), bool(d.plan.job.equipment.switch_fuse)
    series, top = getattr(card, "in_series", False), d.plan.figures.get("bank.nominal_v") or d.card("battery", "nominal_v")
    rows = n if series else 1
    h = min(22.0, 84.0 / rows)
    for k in range(rows):
        d.c.rect(36, 436 - (k + 1) * h, 76, h, "white", "ink", 1.3)
    kind = {"stack": "modules, stacked", "blocks": "blocks in series"}.get(getattr(card, "arrangement", ""), "")
    with d.c.opens(top.key, f"{card.title}: {figure_text(top)}") if top else nullcontext():
        d.c.text(122, 400, f"{n} {kind}" if series else units[0].id, 12, bold=True)
        d.c.text(122, 416, figure_text(top) if top else "", 12, mono=True)
    if "interlinks" in d.plan.circuits.sized:
        links = d.plan.circuits.sized["interlinks"]
        with d.c.opens(links.installed.key, f"Links between the blocks: {links.size}"):
            d.c.text(122, 432, f"links {figure_text(links.installed)}", 11, ink="pencil", mono=True)
    node = "dc-bus" if fused else "inverter-dc"
    d.wire([(74, 436 - rows * h), (74, 352)], f"{units[0].id}-cells", d.conductor("bat-main"))
    d.wire([(74, 352), (f.fuse_x, 352)], node, d.conductor("bat-main"))
    d.switch(124, 352, units[0].id, "Battery's own switch", None if fused else d.plan.circuits.sized.get("bat-main"))


def _battery(d: _Diagram, f: Frame) -> None:
    main = d.plan.circuits.sized.get("bat-main")
    if not any(c.id == "bat-main" for c in d.plan.circuits.all):
        n = len(d.plan.job.bank.units)
        with d.c.opens("bank.usable", "Usable energy of the batteries inside"):
            d.c.text(f.left + 104, 300, f"{n} batter{'ies' if n > 1 else 'y'} inside", 12, "middle", "pencil")
        return
    if d.plan.job.equipment.busbar_box:
        _parallel(d, f)
    else:
        _single(d, f)
    if d.plan.job.equipment.switch_fuse:
        d.wire([(f.fuse_x, 352), (f.riser, 352), (f.riser, 282)], "inverter-dc", d.conductor("bat-main"))
        d.switch(f.fuse_x, 352, "battery-switch", "Battery switch-fuse", main, fuse=True)
    else:
        d.wire([(f.fuse_x, 352), (f.riser, 352), (f.riser, 282)], "inverter-dc", d.conductor("bat-main"))
    if d.plan.job.equipment.generator:
        d.label(main, f.riser - 12, 302, "end")
    else:
        d.label(main, f.riser + 12, 312)


def _supply_words(plan: Plan) -> str:
    inverter = plan.shelf[plan.job.equipment.inverter]
    volts = f"{inverter.leg_v:g}/{inverter.output_v:g} V" if inverter.output != "single phase" else f"{inverter.output_v:g} V"  # type: ignore[union-attr]
    return f"grid {volts}"


def _grid(d: _Diagram, f: Frame) -> None:
    if d.plan.job.site.supply == "none":
        d.c.text(716, 20, "no grid", 12, "end", "pencil")
        return
    sized, transfer = d.plan.circuits.sized.get("grid"), d.plan.job.equipment.transfer
    d.box(548, 172, 176, 112, "Main board", d.plan.figures.get("in.site.busbar_a"), "start")
    start = 516.0 if _gateway(d.plan) else f.left + 208
    d.wire([(start, 228), (574, 228)], "inverter-grid", d.conductor("grid"))
    service = d.plan.figures.get("in.site.service_main_a")
    d.wire([(700, 228), (590, 228)], "main-board", d.plan.figures.get("in.site.busbar_a"))
    d.switch(574, 228, "grid-breaker", "Grid breaker", sized, ground="white")
    if transfer:
        d.label(sized, 726, 132, "end")
    else:
        d.label(sized, f.left + 218, 222)
    d.wire([(640, 228), (640, 60)], "main-board", service)
    if d.plan.circuits.busbar_sum and d.plan.circuits.busbar_limit:
        with d.c.opens(d.plan.circuits.busbar_sum.key, "Busbar rule"):
            words = f"busbar {figure_text(d.plan.circuits.busbar_sum)} of {figure_text(d.plan.circuits.busbar_limit)}"
            d.c.text(716, 274, words, 11, "end", "pencil", mono=True)
    d.c.text(648, 200, "main " + (quantity(d.plan.job.site.service_main_a, "A") if d.plan.job.site.service_main_a else "?"), 11, mono=True)
    for k, ct in enumerate(d.plan.sensing.cts):
        y = 104 + k * 26
        with d.c.opens(ct.expected.key, f"{ct.place.channel} should read {figure_text(ct.expected)}"):
            d.c.circle(640, y, 8, "page", "ink", 1.6)
            d.c.text(654, y + 4, f"{ct.place.channel} {ct.place.leg}", 11)
        tip = 1 if ct.place.arrow == "toward house" else -1
        d.c.path([(624, y - 7 * tip), (624, y + 7 * tip)], "ink", 1.4)
        d.c.path([(620, y + 2 * tip), (624, y + 8 * tip), (628, y + 2 * tip)], "ink", 1.4)
    with d.c.opens(service.key, f"Meter; main device {figure_text(service)}") if service else nullcontext():
        d.c.circle(640, 48, 13, "page", "ink", 1.8)
        d.c.text(640, 53, "kWh", 10, "middle")
    d.wire([(640, 35), (640, 12)], "main-board", service)
    d.c.text(626, 20, _supply_words(d.plan), 12, "end")


def _gateway(plan: Plan) -> bool:
    card = plan.shelf[plan.job.equipment.transfer] if plan.job.equipment.transfer else None
    return card is not None and getattr(card, "style", "") == "gateway"


def _transfer(d: _Diagram, f: Frame) -> None:
    """The gateway or transfer switch between the inverter and the boards."""
    right = f.left + 208
    rated = d.card("transfer", "rated_a")
    if _gateway(d.plan):
        d.wire([(right, 228), (424, 228)], "inverter-load", d.conductor("through"))
        d.label(d.plan.circuits.sized.get("through"), right + 12, 222)
        d.box(424, 182, 92, 100, "Gateway", rated)
        if rated:
            d.c.text(470, 222, figure_text(rated), 12, "middle", mono=True)
        d.wire([(470, 282), (470, 300), (512, 300), (512, 330)], "inverter-load", d.conductor("backup"))
        return
    d.box(424, 250, 112, 62, "Transfer", rated)
    if rated:
        d.c.text(480, 288, figure_text(rated), 12, "middle", mono=True)
    d.wire([(right, 268), (424, 268)], "inverter-load", d.conductor("inverter-out"))
    d.label(d.plan.circuits.sized.get("inverter-out"), right + 12, 262)
    d.wire([(572, 284), (572, 296), (536, 296)], "main-board", d.conductor("through"))
    d.label(d.plan.circuits.sized.get("through"), 584, 306)
    d.wire([(512, 312), (512, 330)], "inverter-load", d.conductor("backup"))


def _backup(d: _Diagram, f: Frame) -> None:
    sized, job = d.plan.circuits.sized.get("backup"), d.plan.job
    d.box(500, 360, 168, 78, "Backed-up board", d.card("sub_board", "main_device_a"))
    if job.equipment.transfer:
        _transfer(d, f)
    elif job.equipment.generator:
        d.wire([(f.left + 208, 268), (512, 268), (512, 330)], "inverter-load", d.conductor("backup"))
    else:
        d.wire([(400, 282), (400, 300), (512, 300), (512, 330)], "inverter-load", d.conductor("backup"))
    d.wire([(512, 340), (512, 408), (650, 408)], "backed-up-board", d.plan.loads.running_total)
    d.switch(512, 336, "sub-main", "Backed-up board's main", None if job.equipment.transfer else sized, upright=True)
    if job.equipment.transfer:
        if _gateway(d.plan):
            d.label(sized, 534 if d.live is None else 568, 326)
        else:
            d.label(sized, 500, 328, "end")
    else:
        d.label(sized, 580, 312)
    d.c.text(584, 426, f"{sum(x.side == 'backed' for x in job.loads)} circuits", 11, "middle", "pencil")
    if job.backup.bypass != "none":
        d.wire([(690, 284), (690, 318)], "main-board")
        d.wire([(690, 338), (690, 408), (650, 408)], "backed-up-board")
        d.switch(690, 328, "bypass", "Bypass", upright=True)
        locked = job.backup.bypass == "interlocked"
        d.c.text(
            684, 299, "bypass, interlocked" if locked else "bypass, no interlock", 11, "end", "ink" if locked else "oxide", bold=not locked
        )


def _generator(d: _Diagram, f: Frame) -> None:
    if not d.plan.job.equipment.generator:
        return
    x, sized = f.left + 198, d.plan.circuits.sized.get("generator-feed")
    d.wire([(x, 282), (x, 350)], "inverter-generator", d.conductor("generator-feed"))
    d.wire([(x, 350), (x, 412)], "generator", d.conductor("generator-feed"))
    d.switch(x, 350, "generator-breaker", "Generator breaker", sized, upright=True)
    watts = d.card("generator", "power_w")
    with d.c.opens(watts.key, f"Generator {figure_text(watts)}") if watts else nullcontext():
        d.c.circle(x, 424, 13, "page", "ink", 1.8)
        d.c.text(x, 429, "G", 12, "middle", bold=True)
        d.c.text(x + 20, 428, figure_text(watts) if watts else "", 11, mono=True)
    d.label(sized, x + 10, 384)


def _coupled(d: _Diagram) -> None:
    """A grid-tied PV inverter on the backed-up board, with its strings."""
    if not d.plan.job.equipment.pv_inverter:
        return
    strings = [t for t in (d.plan.strings.trackers if d.plan.strings else ()) if t.place == "pv-inverter"]
    for t in strings[:1]:
        cid = f"pv-{t.tracker.id.lower()}"
        _modules(d, 336, 322, t, words=False)
        d.wire([(368, 344), (368, 362)], "pv-strings", d.conductor(cid))
        d.wire([(368, 374), (368, 392)], "inverter-pv", d.conductor(cid))
        d.switch(368, 368, "pv-switch", "PV switch", upright=True)
        d.label(d.plan.circuits.sized.get(cid), 410, 322)
        d.c.text(410, 369, f"{t.tracker.id}, {t.modules} modules", 11, ink="pencil")
    sized, watts = d.plan.circuits.sized.get("pv-ac"), d.card("pv_inverter", "output_w")
    d.box(330, 392, 108, 48, "PV inverter", watts)
    if watts:
        d.c.text(384, 430, figure_text(watts), 12, "middle", mono=True)
    d.wire([(438, 412), (500, 412)], "backed-up-board", d.conductor("pv-ac"))
    if sized and sized.device:
        with d.c.opens(sized.device.key, f"PV breaker: {figure_text(sized.device)}"):
            d.c.text(469, 402, figure_text(sized.device), 11, "middle", mono=True)
    d.label(sized, 444, 430)


BONDS = {
    "relay": "neutral bond: relay in island",
    "fixed in gateway": "neutral bond: fixed in the gateway",
    "none": "no neutral bond inside",
}


def single_line(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Markup:
    """The diagram; with ``live`` it shows which conductors a set of closed switches makes live."""
    d, f = _Diagram(plan, live, closed), _frame(plan)
    _pv(d, f)
    _coupled(d)
    _battery(d, f)
    inverter = plan.shelf[plan.job.equipment.inverter]
    d.box(f.left, 196, 208, 86, inverter.title, d.card("inverter", "output_w"))
    supply = plan.bank.supply
    middle = f.left + 104
    with d.c.opens(supply.design_a.key, f"Battery design current {figure_text(supply.design_a)}"):
        d.c.text(middle, 240, f"battery {figure_text(supply.design_a)}", 12, "middle", mono=True)
    d.c.text(middle, 258, BONDS[inverter.neutral_bond], 11, "middle", "pencil")  # type: ignore[union-attr]
    if live is not None:
        d.c.text(middle, 275, "on" if "inverter" in closed else "off", 12, "middle", bold=True)
    _grid(d, f)
    _backup(d, f)
    _generator(d, f)
    return d.c.render()

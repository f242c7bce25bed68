"""The single-line diagram, laid out from the plan; the same drawing serves as the live board."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import ExitStack, nullcontext

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.sizing import Sized
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.svg import Canvas

SOURCE_INK = {"battery": "oxide", "grid": "blue", "PV": "ochre", "inverter": "green", "grid through the inverter": "blue"}


class _Diagram:
    def __init__(self, plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str]) -> None:
        self.plan, self.live, self.closed = plan, live, closed
        self.c = Canvas(
            "line",
            728,
            464,
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
            self.c.text(x, y, sized.size, 13, anchor, mono=True, bold=True)
        with self.c.opens(sized.earth.key, f"Earth conductor {sized.earth_size}"):
            self.c.text(x, y + 18, f"earth {sized.earth_size}", 11, anchor, "wire-green", mono=True)
        with self.c.opens(sized.drop_pct.key, f"Drop {figure_text(sized.drop_pct)}"):
            self.c.text(x, y + 31, f"drop {figure_text(sized.drop_pct)}", 11, anchor, "pencil", mono=True)

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


def _pv(d: _Diagram) -> None:
    trackers = d.plan.strings.trackers if d.plan.strings else ()
    for i, t in enumerate(trackers):
        x, y, port = 20.0, 24.0 + i * 66, 236.0 + i * 34
        conductor = d.conductor(f"pv-{t.tracker.id.lower()}")
        with d.c.opens(t.cold_v.key, f"{t.tracker.id}, {t.modules} modules, cold {figure_text(t.cold_v)}"):
            d.c.path([(x, y + 22), (x + 12, y - 8), (x + 64, y - 8), (x + 52, y + 22)], "ink", 1.6, "cell", closed=True)
            for k in (1, 2, 3):
                d.c.line(x + k * 13 + 2, y + 22, x + k * 13 + 13, y - 8, "pencil", 0.7)
            d.c.text(x, y + 36, f"{t.tracker.id}, {t.modules} modules", 11, ink="pencil")
        d.wire([(x + 60, y + 8), (port, y + 8), (port, 158)], "pv-strings", conductor)
        d.wire([(port, 158), (port, 196)], "inverter-pv", conductor)
        d.label(d.plan.circuits.sized.get(f"pv-{t.tracker.id.lower()}"), 132, y + 3)
    for i in reversed(range(len(trackers))):
        # The two poles are one handle: its state is written once.
        d.switch(236 + i * 34, 158, "pv-switch", "PV switch" if i == len(trackers) - 1 else "", upright=True)
    if trackers:
        d.c.text(222, 162, "PV switch", 11, "end", "pencil")


def _battery(d: _Diagram) -> None:
    units = d.plan.job.bank.units
    n = len(units)
    pitch = min(72.0, 230.0 / n)
    bus_y = 352.0
    energy, busbar = d.card("battery", "energy_wh"), d.card("busbar_box", "busbar_a")
    for i, unit in enumerate(units):
        x = 42 + i * pitch
        lead = d.conductor(unit.id)
        d.wire([(x, 430), (x, 396)], f"{unit.id}-cells", lead)
        d.wire([(x, 396), (x, bus_y)], "dc-bus", lead)
        with d.c.opens(energy.key, f"{unit.id}: {figure_text(energy)}") if energy else nullcontext():
            d.c.line(x - 12, 430, x + 12, 430, "ink", 2)
            d.c.line(x - 6, 436, x + 6, 436, "ink", 4)
            d.c.text(x - 16, 449, unit.id, 11, "start")
        sized = d.plan.circuits.sized.get(unit.id)
        d.switch(x, 396, unit.id, f"Breaker of {unit.id}", sized, upright=True)
        if sized and i == n - 1:
            d.label(sized, x + 24, 427)
    d.wire([(22, bus_y), (42 + n * pitch - 10, bus_y)], "dc-bus", busbar)
    main = d.plan.circuits.sized.get("bat-main")
    d.wire([(42 + n * pitch - 40, bus_y), (290, bus_y)], "dc-bus", d.conductor("bat-main"))
    d.c.text(22, bus_y - 8, "DC busbars", 11, ink="pencil")
    d.wire([(290, bus_y), (332, bus_y), (332, 282)], "inverter-dc", d.conductor("bat-main"))
    d.switch(290, bus_y, "battery-switch", "Battery switch-fuse", main, fuse=True)
    d.label(main, 346, 312)


def _grid(d: _Diagram) -> None:
    sized = d.plan.circuits.sized.get("grid")
    d.box(548, 172, 176, 112, "Main board", d.plan.figures.get("in.site.busbar_a"), "start")
    d.wire([(420, 228), (574, 228)], "inverter-grid", d.conductor("grid"))
    service = d.plan.figures.get("in.site.service_main_a")
    d.wire([(700, 228), (590, 228)], "main-board", d.plan.figures.get("in.site.busbar_a"))
    d.switch(574, 228, "grid-breaker", "Grid breaker", sized, ground="white")
    d.label(sized, 430, 222)
    d.wire([(640, 228), (640, 60)], "main-board", service)
    if d.plan.circuits.busbar_sum:
        with d.c.opens(d.plan.circuits.busbar_sum.key, "Busbar rule"):
            d.c.text(
                716,
                274,
                f"busbar {figure_text(d.plan.circuits.busbar_sum)} of {figure_text(d.plan.circuits.busbar_limit)}"
                if d.plan.circuits.busbar_limit
                else "",
                11,
                "end",
                "pencil",
                mono=True,
            )
    d.c.text(648, 200, "main " + (quantity(d.plan.job.site.service_main_a, "A") if d.plan.job.site.service_main_a else "?"), 11, mono=True)
    for k, ct in enumerate(d.plan.sensing.cts):
        y = 116 + k * 26
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
    d.c.text(626, 20, "grid 120/240 V", 12, "end")


def _backup(d: _Diagram) -> None:
    sized = d.plan.circuits.sized.get("backup")
    d.box(500, 360, 168, 78, "Backed-up board", d.card("sub_board", "main_device_a"))
    d.wire([(400, 282), (400, 300), (512, 300), (512, 330)], "inverter-load", d.conductor("backup"))
    d.wire([(512, 340), (512, 408), (650, 408)], "backed-up-board", d.plan.loads.running_total)
    d.switch(512, 336, "sub-main", "Backed-up board's main", sized, upright=True)
    d.label(sized, 580, 312)
    d.c.text(584, 426, f"{sum(x.side == 'backed' for x in d.plan.job.loads)} circuits", 11, "middle", "pencil")
    if d.plan.job.backup.bypass != "none":
        d.wire([(690, 284), (690, 318)], "main-board")
        d.wire([(690, 338), (690, 408), (650, 408)], "backed-up-board")
        d.switch(690, 328, "bypass", "Bypass", upright=True)
        locked = d.plan.job.backup.bypass == "interlocked"
        d.c.text(
            684, 299, "bypass, interlocked" if locked else "bypass, no interlock", 11, "end", "ink" if locked else "oxide", bold=not locked
        )


def single_line(plan: Plan, live: Mapping[str, str] | None = None, closed: frozenset[str] = frozenset()) -> Markup:
    """The diagram; with ``live`` it shows which conductors a set of closed switches makes live."""
    d = _Diagram(plan, live, closed)
    _pv(d)
    _battery(d)
    inverter = plan.shelf[plan.job.equipment.inverter]
    d.box(212, 196, 208, 86, inverter.title, d.card("inverter", "output_w"))
    supply = plan.bank.supply
    with d.c.opens(supply.design_a.key, f"Battery design current {figure_text(supply.design_a)}"):
        d.c.text(316, 240, f"battery {figure_text(supply.design_a)}", 12, "middle", mono=True)
    d.c.text(316, 258, "neutral bond: relay in island", 11, "middle", "pencil")
    if live is not None:
        d.c.text(316, 275, "on" if "inverter" in closed else "off", 12, "middle", bold=True)
    _grid(d)
    _backup(d)
    return d.c.render()

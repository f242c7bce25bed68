"""The rows on the inverter's left: strings, batteries, generator."""

from __future__ import annotations

from gumboot.core.plan.connection.generator import generator_mark
from gumboot.core.plan.strings import TrackerPlan
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.measures import LEFT, SWITCH_X
from gumboot.drawing.svg import text_width


def modules(d: Diagram, y: float, t: TrackerPlan) -> None:
    """The modules of a string, drawn as they tilt."""
    x = LEFT
    d.c.anchor(t.circuit, x + 30, y)
    d.c.anchor("roof", x + 30, y)
    with d.c.opens(t.cold_v.key, f"{t.name}, {t.modules} modules, cold {figure_text(t.cold_v)}"):
        d.c.path([(x, y + 14), (x + 10, y - 14), (x + 58, y - 14), (x + 48, y + 14)], "ink", 1.6, "cell", closed=True)
        for k in (1, 2, 3):
            d.c.line(x + k * 12, y + 14, x + k * 12 + 10, y - 14, "pencil", 0.7)
        times = f"{len(t.strings)} × " if len(t.strings) > 1 else ""
        d.c.text(x, y + 27, f"{t.name}, {times}{t.modules} modules", 11, ink="pencil")


def string_rows(d: Diagram, trackers: list[TrackerPlan], right: float) -> None:
    """A row for each string of one inverter."""
    for k, t in enumerate(trackers):
        cid = t.circuit
        y = d.at.rows[cid]
        modules(d, y, t)
        d.wire([(LEFT + 53, y), (SWITCH_X, y)], "pv-strings", d.conductor(cid))
        d.wire([(SWITCH_X, y), (right, y)], "inverter-pv", d.conductor(cid))
        d.cores(cid, LEFT + 62, y)
        d.label(cid, LEFT + 84, y)
        # The poles of all strings are one handle: its state is written once, under the last.
        d.switch(SWITCH_X, y, "pv-switch", "PV switch", None, words=k == len(trackers) - 1)
        if k == len(trackers) - 1:
            d.c.text(SWITCH_X - 22, y + 17, "PV switch", 11, "end", "pencil")


def _parallel(d: Diagram) -> None:
    at, units = d.at, d.plan.house.heads(d.plan.banks[0].id)
    energy, busbar = d.card("battery", "energy_wh"), d.card("busbar_box", "busbar_a")
    bar = 104.0
    box = d.plan.house.busbar_of(d.plan.banks[0].id)
    d.c.anchor(box.id if box else "", bar, at.rows["bat-main"])
    d.c.anchor("bank", LEFT + 44, at.rows["bat-main"])
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
            several = f"{sized.run.sets} × " if sized.run.sets > 1 else ""
            said = f"leads {several}{figure_text(sized.installed)}"
            d.c.text(LEFT, last + 28, said, 11, mono=True)
        if sized.device is not None:
            what = "fuses" if d.plan.seats.battery.arrangement == "blocks" else "breakers"
            with d.opening(sized.device, f"{what.capitalize()} of the batteries"):
                d.c.text(
                    LEFT + text_width(said, 11, mono=True) + 12, last + 28, f"{what} {quantity(sized.device.value, 'A')}", 11, mono=True
                )
        words = [f"drop {figure_text(sized.drop_pct)}"]
        if sized.earth is not None:
            words.insert(0, f"earth {figure_text(sized.earth)}")
        with d.opening(sized.drop_pct, "Drop along a lead"):
            d.c.text(LEFT, last + 42, ", ".join(words), 11, ink="pencil", mono=True)


def _column(d: Diagram, y: float) -> None:
    """A stack, blocks in series, or one battery: drawn as a column with what it holds."""
    seat = d.plan.house.bank(d.plan.banks[0].id)
    card, units = seat.card, seat.thing.units
    rows = len(units) if card.in_series else 1
    h, top = min(18.0, 64.0 / rows), y - 30
    d.c.anchor("bank", LEFT + 31, y)
    for unit in units:
        d.c.anchor(unit.id, LEFT + 31, y)
    for k in range(rows):
        d.c.rect(LEFT, top + k * h, 62, h, "white", "ink", 1.3)
    volts = d.plan.figures.get(d.plan.banks[0].key("bank.nominal_v")) or d.card("battery", "nominal_v")
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


def battery(d: Diagram) -> None:
    """The bank with its main."""
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
        fused = d.plan.house.switch_fuse_of(d.plan.house.lead.id)
        d.c.anchor(fused.id if fused else "", SWITCH_X, y)
        d.c.anchor(d.named("precharge"), SWITCH_X, y)
        d.switch(SWITCH_X, y, "battery-switch", "Battery switch-fuse", main.device if main else None, fuse=True)


def generator(d: Diagram) -> None:
    """The generator with its breaker."""
    y = d.at.rows.get("generator-feed")
    if y is None:
        return
    sized, watts = d.sized("generator-feed"), d.card("generator", "power_w")
    d.c.anchor(d.plan.seats.generators[0].id, LEFT + 14, y)
    d.wire([(LEFT + 28, y), (SWITCH_X, y)], "generator", d.conductor("generator-feed"))
    d.wire([(SWITCH_X, y), (d.at.inverter[0], y)], "inverter-generator", d.conductor("generator-feed"))
    with d.opening(watts, "Generator"):
        d.c.circle(LEFT + 14, y, 14, "page", "ink", 1.8)
        d.c.text(LEFT + 14, y + 5, "G", 13, "middle", bold=True)
        d.c.text(LEFT, y + 29, f"generator {figure_text(watts)}" if watts else "generator", 11, ink="pencil")
    here = d.plan.figures.get(f"circuits.generator_here{generator_mark(d.plan.house, d.plan.seats.generators[0], 0)}")
    if here is not None and watts is not None and here.value < watts.value:
        with d.opening(here, "Generator at this altitude and in summer"):
            d.c.text(LEFT, y + 43, f"{figure_text(here)} here in summer", 11, ink="pencil")
    d.cores("generator-feed", LEFT + 40, y)
    d.label("generator-feed", LEFT + 74, y)
    d.switch(SWITCH_X, y, "generator-breaker", "Generator breaker", sized.device if sized else None)

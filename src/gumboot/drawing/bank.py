"""The parallel bank with its leads, and the chain of links from cell to inverter."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.plan.derive import Plan
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Canvas


def _battery(c: Canvas, x: float, y: float, w: float, h: float, title: str) -> None:
    c.rect(x, y, w, h, "white", "ink", 1.6)
    for k in range(4):
        c.line(x + 8, y + h - 12 - k * 9, x + w - 8, y + h - 12 - k * 9, "rule", 1)
    c.text(x + w / 2, y + 40, title, 13, "middle", bold=True)
    c.text(x + w * 0.3, y + 16, "+", 13, "middle")
    c.text(x + w * 0.7, y + 16, "−", 13, "middle")


def bank_drawing(plan: Plan) -> Markup:
    """Batteries, leads, busbars, switch-fuse and inverter, with what each carries."""
    units = plan.job.bank.units
    c = Canvas("bank", 728, 236, "The battery bank with its leads, busbars and fuse")
    w, gap = min(96.0, (430 - 12 * len(units)) / len(units)), 16.0
    bar_right = 24 + len(units) * (w + gap)
    c.line(10, 44, bar_right, 44, "wire-red", 6)
    c.line(10, 66, bar_right, 66, "wire-black", 6)
    c.text(10, 32, f"busbars {figure_text(plan.figures['card.' + plan.job.equipment.busbar_box + '.busbar_a'])}", 11, ink="pencil")
    for i, unit in enumerate(units):
        x = 16 + i * (w + gap)
        sized = plan.circuits.sized.get(unit.id)
        c.line(x + w * 0.3, 44, x + w * 0.3, 124, "wire-red", 3)
        c.line(x + w * 0.7, 66, x + w * 0.7, 124, "wire-black", 3)
        _battery(c, x, 124, w, 96, unit.id)
        if sized:
            with c.opens(sized.installed.key, f"Lead of {unit.id}: {sized.size}"):
                c.rect(x + w * 0.5 - 28, 84, 56, 30, "page", None)
                c.text(x + w * 0.5, 97, sized.size, 11, "middle", mono=True)
                c.text(x + w * 0.5, 110, figure_text(sized.length, plan.job.preferences.units), 11, "middle", "pencil", mono=True)
    fx = bar_right + 40
    c.line(bar_right, 44, fx, 44, "wire-red", 4)
    with c.opens(plan.figures["bank.fuse_continuous"].given[0].key, "Fuse rating"):
        c.rect(fx, 28, 72, 32, "white", "ink", 1.6)
        c.line(fx + 14, 44, fx + 58, 44, "ink", 1.4)
        c.rect(fx + 24, 38, 24, 12, "white", "ink", 1.4)
        c.text(fx + 36, 22, figure_text(plan.figures["bank.fuse_continuous"].given[0]), 12, "middle", mono=True)
    c.line(fx + 72, 44, 620, 44, "wire-red", 4)
    c.line(bar_right, 66, 620, 66, "wire-black", 4)
    main = plan.circuits.sized.get("bat-main")
    if main:
        with c.opens(main.installed.key, f"Main leads {main.size}"):
            c.text((fx + 72 + 620) / 2, 36, main.size, 12, "middle", mono=True)
    c.rect(620, 24, 104, 78, "white", "ink", 1.8)
    c.text(672, 52, "Inverter", 13, "middle", bold=True)
    design = plan.bank.supply.design_a
    with c.opens(design.key, f"Design current {figure_text(design)}"):
        c.text(672, 72, figure_text(design), 13, "middle", mono=True, bold=True)
        c.text(672, 88, "at full output", 11, "middle", "pencil")
    notes = (
        (plan.bank.supply.fault_a, "fault current at the busbars"),
        (plan.bank.precharge_s, "pre-charge at least"),
        (plan.bank.supply.usable, "usable at the cells"),
        (plan.bank.supply.delivered, "delivered on the AC side"),
    )
    for k, (figure, words) in enumerate(notes):
        y = 136 + k * 24
        with c.opens(figure.key, f"{words}: {figure_text(figure)}"):
            c.text(560, y, figure_text(figure), 14, "end", mono=True, bold=True)
            c.text(570, y, words, 12, ink="pencil")
    return c.render()


def chain_drawing(plan: Plan) -> Markup:
    """Links from cell to inverter; the weakest is drawn thin and ochre."""
    chain = plan.bank.chain
    c = Canvas("chain", 728, 104, "The weakest link from cell to inverter")
    pitch = 728 / len(chain)
    most = max(link.amps.value for link in chain)
    short = plan.bank.weakest.amps.value < plan.bank.supply.design_a.value
    for i, link in enumerate(chain):
        x = i * pitch
        weak = link is plan.bank.weakest
        half = 6 + 16 * link.amps.value / most
        with c.opens(link.amps.key, f"{link.title}: {figure_text(link.amps)}"):
            c.rect(
                x + 4,
                34 - half,
                pitch - 10,
                2 * half,
                ("oxide-wash" if short else "ochre-wash") if weak else "wash",
                ("oxide" if short else "ochre") if weak else "green",
                2,
                r=half,
            )
            c.text(x + pitch / 2 - 1, 39, figure_text(link.amps), 14, "middle", mono=True, bold=True)
            c.text(x + pitch / 2 - 1, 76, link.title, 12, "middle")
        if weak:
            c.text(x + pitch / 2 - 1, 94, "weakest", 12, "middle", "oxide" if short else "ochre", bold=True)
    return c.render()

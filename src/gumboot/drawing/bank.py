"""The parallel bank with its leads, and the chain of links from cell to inverter."""

from __future__ import annotations

from markupsafe import Markup

from gumboot.core.installation import main_name, unit_name
from gumboot.core.plan.bank import BankPlan
from gumboot.core.plan.derive import Plan
from gumboot.core.rules.bank import weakest_link
from gumboot.core.seats import BusbarSeat
from gumboot.drawing.show import figure_text
from gumboot.drawing.svg import Canvas

MAIN_PITCH = 56.0


def _battery(c: Canvas, x: float, y: float, w: float, h: float, title: str) -> None:
    c.rect(x, y, w, h, "white", "ink", 1.6)
    for k in range(4):
        c.line(x + 8, y + h - 12 - k * 9, x + w - 8, y + h - 12 - k * 9, "rule", 1)
    c.text(x + w / 2, y + 40, title, 13, "middle", bold=True)
    c.text(x + w * 0.3, y + 16, "+", 13, "middle")
    c.text(x + w * 0.7, y + 16, "−", 13, "middle")


def _units(c: Canvas, plan: Plan, bank: BankPlan, box: BusbarSeat) -> float:
    """Batteries side by side on busbars, with leads; returns where the busbars end."""
    units, thing = plan.house.heads(bank.id), plan.house.bank(bank.id).thing
    w, gap = min(96.0, (430 - 12 * len(units)) / len(units)), 16.0
    bar_right = 24 + len(units) * (w + gap)
    c.line(10, 44, bar_right, 44, "wire-red", 6)
    c.line(10, 66, bar_right, 66, "wire-black", 6)
    c.text(10, 32, f"busbars {figure_text(plan.figures[f'card.{box.card.id}.busbar_a'])}", 11, ink="pencil")
    for i, unit in enumerate(units):
        x = 16 + i * (w + gap)
        sized = plan.circuits.sized.get(unit_name(unit.id))
        c.line(x + w * 0.3, 44, x + w * 0.3, 124, "wire-red", 3)
        c.line(x + w * 0.7, 66, x + w * 0.7, 124, "wire-black", 3)
        c.anchor(unit.id, x + w / 2, 150)
        _battery(c, x, 124, w, 96, unit.id if thing.strings == 1 else f"{len(thing.stacks()[0])} × {unit.id}")
        if sized:
            with c.opens(sized.installed.key, f"Lead of {unit.id}: {sized.size}"):
                c.rect(x + w * 0.5 - 28, 84, 56, 30, "page", None)
                c.text(x + w * 0.5, 97, figure_text(sized.installed), 11, "middle", mono=True)
                c.text(x + w * 0.5, 110, figure_text(sized.length, plan.job.preferences.units), 11, "middle", "pencil", mono=True)
        share = next((f for f in bank.shares if f.key == f"bank.share.{unit.id}"), None)
        if share:
            with c.opens(share.key, f"{share.name}: {figure_text(share)}"):
                c.rect(x + w * 0.5 - 26, 196, 52, 16, "white", None)
                c.text(x + w * 0.5, 208, figure_text(share), 12, "middle", mono=True, bold=True)
    return bar_right


def _column(c: Canvas, plan: Plan, bank: BankPlan) -> float:
    """A stack, a row of blocks or one battery, drawn as it stands; returns where its leads end."""
    seat, first = plan.house.bank(bank.id), plan.house.on_bank(bank.id)[0]
    card, units = seat.card, seat.thing.units
    n = len(units)
    if card.arrangement == "blocks":
        w = min(60.0, 340.0 / n)
        for i, unit in enumerate(units):
            x = 16 + i * (w + 6)
            c.anchor(unit.id, x + w / 2, 150)
            c.rect(x, 124, w, 84, "white", "ink", 1.6)
            c.text(x + w / 2, 170, unit.id.removeprefix("bat-"), 13, "middle", bold=True)
            c.text(x + w * 0.25, 140, "+", 12, "middle")
            c.text(x + w * 0.75, 140, "−", 12, "middle")
            if i:
                c.path([(x - 6 - w * 0.25, 124), (x - 6 - w * 0.25, 108), (x + w * 0.25, 108), (x + w * 0.25, 124)], "wire-black", 4)
        right = 16 + n * (w + 6)
        c.path([(16 + w * 0.25, 124), (16 + w * 0.25, 44), (right + 20, 44)], "wire-red", 4)
        c.path([(right - 6 - w * 0.25, 124), (right - 6 - w * 0.25, 66), (right + 20, 66)], "wire-black", 4)
        return right + 20
    h = min(30.0, 150.0 / n)
    for i, unit in enumerate(units):
        y = 216 - (i + 1) * h
        c.anchor(unit.id, 135, y + h / 2)
        c.rect(60, y, 150, h - 1, "white", "ink", 1.4)
        c.text(135, y + h / 2 + 4, unit.id, 12 if h > 18 else 10, "middle", bold=True)
    if card.arrangement == "docked" or first.card.bank_internal:
        c.rect(46, 10, 178, 216, None, "ink", 1.8, r=4)
        c.text(135, 32, first.card.title, 12, "middle", bold=True)
        return 0.0
    top = 216 - n * h
    c.path([(100, top), (100, 44), (300, 44)], "wire-red", 4)
    c.path([(170, top), (170, 66), (300, 66)], "wire-black", 4)
    return 300.0


def bank_drawing(plan: Plan) -> Markup:
    """Every bank."""
    return Markup("").join(bank_of(plan, bank) for bank in plan.banks)


def _name(stem: str, bank: BankPlan) -> tuple[str, str]:
    """What the drawing of a bank is called among others, and the words that tell it apart."""
    return (f"{stem}{bank.mark}", "" if bank.is_first else f", {bank.id}")


def bank_of(plan: Plan, bank: BankPlan) -> Markup:
    """A bank, as the page has it."""
    return bank_canvas(plan, bank).render()


def bank_canvas(plan: Plan, bank: BankPlan) -> Canvas:
    """A bank as it stands, its leads, device and inverters, with what each carries."""
    number, box = len(plan.house.on_bank(bank.id)), plan.house.busbar_of(bank.id)
    below = 136.0 if number == 1 else max(136.0, 40 + MAIN_PITCH * number + 24)
    name, of = _name("bank", bank)
    c = Canvas(name, 728, below + 100, f"The battery bank with its leads and fuse{of}")
    bar_right = _units(c, plan, bank, box) if box else _column(c, plan, bank)
    if bar_right and number == 1:
        _main(c, plan, bank, bar_right)
    elif bar_right:
        _mains(c, plan, bank, bar_right)
    notes = (
        (bank.supply.fault_a, "fault current at " + ("busbars" if box else "terminals")),
        (bank.precharge_s, "pre-charge at least"),
        (bank.supply.usable, "usable at the cells"),
        (bank.supply.delivered, "delivered on the AC side"),
    )
    for k, (figure, words) in enumerate(notes):
        y = below + k * 24
        with c.opens(figure.key, f"{words}: {figure_text(figure)}"):
            c.text(560, y, figure_text(figure), 14, "end", mono=True, bold=True)
            c.text(568, y, words, 11, ink="pencil")
    return c


def _mains(c: Canvas, plan: Plan, bank: BankPlan, bar_right: float) -> None:
    """Main leads from the bars to each inverter, through its own device."""
    left, width = 606.0, 118.0
    hanging = plan.house.on_bank(bank.id)
    rows = [44 + MAIN_PITCH * k for k in range(len(hanging))]
    for x, y1, y2, ink in ((bar_right, 44.0, rows[-1], "wire-red"), (bar_right - 10, 66.0, rows[-1] + 22, "wire-black")):
        c.line(x, y1, x, y2, ink, 6)
    for seat, y in zip(hanging, rows, strict=True):
        main = plan.circuits.sized.get(main_name(plan.house, seat))
        c.line(bar_right, y, left, y, "wire-red", 3)
        c.line(bar_right - 10, y + 22, left, y + 22, "wire-black", 3)
        if main and main.device:
            with c.opens(main.device.key, f"{main.device.name}: {figure_text(main.device)}"):
                c.rect(bar_right + 16, y - 6, 26, 12, "white", "ink", 1.4)
                c.text(bar_right + 29, y - 11, figure_text(main.device), 11, "middle", mono=True)
        if main:
            with c.opens(main.installed.key, f"Main leads {main.size}"):
                c.text(left - 6, y - 6, figure_text(main.installed), 11, "end", mono=True)
        c.rect(left, y - 14, width, 48, "white", "ink", 1.8)
        c.text(left + width / 2, y + 5, seat.name, 12, "middle", bold=True)
        amps = bank.supply.mains[seat.id]
        with c.opens(amps.key, f"Design current {figure_text(amps)}"):
            c.text(left + width / 2, y + 24, figure_text(amps), 12, "middle", mono=True, bold=True)


def _main(c: Canvas, plan: Plan, bank: BankPlan, bar_right: float) -> None:
    """Main leads from the bank through its device to the inverter."""
    rated, fx = bank.device_rating, bar_right + 40
    c.line(bar_right, 44, fx if rated else 620, 44, "wire-red", 4)
    if rated:
        with c.opens(rated.key, f"{rated.name}: {figure_text(rated)}"):
            c.rect(fx, 28, 72, 32, "white", "ink", 1.6)
            c.line(fx + 14, 44, fx + 58, 44, "ink", 1.4)
            c.rect(fx + 24, 38, 24, 12, "white", "ink", 1.4)
            c.text(fx + 36, 22, figure_text(rated), 12, "middle", mono=True)
        c.line(fx + 72, 44, 620, 44, "wire-red", 4)
    c.line(bar_right, 66, 620, 66, "wire-black", 4)
    first = plan.house.on_bank(bank.id)[0]
    main = plan.circuits.sized.get(main_name(plan.house, first))
    if main:
        with c.opens(main.installed.key, f"Main leads {main.size}"):
            c.text(614, 36, figure_text(main.installed), 12, "end", mono=True)
    c.rect(620, 24, 104, 78, "white", "ink", 1.8)
    c.text(672, 52, first.thing.title or "Inverter", 13, "middle", bold=True)
    design = bank.supply.design_a
    with c.opens(design.key, f"Design current {figure_text(design)}"):
        c.text(672, 72, figure_text(design), 13, "middle", mono=True, bold=True)
        c.text(672, 88, "at full output", 11, "middle", "pencil")


def chain_drawing(plan: Plan) -> Markup:
    """The chain of every bank."""
    return Markup("").join(chain_of(plan, bank) for bank in plan.banks)


def chain_of(plan: Plan, bank: BankPlan) -> Markup:
    """A chain, as the page has it."""
    return chain_canvas(plan, bank).render()


def chain_canvas(plan: Plan, bank: BankPlan) -> Canvas:
    """Links from cell to inverter; the weakest is drawn thin and ochre."""
    chain = bank.chain
    name, of = _name("chain", bank)
    c = Canvas(name, 728, 104, f"The weakest link from cell to inverter{of}")
    pitch = 728 / len(chain)
    most = max(link.amps.value for link in chain)
    short = plan.says(weakest_link.code, bank.weakest.amps)
    for i, link in enumerate(chain):
        x = i * pitch
        weak = link is bank.weakest
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
            c.anchor("weakest", x + pitch / 2, 52)
            c.text(x + pitch / 2 - 1, 94, "weakest", 12, "middle", "oxide" if short else "ochre", bold=True)
    return c

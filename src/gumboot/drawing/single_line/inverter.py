"""The inverter's own box, a PV inverter beside it, and the legend of cores."""

from __future__ import annotations

from textwrap import wrap

from gumboot.core.rulebook.books import book
from gumboot.drawing.show import figure_text
from gumboot.drawing.single_line.boards import run_label
from gumboot.drawing.single_line.dc import string_rows
from gumboot.drawing.single_line.diagram import BONDS, COLOUR_INK, ROLE_WORDS, Diagram
from gumboot.drawing.single_line.layout import drawn_pv
from gumboot.drawing.single_line.measures import LEFT
from gumboot.drawing.svg import text_width


def coupled(d: Diagram) -> None:
    """A grid-tied PV inverter on the backed-up board, with its strings, on a row of its own."""
    y = d.at.rows.get("pv-ac")
    if y is None:
        return
    left, right = d.at.inverter
    string_rows(d, d.at.coupled, left)
    last = max([y, *(d.at.rows[t.circuit] for t in d.at.coupled)])
    watts, sized = d.card("pv_inverter", "output_w"), d.sized("pv-ac")
    named = d.box(left, right, y - 24, last + 24, "PV inverter", watts, thing=beside.id if (beside := drawn_pv(d.plan)) else "")
    if watts:
        d.c.text((left + right) / 2, named + 16, figure_text(watts), 12, "middle", mono=True)
    board, bus = d.at.boards[0], d.at.boards[1] - 16
    d.wire([(right, y), (board, y)], "backed-up-board", d.conductor("pv-ac"))
    d.wire([(board, y), (bus, y)], "backed-up-board", d.conductor("pv-ac"))
    run_label(d, "pv-ac", right, y)
    if sized and sized.device:
        with d.opening(sized.device, "PV breaker"):
            d.c.rect(board + 14, y - 5, 22, 10, "white", "ink", 1.3)
            d.c.text(board + 25, y + 17, figure_text(sized.device), 12, "middle", mono=True, bold=True)


def inverter_box(d: Diagram) -> None:
    """The inverter: battery current, bond, and on a live board whether it is on."""
    inverter, supply = d.plan.seats.inverter, d.plan.banks[0].supply
    (left, right), (top, bottom) = d.at.inverter, d.at.inverter_y
    y = d.box(left, right, top, bottom, inverter.title, d.card("inverter", "output_w"), thing=d.plan.house.lead.id) + 22
    middle = (left + right) / 2
    d.c.anchor(d.named("inverter"), middle, (top + bottom) / 2)
    for seat in (inverter for inverter in d.plan.seats.inverters if "bat-main" not in d.at.rows):
        for unit in (unit for bank in d.plan.seats.banks if seat in d.plan.house.on_bank(bank.id) for unit in bank.thing.units):
            d.c.anchor(unit.id, middle, (top + bottom) / 2)
    if "bat-main" not in d.at.rows:
        n = len(d.plan.house.bank(d.plan.banks[0].id).thing.units)
        with d.c.opens(d.plan.banks[0].key("bank.usable"), "Usable energy of the batteries inside"):
            d.c.text(middle, y, f"{n} batter{'ies' if n > 1 else 'y'} inside", 12, "middle")
        y += 17
    with d.c.opens(supply.design_a.key, f"Battery design current {figure_text(supply.design_a)}"):
        d.c.text(middle, y, f"battery {figure_text(supply.design_a)}", 12, "middle", mono=True)
    for k, line in enumerate(wrap(BONDS[inverter.neutral_bond], int((right - left - 8) / text_width("n", 11)))):
        d.c.text(middle, y + 18 + 14 * k, line, 11, "middle", "pencil")
        last = y + 18 + 14 * k
    if d.live is not None:
        d.c.text(middle, last + 20, "on" if d.named("inverter") in d.closed else "off", 13, "middle", bold=True)


def legend(d: Diagram) -> None:
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

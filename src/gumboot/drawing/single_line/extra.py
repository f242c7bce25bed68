"""What has no place of its own in the diagram: each box below it with its run, which ends in a flag; the flag's letter stands in the other box."""

from __future__ import annotations

from gumboot.core.plan.power_up.board import board_node
from gumboot.core.seats import BoardSeat, GeneratorSeat, PvInverterSeat
from gumboot.drawing.show import figure_text, place_words, quantity
from gumboot.drawing.single_line.dc import modules
from gumboot.drawing.single_line.diagram import Diagram
from gumboot.drawing.single_line.extra_layout import Extra
from gumboot.drawing.single_line.layout import circuits_on
from gumboot.drawing.single_line.measures import LEFT

BOX, BOARD = (290.0, 402.0), (606.0, 756.0)
# From the box to its label, its device and its flag.
LABEL, DEVICE, FLAG = 432.0, 536.0, 566.0


def letters_at(extras: list[Extra], place: str) -> list[str]:
    """The letters that stand in a box: those of the runs that end there."""
    return [extra.letter for extra in extras if extra.other == place]


def tag(d: Diagram, extras: list[Extra], place: str, right: float, bottom: float) -> None:
    """The letters of runs that end at a box, in its lower right corner: two above each other, more to their left."""
    for n, letter in enumerate(letters_at(extras, place)):
        x, y = right - 23 - 18 * (n // 2), bottom - 21 - 16 * (n % 2)
        d.c.rect(x, y, 18, 16, "page", "ink", 1.3)
        d.c.text(x + 9, y + 12, letter, 11, "middle", mono=True, bold=True)


def _flag(d: Diagram, words: str, x: float, y: float, *, width: float, onward: bool) -> None:
    """A flag on a run: it points onward to where the run goes, or stands where it comes from."""
    tip = [(x + width, y - 9), (x + width + 8, y), (x + width, y + 9)] if onward else [(x + width, y - 9), (x + width, y + 9)]
    d.c.path([(x, y - 9), *tip, (x, y + 9)], "ink", 1.3, "page", closed=True)
    d.c.text(x + 6, y + 4, words, 11)


def _named(d: Diagram, place: str) -> str:
    """What a drawing calls the thing at the other end: as much of its name as a flag holds."""
    words = place_words(d.plan.house.whole, place)
    return words if len(words) <= 18 else f"{words[:17]}…"


def _node(d: Diagram, board: str) -> str:
    house = d.plan.house.whole
    return board_node(house, board) if board in {b.id for b in house.boards} else "main-board"


def _device(d: Diagram, cid: str, y: float, switch: str) -> None:
    sized = d.plan.circuits.sized.get(cid)
    if switch:
        d.switch(DEVICE, y, switch, sized.circuit.title if sized else cid, sized.device if sized else None)
        return
    if sized is None or sized.device is None:
        return
    with d.opening(sized.device, sized.circuit.title):
        d.c.rect(DEVICE - 11, y - 5, 22, 10, "white", "ink", 1.3)
        d.c.text(DEVICE, y + 19, quantity(sized.device.value, "A"), 12, "middle", mono=True, bold=True)


def _run(d: Diagram, extra: Extra, start: float, words: str) -> None:
    """The run of a source: from its box to a flag that says where it ends."""
    circuit, y = extra.circuit, extra.run
    if circuit is None:
        d.c.text(start + 10, y + 4, "joined to nothing", 11, ink="ochre")
        return
    pulled = d.plan.circuits.sized.get(circuit.id)
    node, switch = _node(d, extra.other), ""
    if circuit.kind == "generator":
        nth = [g.id for g in d.plan.house.whole.seats.generators].index(extra.seat.id)
        node, switch = (f"generator-{extra.seat.id}", f"generator-breaker-{extra.seat.id}") if nth else ("generator", "generator-breaker")
    d.wire([(start, y), (FLAG, y)], node, pulled.installed if pulled else None)
    d.cores(circuit.id, LABEL, y)
    d.label(circuit.id, LABEL, y)
    d.callout(circuit.id, start + 14, y)
    _device(d, circuit.id, y, switch)
    _flag(d, f"{words} {_named(d, extra.other)} {extra.letter}", FLAG, y, width=150, onward=True)


def _pv_inverter(d: Diagram, extra: Extra, seat: PvInverterSeat) -> None:
    (left, right), watts = BOX, d.plan.figures.get(f"card.{seat.card.id}.output_w")
    for t, y in extra.strings:
        modules(d, y, t)
        d.wire([(LEFT + 53, y), (left, y)], "", d.conductor(t.circuit))
        d.cores(t.circuit, LEFT + 62, y)
        d.label(t.circuit, LEFT + 84, y)
        d.callout(t.circuit, left - 16, y)
    last = extra.strings[-1][1] if extra.strings else extra.run
    named = d.box(left, right, extra.run - 26, last + 30, seat.name if seat.name != seat.id else "PV inverter", watts)
    if watts is not None:
        d.c.text((left + right) / 2, named + 16, figure_text(watts), 12, "middle", mono=True)
    _run(d, extra, right, "to")


def _generator(d: Diagram, extra: Extra, seat: GeneratorSeat) -> None:
    watts, y = d.plan.figures.get(f"card.{seat.card.id}.power_w"), extra.run
    with d.opening(watts, seat.name):
        d.c.circle(BOX[0] + 14, y, 14, "page", "ink", 1.8)
        d.c.text(BOX[0] + 14, y + 5, "G", 13, "middle", bold=True)
        d.c.text(BOX[0] + 36, y + 28, f"{seat.name} {figure_text(watts)}" if watts else seat.name, 11, ink="pencil")
    _run(d, extra, BOX[0] + 28, "to")


def _board(d: Diagram, extra: Extra, seat: BoardSeat) -> None:
    """A board with the run that feeds it, or its own supply."""
    (left, right), y = BOARD, extra.run
    d.box(left, right, y - 26, y + 30, seat.name, d.plan.figures.get(f"card.{seat.card.id}.busbar_a"), left=True)
    if seat.thing.duty == "backed-up":
        d.c.text(left + 8, y + 22, circuits_on(d.plan, seat), 11, ink="pencil")
    circuit = extra.circuit
    if circuit is None:
        words = "a supply of its own" if seat.thing.duty == "main" and seat.thing.fed_from is None else "nothing of this system joins it"
        d.c.text(left - 10, y + 4, words, 11, "end", "pencil")
        return
    pulled = d.plan.circuits.sized.get(circuit.id)
    _flag(d, f"from {_named(d, extra.other)} {extra.letter}", BOX[0], y, width=150, onward=False)
    d.wire([(BOX[0] + 150, y), (left, y)], _node(d, seat.id), pulled.installed if pulled else None)
    d.cores(circuit.id, LABEL + 18, y)
    d.label(circuit.id, LABEL + 42, y)
    d.callout(circuit.id, left - 14, y)
    if circuit.kind == "feeder":
        d.switch(DEVICE + 28, y, f"feeder-{seat.id}", circuit.title, pulled.device if pulled else None)
    elif pulled is not None and pulled.device is not None:
        with d.opening(pulled.device, circuit.title):
            d.c.text(DEVICE + 28, y + 17, quantity(pulled.device.value, "A"), 12, "middle", mono=True, bold=True)


def draw_extras(d: Diagram, extras: list[Extra]) -> None:
    """Every one of them, with its run."""
    for extra in extras:
        seat = extra.seat
        if seat.card.kind == "pv-inverter":
            _pv_inverter(d, extra, seat)
        elif seat.card.kind == "generator":
            _generator(d, extra, seat)
        else:
            _board(d, extra, seat)

"""One lead opened: both plugs from the wire side, every core in its colour, the pair twisted, the drain at one end."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.card.parts import Pin
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.leads import Lead, LeadEnd, Wire
from gumboot.core.sim.ringing import PLUG, SEVERAL
from gumboot.drawing.show import quantity
from gumboot.drawing.svg import Canvas, shortened

# How a colour of a core is painted: one pigment, or a stripe of it on white.
PIGMENTS = {
    "orange": "pigment-orange", "green": "pigment-green", "blue": "pigment-blue", "brown": "pigment-brown", "red": "pigment-red",
    "black": "pigment-black", "white": "pigment-white", "grey": "pigment-grey",
}  # fmt: skip
# Half turns of a twisted pair as it is drawn, and how far its cores part.
TURNS, APART = 4, 7.0
STEPS = 40


@dataclass(frozen=True, slots=True)
class Sheet:
    """How large the drawing is: its width, the room of a pin's row, the width of a plug, and where the two plugs stand."""

    width: float
    row: float
    plug: float
    left: float
    right: float


# At the bench the cable has room in the middle; in the hand a row is as high as a gloved thumb sees.
BENCH = Sheet(728, 24, 40, 214, 474)
HAND = Sheet(358, 29, 42, 112, 204)


def _rows(end: LeadEnd) -> list[Pin]:
    """The contacts of a plug from the first on, those that carry nothing among them."""
    known = {pin.pin: pin for pin in end.pins}
    if end.plug == "eight-way plug":
        return [known.get(n, Pin(pin=n, signal="")) for n in range(1, PLUG + 1)]
    return list(end.pins)


def _core(c: Canvas, points: list[tuple[float, float]], colour: str) -> None:
    """A core in its colour; a stripe lies on white."""
    *stripe, base = colour.rpartition("/")[::2] if "/" in colour else ("", colour)
    striped = bool(stripe and stripe[0])
    ink = PIGMENTS.get(base, "pigment-grey")
    c.path(points, "ink", 7)
    c.path(points, "pigment-white" if striped else ink, 5)
    if striped:
        c.path(points, ink, 5, dash="6 7")


def _smooth(t: float) -> float:
    return t * t * (3 - 2 * t)


def _way(sheet: Sheet, y1: float, y2: float) -> list[tuple[float, float]]:
    """From a pin of the left plug to one of the right, in one swing."""
    x1, x2 = sheet.left + sheet.plug, sheet.right
    return [(x1 + (x2 - x1) * k / STEPS, y1 + (y2 - y1) * _smooth(k / STEPS)) for k in range(STEPS + 1)]


def _twisted(
    one: list[tuple[float, float]], other: list[tuple[float, float]]
) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """Two ways wound about each other between the plugs."""
    found: tuple[list[tuple[float, float]], list[tuple[float, float]]] = ([], [])
    for k, ((x, ya), (_, yb)) in enumerate(zip(one, other, strict=True)):
        t = k / STEPS
        middle, apart = (ya + yb) / 2, (ya - yb) / 2
        # Wound between a fifth and four fifths of the way, fanned out to the contacts before and after.
        wound = _smooth(min(1.0, max(0.0, (t - 0.08) / 0.16))) * _smooth(min(1.0, max(0.0, (0.92 - t) / 0.16)))
        side = math.copysign(APART, apart) * math.cos(math.pi * TURNS * min(1.0, max(0.0, (t - 0.16) / 0.68)))
        away = apart * (1 - wound) + side * wound
        found[0].append((x, middle + away))
        found[1].append((x, middle - away))
    return found


def _ways(sheet: Sheet, wires: Sequence[Wire], ends: tuple[dict[int, float], dict[int, float]]) -> dict[int, list[tuple[float, float]]]:
    """The way of each core by its first pin, those of the pair wound."""
    ways = {w.first: _way(sheet, ends[0][w.first], ends[1][w.second]) for w in wires}
    paired = [w.first for w in wires if w.is_paired]
    if len(paired) == 2:
        ways[paired[0]], ways[paired[1]] = _twisted(ways[paired[0]], ways[paired[1]])
    return ways


def _hexagon(c: Canvas, x: float, y: float, r: float) -> None:
    corners = [(x + r * math.cos(math.radians(60 * k)), y + r * math.sin(math.radians(60 * k))) for k in range(6)]
    c.path(corners, "oxide", 2, fill="oxide-wash", closed=True)


def _contact(c: Canvas, x: float, y: float, pin: Pin, r: float, wrong: bool) -> None:
    """A contact with its number: round, a hexagon where it is wrong, dashed where it carries nothing."""
    if wrong:
        _hexagon(c, x, y, r + 2)
    elif pin.signal:
        c.circle(x, y, r, "white", "ink", 1.6)
    else:
        c.path(
            [(x + r * math.cos(math.radians(10 * k)), y + r * math.sin(math.radians(10 * k))) for k in range(36)],
            "rule",
            1.2,
            dash="2 3",
            closed=True,
        )
    c.text(x, y + 4.5, str(pin.pin), 13, "middle", "ink" if pin.signal else "pencil", mono=True, bold=bool(pin.signal))


def _plug(c: Canvas, sheet: Sheet, x: float, end: LeadEnd, wrong: frozenset[int], side: str) -> dict[int, float]:
    """A plug from the wire side with its contacts. Returns the height of each."""
    rows, top = _rows(end), 44.0
    tall = len(rows) * sheet.row
    heights = {pin.pin: top + sheet.row * (n + 0.5) for n, pin in enumerate(rows)}
    if end.plug == "eight-way plug":
        # The latch lies on one side for both, so that they are held alike.
        c.rect(x - 12, top + tall * 0.3, 12, tall * 0.4, "plaster", "ink", 1.4)
        if side == "first":
            c.text(x - 3, top + tall * 0.5 + 14, "latch", 10, "start", "pencil", turn=-90)
    c.rect(x, top, sheet.plug, tall, "white", "ink", 1.8)
    for pin in rows:
        y = heights[pin.pin]
        c.anchor(f"{side}-{pin.pin}", x + sheet.plug / 2, y)
        _contact(c, x + sheet.plug / 2, y, pin, sheet.row * 0.38, pin.pin in wrong)
    return heights


def _labels(c: Canvas, sheet: Sheet, lead: Lead, heights: tuple[dict[int, float], dict[int, float]], wrong: frozenset[int]) -> None:
    """Colour and signal of each core, as words at both ends."""
    beside = 20
    for wire in lead.wires:
        for x, y, anchor in (
            (sheet.left - beside, heights[0][wire.first], "end"),
            (sheet.right + sheet.plug + beside - 12, heights[1][wire.second], "start"),
        ):
            ink, soft = ("oxide", "oxide") if wire.first in wrong else ("ink", "pencil")
            if sheet is HAND:
                c.text(x, y - 1, wire.colour, 12.5, anchor, ink, bold=True)
                c.text(x, y + 12, wire.signal, 11.5, anchor, soft, mono=True)
                continue
            # Side by side: a row at the bench is lower than two lines.
            c.text(x, y + 4, wire.colour, 13, anchor, ink, bold=True)
            away = 102 if anchor == "start" else -102
            c.text(x + away, y + 4, wire.signal, 12, anchor, soft, mono=True)


def _earth(c: Canvas, x: float, y: float) -> None:
    c.line(x + 10, y, x + 24, y, "ink", 1.8)
    for n, half in enumerate((9, 6, 3)):
        c.line(x + 10 - 4 * n, y - half, x + 10 - 4 * n, y + half, "ink", 1.8)


def _drain(c: Canvas, sheet: Sheet, lead: Lead, y: float) -> None:
    """The drain wire: to earth at one end, cut and taped at the other."""
    x1, x2 = sheet.left + sheet.plug / 2, sheet.right + sheet.plug / 2
    c.line(x1 + 4, y, x2 - 8, y, "ink", 3)
    c.line(x1 + 4, y, x2 - 8, y, "tin", 1.6)
    for end, x, label, anchor in ((lead.ends[0], x1, sheet.left - 20, "end"), (lead.ends[1], x2, sheet.right + sheet.plug + 8, "start")):
        if end.is_earthed:
            _earth(c, x - 20 if anchor == "end" else x - 8, y)
        else:
            c.rect(x - 14, y - 6, 28, 12, "hatch-pencil", "ink", 1.4)
        c.text(label, y - 1, "drain", 12.5, anchor, bold=True)
        c.text(label, y + 12, "to earth" if end.is_earthed else "cut, taped", 11.5, anchor, "pencil")


def _heads(c: Canvas, sheet: Sheet, lead: Lead) -> None:
    """What stands at each end, and how its cable is made ready."""
    half = sheet.width / 2 - 6
    edges = (2.0, sheet.width - 2) if sheet is HAND else (sheet.left + sheet.plug, sheet.right)
    anchors = ("start", "end") if sheet is HAND else ("end", "start")
    for x, end, anchor in zip(edges, lead.ends, anchors, strict=True):
        c.text(x, 14, shortened(f"{end.title[:1].upper()}{end.title[1:]}", 14, half, bold=True), 14, anchor, bold=True)
        c.text(x, 30, shortened(end.socket, 12, half), 12, anchor, "pencil")


def _ready(lead: Lead) -> list[str]:
    """How much is stripped at each end, where a card says it."""
    said = []
    for end in lead.ends:
        parts = [f"sheath {end.sheath_mm:g}" if end.sheath_mm else "", f"strip {end.strip_mm:g}" if end.strip_mm else ""]
        words = ", ".join(part for part in parts if part)
        said.append(f"{words} mm" if words else "")
    return said


def _astray(lead: Lead, heard: Mapping[int, int]) -> tuple[frozenset[int], frozenset[int]]:
    """First pins of cores that do not beep where they belong, and pins of the other plug at which one of them beeps."""
    wrong = frozenset(w.first for w in lead.wires if w.first in heard and heard[w.first] != w.second)
    return wrong, frozenset(w.second for w in lead.wires if w.first in wrong) | frozenset(heard[pin] for pin in wrong if heard[pin] > 0)


def lead_canvas(lead: Lead, sheet: Sheet = BENCH, heard: Mapping[int, int] | None = None) -> Canvas | None:
    """A lead with its cores as asked, or, where it was rung out, as found, with what was asked dashed. None for one without cores."""
    if not lead.wires:
        return None
    found = heard or {}
    wrong, at_other = _astray(lead, found)
    most = max(len(_rows(end)) for end in lead.ends)
    tall = 44 + most * sheet.row + (34 if lead.has_screen else 8) + 20
    kind = "hand" if sheet is HAND else "bench"
    c = Canvas(f"lead-{kind}-{lead.id.replace('.', '-')}", sheet.width, tall, f"Lead: {lead.title}, core by core from the wire side")
    _heads(c, sheet, lead)
    heights = (_plug(c, sheet, sheet.left, lead.ends[0], wrong, "first"), _plug(c, sheet, sheet.right, lead.ends[1], at_other, "second"))
    asked = _ways(sheet, lead.wires, heights)
    made = [
        w if w.first not in wrong else w.but(second=found[w.first], is_paired=False)
        for w in lead.wires
        if found.get(w.first, w.second) in heights[1]
    ]
    for first in wrong:
        c.path(asked[first], "pencil", 1.4, dash="4 4")
    ways = _ways(sheet, made, heights)
    for wire in made:
        _core(c, ways[wire.first], wire.colour)
    for wire in lead.wires:
        if wire.first in wrong and found[wire.first] not in heights[1]:
            _loose(c, asked[wire.first], wire, found[wire.first])
    _labels(c, sheet, lead, heights, wrong)
    below = 44 + most * sheet.row + 20
    if lead.has_screen:
        _drain(c, sheet, lead, below)
    ready = _ready(lead)
    edges = ((2.0, "start"), (sheet.width - 2, "end")) if sheet is HAND else ((sheet.left + sheet.plug, "end"), (sheet.right, "start"))
    for (x, anchor), words in zip(edges, ready, strict=True):
        c.text(x, tall - 5, words, 11.5, anchor, "blue", mono=True)
    if sheet is BENCH and lead.length is not None:
        both = " · ".join(quantity(lead.length.value, "m", system) for system in ("SI", "US"))
        c.dimension(sheet.left + sheet.plug + 30, 32, sheet.right - 30, 32, both)
    return c


def _loose(c: Canvas, way: list[tuple[float, float]], wire: Wire, heard: int) -> None:
    """A core that beeps nowhere, at the screen or at several: it ends between the plugs, with the word."""
    part = way[: STEPS // 2]
    _core(c, part, wire.colour)
    words = {0: "no beep", SEVERAL: "several"}.get(heard, "screen")
    c.text(part[-1][0] + 4, part[-1][1] - 8, words, 12, "middle", "oxide", bold=True)


def leads_drawing(plan: Plan) -> Markup:
    """Every lead with cores, opened, one under the other."""
    drawn = (lead_canvas(lead) for lead in plan.leads.leads)
    return Markup("").join(canvas.render() for canvas in drawn if canvas is not None)

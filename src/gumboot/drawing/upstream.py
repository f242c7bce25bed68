"""What lies upstream and downstream of where the grid is measured: what the meter sees, and what it does not."""

from __future__ import annotations

from typing import NamedTuple

from gumboot.core.plan.derive import Plan
from gumboot.drawing.svg import Canvas, text_width

WIDE, HIGH, GAP, TOP = 728.0, 64.0, 34.0, 52.0


class Stage(NamedTuple):
    """One thing on the way from the street to the loads, with what hangs on it."""

    id: str
    title: str
    under: str


def _loads(plan: Plan, side: str) -> str:
    count = sum(load.side == side for load in plan.job.loads)
    return f"{count} load{'s' if count != 1 else ''}" if count else "no loads"


def stages_of(plan: Plan) -> tuple[tuple[Stage, ...], int]:
    """The way from the street inward, and after which of its things the grid is measured; nothing where it is measured nowhere."""
    gateway = next((seat for seat in plan.seats.transfers if seat.card.style == "gateway"), None)
    has_cts = bool(plan.sensing.cts)
    if plan.job.site.supply == "none" or not (has_cts or gateway is not None):
        return (), 0
    mains = {seat.id for seat in plan.seats.mains}
    on_main = [seat.name for seat in plan.seats.pv_inverters if seat.thing.feeds in mains]
    behind = [seat.name for seat in plan.seats.pv_inverters if seat.thing.feeds not in mains]
    found = [Stage("street", "Street", "service")]
    found += [Stage(seat.id, "Main board", ", ".join((_loads(plan, "house"), *on_main))) for seat in plan.seats.mains[:1]]
    found += [Stage(gateway.id, "Gateway", "islands here")] if gateway is not None else []
    count = len(plan.seats.inverters)
    found.append(Stage(plan.house.lead.id, "Inverter" if count == 1 else f"{count} inverters", "PV, battery"))
    found.append(
        Stage(next(iter(b.id for b in plan.house.boards), "board"), "Backed-up board", ", ".join((_loads(plan, "backed"), *behind)))
    )
    at = 0 if has_cts or gateway is None else next(n for n, stage in enumerate(found) if stage.id == gateway.id) - 1
    return tuple(found), at


def _brace(c: Canvas, x1: float, x2: float, words: str, ink: str) -> None:
    """A line over what it speaks of."""
    c.path([(x1, TOP - 12), (x1, TOP - 20), (x2, TOP - 20), (x2, TOP - 12)], ink, 1.6)
    c.text((x1 + x2) / 2, TOP - 27, words, 12, "middle", ink, bold=True)


def upstream_canvas(plan: Plan) -> Canvas | None:
    """From the street on the left to the loads on the right, with the place of the measurement; None where nothing is measured."""
    stages, at = stages_of(plan)
    if not stages:
        return None
    c = Canvas("upstream", WIDE, TOP + HIGH + 34, "Where the grid is measured, and what lies upstream and downstream of it")
    wide = (WIDE - 4 - GAP * (len(stages) - 1)) / len(stages)
    middle = TOP + HIGH / 2
    edges = [2 + n * (wide + GAP) for n in range(len(stages))]
    for n, (stage, x) in enumerate(zip(stages, edges, strict=True)):
        if n:
            c.line(x - GAP, middle, x, middle, "ink", 3)
        c.rect(x, TOP, wide, HIGH, "plaster" if n <= at else "white", "ink", 1.6)
        size = 14 if text_width(stage.title, 14, bold=True) < wide - 10 else 12
        c.text(x + wide / 2, middle - 4, stage.title, size, "middle", bold=True)
        c.text(x + wide / 2, middle + 14, stage.under, 11 if text_width(stage.under, 11) < wide else 9, "middle", "pencil")
        c.anchor(stage.id, x + wide / 2, middle)
    sensor = edges[at] + wide + GAP / 2
    c.circle(sensor, middle, 13, None, "green", 4)
    c.path([(sensor, middle + 13), (sensor, TOP + HIGH + 8)], "green", 1.6)
    c.text(min(max(sensor, 60), WIDE - 60), TOP + HIGH + 22, "measured here", 12, "middle", "green", bold=True)
    c.anchor("sensor", sensor, middle)
    _brace(c, edges[0], edges[at] + wide, "not seen", "pencil")
    _brace(c, edges[at + 1], edges[-1] + wide, "seen: import reads positive", "green")
    return c

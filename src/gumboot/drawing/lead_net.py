"""The leads of a house between the things that they join, each drawn as far as it is made."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from gumboot.core.plan.derive import Plan
from gumboot.core.plan.leads import Lead, LeadEnd, LeadKind
from gumboot.core.plan.marks import numbers_of
from gumboot.drawing.svg import Canvas, shortened

LeadState = Literal["open", "made", "proved", "held"]
WIDE = 728.0
# The middle column of inverters, and the boxes at both sides of it.
MIDDLE, UNIT = 284.0, 160.0
SIDE_W, SIDE_H, SIDE_GAP, TOP = 142.0, 44.0, 24.0, 12.0
# Batteries in a row before the chain turns.
IN_A_ROW, CELL_W, CELL_H, CELL_GAP = 4, 138.0, 58.0, 56.0
# How far tracks lie apart, and ports on a side of a box.
TRACK, PORT = 13.0, 24.0
LEFT_KINDS = (LeadKind.CT, LeadKind.METER)
RIGHT_KINDS = (LeadKind.GATEWAY, LeadKind.SHUTDOWN, LeadKind.START, LeadKind.DEMAND, LeadKind.NETWORK)
Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Box:
    """A thing on the drawing."""

    x: float
    y: float
    w: float
    h: float

    @property
    def middle(self) -> float:
        """Its height in the middle."""
        return self.y + self.h / 2


def _far(lead: Lead, inverters: set[str]) -> LeadEnd:
    """The end that is not at the inverter; of a line from device to device the further one."""
    return lead.ends[0] if lead.ends[1].place in inverters and lead.ends[0].place not in inverters else lead.ends[1]


def _key(lead: Lead, end: LeadEnd) -> str:
    """One box for each thing; an initiator for each loop."""
    return lead.id if lead.kind in (LeadKind.SHUTDOWN, LeadKind.NETWORK, LeadKind.DEMAND) else end.place


class _Net:
    """Where everything stands."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.inverters = [seat.id for seat in plan.seats.inverters]
        self.sides: dict[str, list[Lead]] = {
            "left": list(plan.leads.of_kind(*LEFT_KINDS)),
            "right": list(plan.leads.of_kind(*RIGHT_KINDS)),
        }
        self.boxes: dict[str, Box] = {}
        self.words: dict[str, tuple[str, str]] = {}
        self.ended: set[str] = set()
        self._place_sides()
        self._place_inverters()
        self.foot = max([b.y + b.h for b in self.boxes.values()], default=TOP)
        self._place_batteries()

    def _place_sides(self) -> None:
        known = set(self.inverters)
        for side, x in (("left", 2.0), ("right", WIDE - SIDE_W - 2)):
            y = TOP
            for lead in self.sides[side]:
                end = _far(lead, known)
                key = _key(lead, end)
                if key in self.boxes:
                    continue
                self.boxes[key] = Box(x, y, SIDE_W, SIDE_H)
                self.words[key] = (end.title, _under(end))
                y += SIDE_H + SIDE_GAP

    def ports(self, inverter: str, side: str) -> list[Lead]:
        """The leads that come into an inverter at one side."""
        own = [lead for lead in self.sides[side] if any(end.place == inverter for end in lead.ends)]
        if side == "left":
            own += [lead for lead in self.plan.leads.of_kind(LeadKind.BATTERY) if lead.ends[0].place == inverter]
        return own

    def _place_inverters(self) -> None:
        y = TOP
        for seat in self.plan.seats.inverters:
            most = max(len(self.ports(seat.id, "left")), len(self.ports(seat.id, "right")), 2)
            self.boxes[seat.id] = Box(MIDDLE, y, UNIT, 34 + PORT * most)
            self.words[seat.id] = (seat.name[:1].upper() + seat.name[1:], "")
            y += self.boxes[seat.id].h + 46

    def _place_batteries(self) -> None:
        y = self.foot + 46
        for bus in self.plan.links.wired:
            for n, unit in enumerate(bus.chain):
                row, place = divmod(n, IN_A_ROW)
                x = 2 + place * (CELL_W + CELL_GAP)
                self.boxes[unit.unit.id] = Box(x, y + row * (CELL_H + 40), CELL_W, CELL_H)
                told = f"address {unit.wanted_address}" if unit.wanted_dip else "finds its address"
                self.words[unit.unit.id] = (unit.unit.id, told)
                if unit.wants_terminator:
                    self.ended.add(unit.unit.id)
            y += (len(bus.chain) - 1) // IN_A_ROW * (CELL_H + 40) + CELL_H + 46
            self.foot = y - 46

    def port(self, inverter: str, side: str, lead: Lead) -> Point:
        """Where a lead comes into an inverter."""
        box, own = self.boxes[inverter], [each.id for each in self.ports(inverter, side)]
        y = box.y + 34 + PORT * (own.index(lead.id) + 0.4)
        return (box.x if side == "left" else box.x + box.w, y)


def _under(end: LeadEnd) -> str:
    """A second line in the box of a thing."""
    return end.under or end.socket


def _tracks(ends: Sequence[tuple[float, float]]) -> list[int]:
    """Which track each lead of a channel takes, so that none crosses another; ``ends`` are heights at the side and at the inverter."""
    down = [n for n, (a, b) in enumerate(ends) if b >= a]
    up = [n for n, (a, b) in enumerate(ends) if b < a]
    order = [*reversed(down), *up] if len(down) > len(up) else [*up, *reversed(down)]
    return [order.index(n) for n in range(len(ends))]


def _side_ways(net: _Net, side: str) -> dict[str, list[Point]]:
    """The ways of the leads of one side, and of a line from device to device."""
    found: dict[str, list[Point]] = {}
    known = set(net.inverters)
    joined = [lead for lead in net.sides[side] if any(end.place in known for end in lead.ends)]
    ends = []
    for lead in joined:
        inverter = next(end.place for end in lead.ends if end.place in known)
        box = net.boxes[_key(lead, _far(lead, known))]
        ends.append(((box.x + box.w if side == "left" else box.x, box.middle), net.port(inverter, side, lead)))
    tracks = _tracks([(start[1], end[1]) for start, end in ends])
    for lead, (start, end), track in zip(joined, ends, tracks, strict=True):
        x = start[0] + (54 + TRACK * track if side == "left" else -54 - TRACK * track)
        found[lead.id] = [start, (x, start[1]), (x, end[1]), end]
    for lead in net.sides[side]:
        if lead.id not in found and all(end.place in net.boxes for end in lead.ends):
            one, other = (net.boxes[end.place] for end in lead.ends)
            found[lead.id] = [(one.x + 24, one.y + one.h), (other.x + 24, other.y)]
    return found


def _chain_ways(net: _Net) -> dict[str, list[Point]]:
    """The battery leads and chains, and the links between inverters."""
    found: dict[str, list[Point]] = {}
    for n, lead in enumerate(net.plan.leads.of_kind(LeadKind.BATTERY)):
        start, box = net.port(lead.ends[0].place, "left", lead), net.boxes[lead.ends[1].place]
        x, y = MIDDLE - 22 - 10 * n, box.y - 22
        found[lead.id] = [start, (x, start[1]), (x, y), (box.x + 60, y), (box.x + 60, box.y)]
    for lead in net.plan.leads.of_kind(LeadKind.CHAIN):
        one, other = (net.boxes[end.place] for end in lead.ends)
        if other.x > one.x:
            found[lead.id] = [(one.x + one.w, one.middle), (other.x, other.middle)]
        else:
            y = other.y - 20
            found[lead.id] = [(one.x + one.w / 2, one.y + one.h), (one.x + one.w / 2, y), (other.x + 60, y), (other.x + 60, other.y)]
    for lead in net.plan.leads.of_kind(LeadKind.PARALLEL):
        one, other = (net.boxes[end.place] for end in lead.ends)
        found[lead.id] = [(MIDDLE + UNIT / 2, one.y + one.h), (MIDDLE + UNIT / 2, other.y)]
    return found


def _line(c: Canvas, points: list[Point], state: LeadState, *, is_air: bool) -> None:
    """A lead as far as it is made; one without a cable is dotted."""
    if state == "open" or is_air:
        c.path(points, {"held": "oxide", "proved": "green"}.get(state, "pencil"), 2, dash="2 5" if is_air else "6 4")
        return
    c.path(points, "oxide" if state == "held" else "ink", 6)
    c.path(points, {"made": "page", "proved": "green", "held": "oxide-wash"}[state], 3.4, dash="5 4" if state == "held" else "")


def _longest(points: list[Point]) -> tuple[Point, Point]:
    """The stretch on which a number has most room; of two alike the first."""
    pairs = list(itertools.pairwise(points))
    return max(pairs, key=lambda pair: (pair[0][1] == pair[1][1], abs(pair[0][0] - pair[1][0]) + abs(pair[0][1] - pair[1][1])))


def state_mark(c: Canvas, x: float, y: float, state: LeadState) -> None:
    """Shape first, colour second: hollow, half, ticked, or a hexagon with a bar."""
    if state == "held":
        c.path(
            [(x - 3.5, y - 6), (x + 3.5, y - 6), (x + 7, y), (x + 3.5, y + 6), (x - 3.5, y + 6), (x - 7, y)],
            "oxide",
            1.2,
            fill="oxide",
            closed=True,
        )
        c.line(x - 3, y, x + 3, y, "page", 1.8)
        return
    c.circle(x, y, 6, "green" if state == "proved" else "page", "ink" if state != "proved" else "green", 1.5)
    if state == "made":
        c.path([(x, y - 6), (x - 4.2, y - 4.2), (x - 6, y), (x - 4.2, y + 4.2), (x, y + 6)], None, fill="ink", closed=True)
    if state == "proved":
        c.path([(x - 3, y + 0.3), (x - 0.8, y + 2.6), (x + 3.2, y - 2.4)], "page", 1.8)


def _tag(c: Canvas, at: Point, number: str, state: LeadState) -> None:
    wide = 9 + 8 * len(number)
    x, y = at
    c.rect(x - wide / 2, y - 9, wide, 18, "oxide-wash" if state == "held" else "white", "oxide" if state == "held" else "ink", 1.4)
    c.text(x, y + 4.5, number, 12, "middle", "oxide" if state == "held" else "ink", mono=True, bold=True)
    state_mark(c, x + wide / 2 + 9, y, state)


WORDS: Mapping[LeadState, str] = {"open": "not made", "made": "made, not rung out", "proved": "proved", "held": "held: not as it should be"}


def _legend(c: Canvas, y: float) -> None:
    x = 2.0
    for state, words in WORDS.items():
        _line(c, [(x, y), (x + 34, y)], state, is_air=False)
        state_mark(c, x + 48, y, state)
        c.text(x + 60, y + 4, words, 12, ink="pencil")
        x += 78 + 6.4 * len(words)


def opened(lead: str) -> str:
    """The mark on the page at which a lead stands opened."""
    return f"open-{lead.replace('.', '-').lower()}"


def _tags(
    c: Canvas, ways: Mapping[str, list[Point]], numbers: Mapping[str, str], states: Mapping[str, LeadState], *, leads_on: bool
) -> None:
    """The number of each lead on its longest level stretch, no two over each other."""
    taken: list[Point] = []
    for lead, points in ways.items():
        (x1, y1), (x2, y2) = _longest(points)
        at = ((x1 + x2) / 2 - 6, (y1 + y2) / 2)
        for share in (0.5, 0.35, 0.65, 0.25, 0.75):
            at = (x1 + (x2 - x1) * share - 6, y1 + (y2 - y1) * share)
            if all(abs(at[0] - x) > 46 or abs(at[1] - y) > 20 for x, y in taken):
                break
        taken.append(at)
        c.anchor(lead, *at)
        if not leads_on:
            _tag(c, at, numbers[lead], states.get(lead, "open"))
            continue
        with c.link(f"#{opened(lead)}", f"Lead {numbers[lead]}, {WORDS[states.get(lead, 'open')]}"):
            _tag(c, at, numbers[lead], states.get(lead, "open"))


def net_canvas(plan: Plan, states: Mapping[str, LeadState], *, leads_on: bool = True) -> Canvas | None:
    """All leads of a house; None for a house without any. ``leads_on``: the number of each leads to where it stands opened."""
    if not plan.leads.leads:
        return None
    net = _Net(plan)
    c = Canvas("leads", WIDE, net.foot + 44, "The leads of this house, and how far each is made")
    ways = {**_side_ways(net, "left"), **_side_ways(net, "right"), **_chain_ways(net)}
    by_id = {lead.id: lead for lead in plan.leads.leads}
    for lead, points in ways.items():
        _line(c, points, states.get(lead, "open"), is_air=by_id[lead].is_air)
    for key, box in net.boxes.items():
        title, under = net.words[key]
        title = f"{title[:1].upper()}{title[1:]}"
        c.rect(box.x, box.y, box.w, box.h, "white", "ink", 1.8)
        high = box.y + 20 if under or key in net.inverters else box.middle + 5
        c.text(box.x + box.w / 2, high, shortened(title, 13, box.w - 10, bold=True), 13, "middle", bold=True)
        if under:
            c.text(box.x + box.w / 2, high + 16, shortened(under, 11.5, box.w - 8), 11.5, "middle", "pencil")
        if key in net.ended:
            c.text(box.x + box.w / 2, high + 31, "terminator in", 11.5, "middle", "green")
    _sockets(c, net)
    _tags(c, ways, numbers_of(plan.leads.leads), states, leads_on=leads_on)
    _legend(c, net.foot + 28)
    return c


def _sockets(c: Canvas, net: _Net) -> None:
    """What each socket of an inverter is called, inside it beside its lead."""
    for inverter in net.inverters:
        for side in ("left", "right"):
            for lead in net.ports(inverter, side):
                x, y = net.port(inverter, side, lead)
                end = next(end for end in lead.ends if end.place == inverter)
                words = end.socket if lead.kind is not LeadKind.NETWORK else "network"
                inside = 5 if side == "left" else -5
                short = shortened(words.removesuffix(" socket").removesuffix(" terminals").removesuffix(" output"), 11, UNIT / 2 - 10)
                c.text(x + inside, y + 4, short, 11, "start" if side == "left" else "end", "pencil")

"""What comes along in the van: tools with the ranges that this house asks for, meters, lifting gear, leads to make at the bench."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from operator import attrgetter
from typing import NamedTuple

from gumboot.core.card.fitting_up import Cover
from gumboot.core.card.parts import Tip
from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.leads import Lead
from gumboot.core.rulebook.common.crimps import die_words
from gumboot.core.units import lbf_in_from_nm

# Above this no driver clicks: a wrench, common practice.
DRIVER_NM = 6.0
# A meter is chosen with room above what it is put on: common practice.
METER_CLASSES_V = (600.0, 1000.0, 1500.0)

value_of = attrgetter("value")


class Brought(NamedTuple):
    """One thing to bring: its group, what it is, for what, what speaks against what the job has (empty where nothing does), and the figures
    that it was chosen by.
    """

    group: str
    item: str
    use: str
    missing: str = ""
    chosen_by: tuple[Figure, ...] = ()


class Torqued(NamedTuple):
    """One torque of the paper card: where, how much, its band, the tip, and for how many screws."""

    place: str
    title: str
    torque: Figure
    low: Figure
    high: Figure
    tip: str
    screws: int = 1


class Van(NamedTuple):
    """Everything that comes along, and the torques on paper."""

    rows: tuple[Brought, ...]
    torques: tuple[Torqued, ...]
    leads: tuple[Lead, ...]


def torques_of(plan: Plan) -> tuple[Torqued, ...]:
    """Every torque of the house in the order of the work: landings, factory joints, covers."""
    found = []
    for t in plan.terminations:
        if t.torque is not None and t.torque_low is not None and t.torque_high is not None:
            tip = t.terminal.tip.words if t.terminal.tip is not None else t.terminal.tool
            found.append(Torqued(t.place, t.title, t.torque, t.torque_low, t.torque_high, tip))
    for box in plan.fitting.boxes:
        for own in box.joints:
            found.append(Torqued(box.place, own.joint.title, own.torque, own.low, own.high, own.joint.tip.words))
    for wall in plan.walls:
        if wall.fixings is not None and wall.fixings.torque is not None:
            low, asked, high = wall.fixings.torque
            found += [
                Torqued(box.id, f"{len(box.holes)} {wall.fixings.called}", asked, low, high, wall.fixings.tip, len(box.holes))
                for box in wall.boxes
                if box.holes
            ]
    return tuple(found)


def _tips(plan: Plan) -> Iterator[tuple[Tip, str]]:
    for t in plan.terminations:
        if t.terminal.tip is not None:
            yield t.terminal.tip, t.place
    for box in plan.fitting.boxes:
        for own in box.joints:
            yield own.joint.tip, box.place
        cover: Cover | None = box.cover
        if cover is not None and cover.tip is not None:
            yield cover.tip, box.place


def _heads(plan: Plan) -> Iterator[tuple[Tip, str]]:
    """What turns lag screws, by their card."""
    screw = plan.seats.screw
    if screw is not None and screw.tip is not None:
        yield from ((screw.tip, wall.title) for wall in plan.walls if wall.fixings is not None and wall.fixings.called == "screws")


def _bits(plan: Plan) -> Iterator[Brought]:
    """Bits and sockets, each once with the boxes that ask for it."""
    where: dict[str, list[str]] = defaultdict(list)
    for tip, place in (*_tips(plan), *_heads(plan)):
        if place not in where[tip.words]:
            where[tip.words].append(place)
    for words in sorted(where):
        yield Brought("Bits and sockets", f"{words[:1].upper()}{words[1:]}", ", ".join(where[words]))


def _torque_tools(plan: Plan, today: str) -> Iterator[Brought]:
    """The driver and the wrench, with the range that is asked for; and whether a tool of the job in calibration covers it."""
    every = sorted(torques_of(plan), key=lambda t: t.torque.value)
    for name, own in (
        ("Torque driver", [t for t in every if t.torque.value <= DRIVER_NM]),
        ("Torque wrench", [t for t in every if t.torque.value > DRIVER_NM]),
    ):
        if not own:
            continue
        ends = (own[0].torque, own[-1].torque)
        low, high = (end.value for end in ends)
        pounds = f"{lbf_in_from_nm(low):.0f} to {lbf_in_from_nm(high):.0f}"
        held = [tool for tool in plan.job.tools if tool.kind == "torque tool" and tool.calibrated_to >= today]
        left = [t for t in own if not any((tool.low_nm or 0) <= t.torque.value <= (tool.high_nm or t.torque.value) for tool in held)]
        count, uncovered = (sum(t.screws for t in some) for some in (own, left))
        missing = f"no tool in calibration for {uncovered} of {count} screws" if left else ""
        yield Brought("Torque tools", f"{name}, {low:.3g} to {high:.3g} N m ({pounds} lbf in)", f"{count} screws", missing, ends)


def _crimping(plan: Plan) -> Iterator[Brought]:
    dies: dict[str, int] = defaultdict(int)
    ferrules: dict[str, int] = defaultdict(int)
    plugs: dict[str, int] = defaultdict(int)
    for t in plan.terminations:
        end = t.terminal.end
        if end == "lug":
            dies[die_words(t.size)] += 1
        elif end == "ferrule":
            ferrules[t.size] += 1
        elif t.terminal.plug:
            plugs[t.size] += 1
    for words, count in sorted(dies.items()):
        yield Brought("Crimping and stripping", f"Hydraulic crimper, {words}", f"{count} lugs")
    if ferrules:
        yield Brought("Crimping and stripping", f"Ferrule pliers for {', '.join(sorted(ferrules))}", f"{sum(ferrules.values())} ferrules")
    if plugs:
        yield Brought(
            "Crimping and stripping", f"Pliers for DC plug contacts, {', '.join(sorted(plugs))}", f"{sum(plugs.values())} contacts"
        )
    strips = sorted({t.terminal.strip_mm for t in plan.terminations})
    if strips:
        yield Brought(
            "Crimping and stripping", f"Stripper with a stop, {strips[0]:g} to {strips[-1]:g} mm", f"{len(plan.terminations)} ends"
        )
    eight = [lead for lead in plan.leads.leads if any(end.plug == "eight-way plug" for end in lead.ends)]
    if eight:
        yield Brought("Crimping and stripping", "Pliers for eight-way plugs", f"{len(eight)} leads")


def _meters(plan: Plan) -> Iterator[Brought]:
    """Meters by the highest voltage that is measured, the insulation tester by its test voltage."""
    volts = [end for c in plan.all_checks() if c.unit == "V" for end in (c.high, c.expected) if end is not None]
    if volts:
        highest = max(volts, key=value_of)
        rated = next((v for v in METER_CLASSES_V if v >= highest.value), None)
        words = f"Multimeter of measuring category III, {rated:g} V" if rated is not None else f"Multimeter for {highest.value:.0f} V"
        held = [tool for tool in plan.job.tools if tool.kind == "meter" and (tool.rated_v or 0) >= highest.value]
        missing = "" if held else "no meter of the job is rated for that"
        yield Brought("Meters", words, f"up to {highest.value:.0f} V", missing, (highest,))
    tests = {f.value: f for key, f in sorted(plan.figures.items()) if key.startswith("prove.iso-") and key.endswith(".test")}
    if tests:
        levels = sorted(tests)
        words = f"Insulation tester, {', '.join(f'{v:g}' for v in levels)} V"
        yield Brought("Meters", words, "PV strings, both poles to earth", chosen_by=tuple(tests[v] for v in levels))
    if any(c.unit == "ohm" for c in plan.checks):
        yield Brought("Meters", "Low-ohm meter, test leads nulled", "earth continuity, bus resistance")
    if any(lead.is_rung for lead in plan.leads.leads):
        yield Brought("Meters", "Continuity beeper with fine probes", f"{sum(lead.is_rung for lead in plan.leads.leads)} leads rung out")


def _wall(plan: Plan) -> Iterator[Brought]:
    """Bits for the wall, level and tape, what lifts."""
    anchor = plan.seats.anchor
    for wall in plan.walls:
        own = next(each for each in plan.job.walls if each.id == wall.id)
        holes = sum(len(box.holes) for box in wall.boxes)
        if not holes:
            continue
        if own.surface == "masonry" and anchor is not None:
            yield Brought("Wall", f"Masonry bit {anchor.hole_mm:g} mm, {anchor.hole_depth_mm:g} mm deep", f"{holes} holes, {wall.title}")
        elif wall.pilot is not None:
            words = f"Wood bit {wall.pilot.label or f'{wall.pilot.value:.1f} mm'}"
            yield Brought("Wall", words, f"{holes} pilot holes, {wall.title}", chosen_by=(wall.pilot,))
        yield Brought("Wall", "Detector of wires and pipes, level, tape", wall.title)
    heavy = [box for wall in plan.walls for box in wall.boxes if box.lift_needs_two]
    if heavy:
        most = max(heavy, key=lambda box: box.mass.value)
        words = f"{most.people} people or a lift table for {most.mass.value:g} kg"
        yield Brought("Lifting", words, ", ".join(box.id for box in heavy), chosen_by=(most.mass,))


def van_of(plan: Plan, today: str) -> Van:
    """What comes along for a plan. ``today`` is an ISO date: a tool whose calibration is over by then is none."""
    rows = (*_torque_tools(plan, today), *_bits(plan), *_crimping(plan), *_meters(plan), *_wall(plan))
    return Van(tuple(rows), torques_of(plan), tuple(lead for lead in plan.leads.leads if lead.wires))

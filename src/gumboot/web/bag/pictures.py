"""The pictures of a house for the hand: each drawn once, with the places at which the acts look at it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from gumboot.core.acts import Act, Kind
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.station import closed_by
from gumboot.core.sim.switch_line import live_nodes
from gumboot.drawing import bank, links, loads, sensing, settings, single_line, strings, wall
from gumboot.drawing.hand.landing import terminals
from gumboot.drawing.holes import holes_canvas
from gumboot.drawing.leads import HAND, lead_canvas
from gumboot.drawing.svg import Canvas

ON_WALL = frozenset(
    (
        Kind.FIXED,
        Kind.UNPACK,
        Kind.INSIDE,
        Kind.LIFT,
        Kind.COVER,
        Kind.PHOTO,
        Kind.JOINT,
        Kind.FERRITE,
        Kind.BRIDGED,
        Kind.ENTRIES,
    )
)
LANDED = frozenset((Kind.TORQUE, Kind.RECHECK))
STEPS = frozenset((Kind.STEP, Kind.OFF))
RITUALS = frozenset((Kind.RITUAL, Kind.READ_BACK))
LEADS = frozenset((Kind.LEAD, Kind.RING, Kind.BRIDGE))
# The boards of first power: before it, and when everything is on.
OPEN, ON = "line-open", "line-on"
# The diagram as it is planned, with sizes.
LINE = "line"


# Pictures of a sum, in which nothing is one place, and of cores between which a meter hangs: a ring would lie over their words.
UNRINGED = ("beams", "ribbon", "chain", "cts", "lead-", "holes-")


class Look(NamedTuple):
    """Where an act looks: a picture, and the places in it that it is about, the nearest first."""

    picture: str
    at: tuple[str, ...]

    def carried(self) -> dict[str, Any]:
        """As a phone carries it."""
        return {"picture": self.picture, "at": list(self.at), "isWhole": self.picture.startswith(UNRINGED)} if self.picture else {}


def _board(plan: Plan, closed: frozenset[str]) -> Canvas:
    return single_line.canvas(plan, live_nodes(plan.power_up.line, closed), closed)


def _boards(plan: Plan) -> Iterator[tuple[str, Canvas]]:
    """The live board as it is before each step, and at the end."""
    line, steps = plan.power_up.line, plan.power_up.steps
    yield OPEN, _board(plan, frozenset())
    for n, step in enumerate(steps):
        yield f"line-{step.id}", _board(plan, closed_by(line, steps[:n]))
    yield ON, _board(plan, closed_by(line, steps))


def _planned(plan: Plan, system: str) -> Iterator[tuple[str, Canvas]]:
    """What the stations of the plan look at."""
    yield LINE, single_line.canvas(plan)
    for side, column in loads.tag_columns(plan).items():
        yield f"tags-{side}", column
    for island in plan.islands:
        yield f"beams{island.house.mark}", loads.beams_canvas(island)
        yield f"ribbon{island.house.mark}", loads.ribbon_canvas(island)
    if strings.roof_ready(plan):
        yield "roof", strings.roof_canvas(plan, system)
    if plan.strings is not None and plan.strings.trackers:
        yield "rulers", strings.rulers_canvas(plan, system)
    for each in plan.banks:
        yield f"bank{each.mark}", bank.bank_canvas(plan, each)
        yield f"chain{each.mark}", bank.chain_canvas(plan, each)


def _canvases(plan: Plan, system: str) -> Iterator[tuple[str, Canvas]]:
    yield from _planned(plan, system)
    for place in dict.fromkeys(t.place for t in plan.terminations):
        yield f"ends-{place}", terminals(plan, place)
    for planned in plan.walls:
        yield f"wall-{planned.id}", wall.canvas(plan, planned, system)
        for box in planned.boxes:
            if (drilled := holes_canvas(box, system)) is not None:
                yield f"holes-{box.id}", drilled
    for bus in plan.links.buses:
        if (drawn := links.bus_canvas(bus)) is not None:
            yield f"bus{bus.mark}", drawn
    for lead in plan.leads.leads:
        if (opened := lead_canvas(lead, HAND)) is not None:
            yield f"lead-{lead.id}", opened
    for own in plan.sensing.sets:
        if (cts := sensing.ct_canvas(plan, own.mark)) is not None:
            yield f"cts{own.mark}", cts
    for ruler in plan.settings.rulers:
        yield f"ruler-{ruler.bank}", settings.ruler_canvas(plan, ruler)
    yield from _boards(plan)


def pictures_of(plan: Plan, system: str) -> dict[str, Canvas]:
    """Every picture of a house by its name; two boards that look alike are one picture under both names."""
    return dict(_canvases(plan, system))


def _wall_of(plan: Plan, thing: str) -> str:
    return next((f"wall-{wall.id}" for wall in plan.walls if any(box.id == thing for box in wall.boxes)), "")


def _places(plan: Plan, act: Act) -> tuple[str, ...]:
    """Where an act is done on the single line: what it moves, what it is about, the boxes that stand open for it."""
    check = next((c for c in plan.all_checks() if f"check:{c.id}" == act.id), None)
    named = act.name.partition("-")[2]
    string = next((t.circuit for t in plan.strings.trackers if t.name == named), "") if plan.strings else ""
    found = (*act.moves, string, named, act.thing, *(check.places if check is not None else ()), plan.house.lead.id)
    return tuple(dict.fromkeys(place for place in found if place))


def _of_step(plan: Plan, act: Act) -> Look:
    if act.kind is Kind.OFF:
        return Look(ON, (*act.moves[:1], plan.house.lead.id))
    return Look(f"line-{act.name}", _places(plan, act))


def _of_check(plan: Plan, act: Act) -> Look:
    """A check of first power looks at the board as it is then; one before it at the open one, one after it at what is on."""
    check = next((c for c in plan.all_checks() if f"check:{c.id}" == act.id), None)
    if act.station in ("prove", "wire"):
        return Look(OPEN, _places(plan, act))
    steps = [step.id for step in plan.power_up.steps]
    after = check.after if check is not None else ""
    if act.station == "power-up" and after in steps:
        following = steps.index(after) + 1
        return Look(f"line-{steps[following]}" if following < len(steps) else ON, _places(plan, act))
    return Look(ON, _places(plan, act))


def _of_ritual(plan: Plan, act: Act) -> Look:
    """At the unit that is told; where that is a bank, at its first battery."""
    for bus in plan.links.buses:
        if act.thing == bus.seat.id or any(each.unit.id == act.thing for each in bus.chain):
            return Look(f"bus{bus.mark}", (act.thing, *(each.unit.id for each in bus.chain)))
    return Look(ON, (act.thing,))


def _of_lead(plan: Plan, act: Act) -> Look:
    """A lead by itself, opened; one without cores where its first end stands."""
    lead = plan.leads.of(act.name)
    if lead is not None and lead.wires:
        return Look(f"lead-{lead.id}", ())
    return Look(_wall_of(plan, act.thing) or ON, (act.thing,))


def look_of(plan: Plan, act: Act) -> Look:
    """The picture that an act looks at, and where; none for what has no place."""
    if act.kind in LANDED:
        term = plan.termination(act.name)
        return Look(f"ends-{term.place}", (f"torque:{term.id}",)) if term is not None else Look(ON, ())
    if act.kind is Kind.PACK:
        return Look("", ())
    if act.kind in (Kind.MARKED, Kind.HOLE):
        return Look(f"holes-{act.thing}", ())
    if act.kind in (Kind.FIND, Kind.BOARD):
        return Look(f"wall-{act.thing}", ())
    if act.kind in ON_WALL and (on := _wall_of(plan, act.thing)):
        return Look(on, (act.thing,))
    if act.kind in STEPS:
        return _of_step(plan, act)
    if act.kind in RITUALS:
        return _of_ritual(plan, act)
    if act.kind in LEADS:
        return _of_lead(plan, act)
    if act.kind is Kind.CORE:
        own = next((each for each in plan.sensing.sets if each.meter == act.thing), None)
        return Look(f"cts{own.mark}" if own is not None else ON, ("meter",))
    if act.kind is Kind.METER:
        own = next((each for each in plan.sensing.sets if each.test == act.name), None)
        return Look(f"cts{own.mark}" if own is not None else ON, ("meter",))
    if act.kind is Kind.SETTING:
        on = next((r.bank for r in plan.settings.rulers if any(row.key == act.name for row in r.thresholds)), "")
        return Look(f"ruler-{on}", (act.name,)) if on else Look("", ())
    if act.kind in (Kind.SERIAL, Kind.FIRMWARE):
        return Look(_wall_of(plan, act.thing), (act.thing,)) if _wall_of(plan, act.thing) else Look(ON, (act.thing,))
    if act.station in ("wire", "prove", "power-up", "live-checks") and act.kind is not Kind.LABEL:
        return _of_check(plan, act)
    return Look("", ())

"""The acts of hanging, landing, linking and sensing."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.acts.graph import PLAN
from gumboot.core.card.base import EnclosureCard
from gumboot.core.card.inverter import InverterCard
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.links import BatteryBus, places_told
from gumboot.core.plan.prove import Lasts
from gumboot.core.plan.sensing import CtSet
from gumboot.core.plan.terminations import Termination
from gumboot.core.plan.wall import Box

DAY_AFTER_H, YEAR_AFTER_H = 24.0, 365 * 24.0
NEVER = "Once tightened, never disturbed: look at its mark, and leave it."
LINK_TASKS = (
    ("off", "Every battery breaker off, every BMS off"),
    ("program", "Switches set, protocol chosen, one unit at a time"),
    ("cycle", "Each unit power-cycled and its setting read back"),
    ("lead", "Lead made to the pin-out and checked end to end"),
)
# Tasks for which a battery is woken.
AWAKE = ("program", "cycle")
GROUP_TASKS = (
    ("group-set", "Role, address and phase set in each inverter, one at a time, the link unplugged"),
    ("group-lead", "Link between the inverters laid, terminators at its two ends"),
)


def _hung(box: Box, inside: Sequence[str]) -> Iterator[Act]:
    """The holes of a box and what goes into it first, then the box on them."""
    before: tuple[str, ...] = ()
    if inside:
        first = ident("inside", box.id)
        before = (first,)
        yield Act(
            id=first, kind=Kind.INSIDE, station="wire", title=f"{box.title}: in before it hangs", thing=box.id, see=f"{', '.join(inside)}.",
            band=Band(choices=("yes", "no")),
        )  # fmt: skip
    if box.holes:
        count = f"{len(box.holes)} hole{'s' if len(box.holes) > 1 else ''}"
        hole = ident("hole", box.id)
        before = (*before, hole)
        yield Act(
            id=hole,
            kind=Kind.HOLE,
            station="wire",
            title=f"Holes of {box.title} drilled",
            thing=box.id,
            see=f"{count}, as dimensioned on Wall; dust out.",
        )
    by = f", {box.lifted_by}" if box.lift_needs_two else ""
    yield Act(
        id=ident("lift", box.id),
        kind=Kind.LIFT,
        station="wire",
        title=f"{box.title} in its place, level and fixed{by}",
        thing=box.id,
        see="Level, and every fixing holds.",
        needs=before,
    )


def wall_acts(plan: Plan) -> Iterator[Act]:
    """Each box: its holes, and how it is lifted."""
    for wall in plan.walls:
        for box in wall.boxes:
            card = plan.house.cards.get(box.id)
            yield from _hung(box, card.goes_in_first if isinstance(card, InverterCard) else ())


def _landing(t: Termination, *, hung: tuple[str, ...]) -> Act:
    band = Band(unit="N m" if t.torque is not None else "", low=t.torque_low, high=t.torque_high, expected=t.torque)
    title = f"{t.place_title} {t.title}"
    return Act(
        id=ident("torque", t.id),
        kind=Kind.TORQUE,
        station="wire",
        title=title,
        thing=t.place,
        prepare=t.preparation,
        see=f"{t.size} {t.role}",
        caution=" ".join(words for words in (t.terminal.caution, NEVER if t.terminal.never_disturb else "") if words),
        band=band,
        needs=hung,
        lasts=Lasts(rests=t.size),
    )


def wire_acts(plan: Plan) -> Iterator[Act]:
    """Each landing, in landing order, and each lug that is looked at again a day later."""
    placed = {box.id for wall in plan.walls for box in wall.boxes}
    first = {place for place, card in plan.house.cards.items() if place in placed and isinstance(card, EnclosureCard) and card.hang_first}
    for t in plan.terminations:
        yield _landing(t, hung=(ident("lift", t.place),) if t.place in first else ())
    for t in plan.terminations:
        if t.terminal.recheck_24h:
            yield _mark(t, "recheck", "a day later", DAY_AFTER_H)
        if t.terminal.recheck_yearly:
            yield _mark(t, "yearly", "once a year", YEAR_AFTER_H).but(is_optional=True)


def _mark(t: Termination, word: str, when: str, hours: float) -> Act:
    """A look at the mark across a lug, so long after it was tightened."""
    return Act(
        id=ident(word, t.id),
        kind=Kind.RECHECK,
        station="wire",
        title=f"Mark on {t.place_title} {t.title} {when}",
        thing=t.place,
        see="The mark stands in one line.",
        band=Band(choices=("yes", "no")),
        needs=(ident("torque", t.id),),
        hours_after=hours,
        lasts=Lasts(landed=(f"earth of {t.circuit}" if t.role == "earth" else t.circuit,)),
    )


def _told(bus: BatteryBus, key: str, title: str) -> str:
    """A task in words; where the maker asks for it, how the switches stand while a protocol is chosen."""
    if key != "program" or not bus.programming:
        return title
    told = places_told(bus.programming)
    return f"One unit at a time, the others off: {told} (programming), protocol chosen, then the switches of its address"


def link_tasks(plan: Plan) -> tuple[tuple[str, str], ...]:
    """The tasks of the programming ritual; none where there is no battery bus to program."""
    return tuple((act.name, act.title) for act in ritual_acts(plan))


def ritual_acts(plan: Plan) -> Iterator[Act]:
    """The programming ritual of each battery bus and of each group of inverters, one task after another."""
    before: tuple[str, ...] = ()
    tasks: list[tuple[BatteryBus | None, str, str, str]]
    tasks = [(bus, f"{key}{bus.mark}", f"{_told(bus, key, title)}{bus.of}", key) for bus in plan.links.wired for key, title in LINK_TASKS]
    tasks += [(None, f"{key}{group.mark}", f"{title}{group.of}", key) for group in plan.links.groups for key, title in GROUP_TASKS]
    for bus, name, title, key in tasks:
        act = ident("ritual", name)
        woken = bus is not None and key in AWAKE and not bus.seat.card.wakes_open
        landed = _landed_of(plan, bus) if bus is not None and woken else ()
        thing = bus.seat.id if bus is not None else "inverters"
        yield Act(id=act, kind=Kind.RITUAL, station="links", title=title, thing=thing, needs=(*before, *landed))
        before = (act,)


def _landed_of(plan: Plan, bus: BatteryBus) -> tuple[str, ...]:
    """What a battery makes live that cannot be woken with its output open: landed, and proved dead before."""
    live = {c.id for c in plan.circuits.all if c.kind in ("battery", "battery-unit", "interlink")}
    landed = [ident("torque", t.id) for t in plan.terminations if t.circuit in live]
    dead = [ident("check", c.id) for c in plan.checks if c.id in ("look-open", f"dead-dc{bus.mark}")]
    return (*landed, *dead)


def _placed(tested: CtSet) -> str:
    """Where the CTs of a set sit, in words: one that is moved is tested again."""
    return ", ".join(f"{ct.place.channel} {ct.place.leg} {ct.place.arrow} {ct.place.side}" for ct in tested.cts)


def sensing_acts(plan: Plan) -> Iterator[Act]:
    """The meter test of each set of CTs, PV off: after the grid is in, before PV and export."""
    steps = {step.id for step in plan.power_up.steps}
    for tested in plan.sensing.sets:
        if not tested.cts:
            continue
        grid = f"grid-breaker{tested.mark}"
        yield Act(
            id=ident("meter", tested.test),
            kind=Kind.METER,
            station="sensing",
            title=f"Meter test{tested.of}, PV off",
            thing=tested.meter,
            see="Each channel shows its own load, and import as import.",
            band=Band(unit="W"),
            guards="grid",
            needs=(ident("step", grid),) if grid in steps else (PLAN,),
            lasts=Lasts(rests=_placed(tested)),
        )

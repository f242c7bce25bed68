"""The steps of the island-first order: what each makes live, what must be seen, what it waits for."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.plan.bank import banks_of
from gumboot.core.plan.power_up.banks import agrees, measured, on_display
from gumboot.core.plan.power_up.board import battery_switches, board_switches, generator_breakers, main_words, mark, of
from gumboot.core.plan.power_up.group import group_checks, group_steps
from gumboot.core.plan.power_up.parts import Ready, Step, output_check, seen_volts
from gumboot.core.plan.prove import read_when_on
from gumboot.core.seats import InverterSeat
from gumboot.core.sim.switch_line import Line, Switch
from gumboot.core.wording import within


def _batteries(r: Ready) -> Iterable[Step]:
    packs = r.proving("battery")
    for bank in banks_of(r.ledger):
        switched = [switch for switch in r.ledger.once(battery_switches) if switch.bank.id == bank.id]
        for i, (uid, title, _) in enumerate(switched):
            first, several, strings = i == 0, len(switched) > 1, bank.of_strings
            yield Step(
                id=f"on-{uid}",
                title=f"{'Close the' if strings else 'Switch on'} {title[0].lower() + title[1:]}"
                + (", the leader" if first and several and not strings else ""),
                see="No spark." if strings else "Its lamp says ready; no alarm.",
                move=uid,
                holds=packs if first and bank.is_first else (),
                caution="Join batteries only inside the maker's voltage window." if first and several else "",
                lands=r.battery(bank),
                needs=r.needs_links,
            )


def _fuse(r: Ready, inverter: InverterSeat) -> Iterable[Step]:
    m, whose, takes = mark(r.ledger, inverter), of(r.ledger, inverter), r.bank_at(inverter).precharge_s
    yield Step(
        id=f"precharge{m}",
        title=f"Hold pre-charge{whose} for {takes.value:.0f} s or longer",
        see="Voltage across the open battery switch falls under 1 V.",
        move=f"precharge{m}",
        figure=takes,
        caution="The resistor is hot afterwards.",
        lands=r.battery_at(inverter),
    )
    yield Step(
        id=f"battery-switch{m}",
        title=f"Close the battery switch-fuse{whose}",
        see="No spark, no alarm.",
        move=f"battery-switch{m}",
        caution="Never without pre-charge; never open it under load.",
        lands=r.battery_at(inverter),
    )


def _start(r: Ready) -> Iterable[Step]:
    """From everything dead to batteries and switch-fuses closed."""
    dead = "A PV string is live in daylight and a battery cannot be switched off at its cells."
    see = "Each dead measurement stands in its band."
    yield Step(id="start-dead", title="Everything open, locked and proved dead", see=see, holds=r.proving(""), caution=dead)
    yield from _batteries(r)
    for bank in banks_of(r.ledger):
        if not bank.is_docked and (check := read_when_on(bank)) is not None:
            yield measured(bank, check)
    for inverter in r.ledger.seats.inverters:
        if r.ledger.house.switch_fuse_of(inverter.id) is not None:
            yield from _fuse(r, inverter)


def _inverter_on(r: Ready) -> Iterable[Step]:
    """The one inverter of an island started and measured."""
    leader, m, whose = r.ledger.house.lead, r.mark, of(r.ledger, r.ledger.house.lead)
    see, lands = "It starts within 5 minutes; the screen says island.", (*r.battery_at(leader), *r.live("backup", "through"))
    title = f"Turn {leader.name} on" if whose else "Turn the inverter on"
    yield Step(id=f"inverter-on{m}", title=title, see=see, move=f"inverter{m}", lands=lands)
    yield from on_display(r, leader)
    yield from agrees(r, "inverter")
    output, gloves = output_check(r.ledger, leader), "Live AC at the terminals. Insulating gloves."
    title = f"Measure the island output{whose}"
    yield Step(id=f"island-volts{m}", title=title, see=seen_volts(leader.card), measure=output, caution=gloves)


def _to_the_island(r: Ready) -> Iterable[Step]:
    """From switch-fuses closed to an island that feeds its boards."""
    several = len(r.ledger.seats.inverters) > 1
    yield from group_steps(r) if several else _inverter_on(r)
    # What hangs on a board that is closed on counts as live with it.
    live = r.live("backup", "pv-ac", "through") if several else r.live("backup", "pv-ac")
    holds = tuple(check.id for check in group_checks(r.ledger)) if several else (f"island-volts{r.mark}",)
    for own in r.ledger.once(board_switches):
        title = r.ledger.titled("Close the backed-up board's main")
        if not own.is_first:
            title = f"Close the {within(own.switch.title)}"
        lands = live if own.switch.part == "main" else r.feeders_of(own.board)
        sid = own.switch.id
        yield Step(id=sid, title=title, see="Board live; nothing trips.", move=sid, holds=holds if own.is_first else (), lands=lands)
    title = r.ledger.titled("Small load, then the largest motor")
    yield Step(id=f"small-load{r.mark}", title=title, see="Voltage holds; no overload.")


def _grid(r: Ready, inverter: InverterSeat) -> Step:
    m, whose, house = mark(r.ledger, inverter), of(r.ledger, inverter), r.ledger.house
    feeders = tuple([cid for cid in house.feeders_of(inverter) if cid in r.plan.sized])
    return Step(
        id=f"grid-breaker{m}",
        title=f"Close the grid breaker{whose}" + (f" in {main_words(house, inverter)}" if len(house.whole.seats.mains) > 1 else ""),
        see="The inverter counts down, then takes the grid in.",
        move=f"grid-breaker{m}",
        lands=(*feeders, *(r.live_of(inverter, "grid", "through") if whose else r.live("grid", "through"))),
        needs=("settings",),
    )


def _pv(r: Ready, switch: str, inverter: InverterSeat) -> Step:
    whose, others = of(r.ledger, inverter), tuple[str, ...]()
    if inverter is r.ledger.house.whole.lead:
        # The leader's switch stands for the strings of PV inverters too.
        own = {i.id for i in r.ledger.seats.inverters}
        others = tuple(cid for cid in r.live("pv") if r.plan.sized[cid].circuit.owner not in own)
    return Step(
        id=switch,
        title=f"Close the PV switch{whose}",
        see="Power rises tracker by tracker.",
        move=switch,
        holds=r.proving("array"),
        lands=(*r.live_of(inverter, "pv"), *others) if whose else r.live("pv"),
        needs=("settings", *r.metered),
    )


def _pv_breaker(r: Ready, breaker: Switch) -> Step:
    """A PV inverter that stood there before: it feeds by itself once it sees a grid, so it stays off until the meter is proved."""
    pv = breaker.id.removeprefix("pv-breaker-")
    return Step(
        id=breaker.id,
        title=f"Close the {within(breaker.title)}",
        see="It waits its time, then feeds.",
        move=breaker.id,
        lands=tuple(c for c in r.live("pv-ac") if r.plan.sized[c].circuit.source == pv),
        needs=("settings", *r.metered),
    )


def _generator(r: Ready, breaker: Switch, generator: str) -> Step:
    """The generator proved on the island; where the grid comes after it, it is stopped again: the two never feed together."""
    before_grid = r.ledger.house.joins_grid
    return Step(
        id=breaker.id,
        title="Start the generator, then close its breaker" + ("; then open it and stop the generator" if before_grid else ""),
        see="Voltage and frequency steady; charging begins slowly." + (" The island runs on without it." if before_grid else ""),
        move=breaker.id,
        caution="Exhaust kills: outdoors only, away from openings.",
        lands=tuple(c for c in r.live("generator") if r.plan.sized[c].circuit.owner == generator),
        needs=("settings",),
        back=before_grid,
    )


def _generators(r: Ready) -> Iterable[Step]:
    for breaker, seat in r.ledger.once(generator_breakers)[:1]:
        yield _generator(r, breaker, seat.id)


def island_first(r: Ready, line: Line) -> Iterable[Step]:
    """The steps from everything dead to export, on the switches of ``line``."""
    yield from _start(r)
    for part in r.islands:
        yield from _to_the_island(part)
    for part in (p for p in r.islands if p.ledger.house.joins_grid):
        yield from _generators(part)
    if r.grid:
        yield from (_grid(r, i) for part in r.islands if part.ledger.house.joins_grid for i in part.ledger.seats.inverters)
    for switch in line.switches:
        if switch.part == "PV":
            yield _pv(r, switch.id, r.ledger.house.inverter(switch.unit)) if switch.unit else _pv_breaker(r, switch)
    for part in (p for p in r.islands if not p.ledger.house.joins_grid):
        yield from _generators(part)
    if r.grid and any(i.card.role != "off-grid" for i in r.ledger.seats.inverters):
        see = "Export stays at or under the limit."
        yield Step(id="export", title="Allow export, last of all", see=see, needs=("settings", *r.metered))

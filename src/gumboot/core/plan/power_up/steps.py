"""The steps of the island-first order: what each makes live, what must be seen, what it waits for."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.plan.bank import banks_of
from gumboot.core.plan.power_up.banks import agrees, measured, on_display
from gumboot.core.plan.power_up.board import generator_breakers, mark, of, switch_line, switches_of
from gumboot.core.plan.power_up.group import group_checks, group_steps
from gumboot.core.plan.power_up.parts import Ready, Step, output_check, seen_volts
from gumboot.core.plan.prove import read_when_on
from gumboot.core.seats import InverterSeat
from gumboot.core.sim.switch_line import Switch


def _batteries(r: Ready) -> Iterable[Step]:
    packs = r.proving("battery")
    for bank in banks_of(r.ledger):
        switched = switches_of(bank)
        for i, (uid, title, _) in enumerate(switched):
            first, several = i == 0, len(switched) > 1
            yield Step(
                id=f"on-{uid}",
                title=f"Switch on {title[0].lower() + title[1:]}" + (", the leader" if first and several else ""),
                see="Its lamp says ready; no alarm.",
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
    """The one inverter started and measured."""
    leader = r.ledger.house.lead
    see, lands = "It starts within 5 minutes; the screen says island.", (*r.battery_at(leader), *r.live("backup", "through"))
    yield Step(id="inverter-on", title="Turn the inverter on", see=see, move="inverter", lands=lands)
    yield from on_display(r, leader)
    yield from agrees(r, "inverter")
    output, gloves = output_check(r.ledger, leader), "Live AC at the terminals. Insulating gloves."
    yield Step(id="island-volts", title="Measure the island output", see=seen_volts(leader.card), measure=output, caution=gloves)


def _to_the_island(r: Ready) -> Iterable[Step]:
    """From everything dead to an island that feeds its board."""
    yield from _start(r)
    several = len(r.ledger.seats.inverters) > 1
    yield from group_steps(r) if several else _inverter_on(r)
    # What hangs on a board that is closed on counts as live with it.
    board, see = r.live("backup", "pv-ac", "through"), "Board live; nothing trips."
    holds = tuple(check.id for check in group_checks(r.ledger)) if several else ("island-volts",)
    yield Step(
        id="sub-main",
        title="Close the backed-up board's main",
        see=see,
        move="sub-main",
        holds=holds,
        lands=board if several else r.live("backup", "pv-ac"),
    )
    yield Step(id="small-load", title="Small load, then the largest motor", see="Voltage holds; no overload.")


def _grid(r: Ready, inverter: InverterSeat) -> Step:
    m, whose = mark(r.ledger, inverter), of(r.ledger, inverter)
    return Step(
        id=f"grid-breaker{m}",
        title=f"Close the grid breaker{whose}",
        see="The inverter counts down, then takes the grid in.",
        move=f"grid-breaker{m}",
        lands=r.live_of(inverter, "grid", "through") if whose else r.live("grid", "through"),
        needs=("settings",),
    )


def _pv(r: Ready, switch: str, inverter: InverterSeat) -> Step:
    whose = of(r.ledger, inverter)
    return Step(
        id=switch,
        title=f"Close the PV switch{whose}",
        see="Power rises tracker by tracker.",
        move=switch,
        holds=r.proving("array"),
        lands=r.live_of(inverter, "pv") if whose else r.live("pv"),
        needs=("settings", *r.metered),
    )


def _generator(r: Ready, breaker: Switch, generator: str) -> Step:
    return Step(
        id=breaker.id,
        title="Start the generator, then close its breaker",
        see="Voltage and frequency steady; charging begins slowly.",
        move=breaker.id,
        caution="Exhaust kills: outdoors only, away from openings.",
        lands=tuple(c for c in r.live("generator") if r.plan.sized[c].circuit.owner == generator),
        needs=("settings",),
    )


def island_first(r: Ready) -> Iterable[Step]:
    """The steps from everything dead to export."""
    yield from _to_the_island(r)
    if r.grid:
        yield from (_grid(r, inverter) for inverter in r.ledger.seats.inverters)
    for switch in switch_line(r.ledger).switches:
        if switch.part == "PV":
            yield _pv(r, switch.id, r.ledger.house.inverter(switch.unit))
    for breaker, seat in zip(generator_breakers(r.ledger)[:1], r.ledger.seats.generators, strict=False):
        yield _generator(r, breaker, seat.id)
    if r.grid and r.ledger.seats.inverter.role != "off-grid":
        see = "Export stays at or under the limit."
        yield Step(id="export", title="Allow export, last of all", see=see, needs=("settings", *r.metered))

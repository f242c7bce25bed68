"""The steps of the island-first order: what each makes live, what must be seen, what it waits for."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.plan.power_up.board import battery_switches, mark, of, switch_line
from gumboot.core.plan.power_up.group import group_checks, group_steps
from gumboot.core.plan.power_up.parts import Ready, Step, output_check, seen_volts
from gumboot.core.plan.prove import Check, read_when_on
from gumboot.core.seats import InverterSeat


def _batteries(r: Ready) -> Iterable[Step]:
    switched, packs = battery_switches(r.ledger), r.proving("battery")
    for i, (uid, title) in enumerate(switched):
        first, several = i == 0, len(switched) > 1
        yield Step(
            id=f"on-{uid}",
            title=f"Switch on {title[0].lower() + title[1:]}" + (", the leader" if first and several else ""),
            see="Its lamp says ready; no alarm.",
            move=uid,
            holds=packs if first else (),
            caution="Join batteries only inside the maker's voltage window." if first and several else "",
            lands=r.battery,
            needs=("links",) if r.linked else (),
        )


def _fuse(r: Ready, inverter: InverterSeat) -> Iterable[Step]:
    m, whose = mark(r.ledger, inverter), of(r.ledger, inverter)
    yield Step(
        id=f"precharge{m}",
        title=f"Hold pre-charge{whose} for {r.bank.precharge_s.value:.0f} s or longer",
        see="Voltage across the open battery switch falls under 1 V.",
        move=f"precharge{m}",
        figure=r.bank.precharge_s,
        caution="The resistor is hot afterwards.",
        lands=r.battery,
    )
    yield Step(
        id=f"battery-switch{m}",
        title=f"Close the battery switch-fuse{whose}",
        see="No spark, no alarm.",
        move=f"battery-switch{m}",
        caution="Never without pre-charge; never open it under load.",
        lands=r.battery,
    )


def _measured(check: Check, title: str, see: str) -> Step:
    return Step(id="bank-volts", title=title, see=see, measure=check)


def _start(r: Ready) -> Iterable[Step]:
    """From everything dead to batteries and switch-fuses closed."""
    on_bank = read_when_on(r.ledger)
    dead = "A PV string is live in daylight and a battery cannot be switched off at its cells."
    see = "Each dead measurement stands in its band."
    yield Step(id="start-dead", title="Everything open, locked and proved dead", see=see, holds=r.proving(""), caution=dead)
    yield from _batteries(r)
    if on_bank and r.ledger.seats.battery.arrangement == "stack":
        yield _measured(on_bank, "Measure the battery before anything is joined to it", "A whole number of modules, the right way round.")
    for inverter in r.ledger.seats.inverters:
        if r.ledger.house.switch_fuse_of(inverter.id) is not None:
            yield from _fuse(r, inverter)


def _inverter_on(r: Ready) -> Iterable[Step]:
    """The one inverter started and measured."""
    leader, on_bank = r.ledger.house.lead, read_when_on(r.ledger)
    see, lands = "It starts within 5 minutes; the screen says island.", (*r.battery, *r.live("backup", "through"))
    yield Step(id="inverter-on", title="Turn the inverter on", see=see, move="inverter", lands=lands)
    if on_bank and r.ledger.seats.battery.arrangement != "stack":
        yield _measured(on_bank, "Read the battery's voltage on the display", "A whole number of modules.")
    yield from _agrees(r)
    output, gloves = output_check(r.ledger, leader), "Live AC at the terminals. Insulating gloves."
    yield Step(id="island-volts", title="Measure the island output", see=seen_volts(leader.card), measure=output, caution=gloves)


def _agrees(r: Ready) -> Iterable[Step]:
    if r.linked:
        title, see = "State of charge at the inverter equals the battery's", "Same figure at both displays, read after 10 s."
        yield Step(id="soc-agrees", title=title, see=see, needs=("links",))


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


def _generator(r: Ready) -> Step:
    return Step(
        id="generator-breaker",
        title="Start the generator, then close its breaker",
        see="Voltage and frequency steady; charging begins slowly.",
        move="generator-breaker",
        caution="Exhaust kills: outdoors only, away from openings.",
        lands=r.live("generator"),
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
    if r.ledger.seats.generator is not None:
        yield _generator(r)
    if r.grid and r.ledger.seats.inverter.role != "off-grid":
        see = "Export stays at or under the limit."
        yield Step(id="export", title="Allow export, last of all", see=see, needs=("settings", *r.metered))

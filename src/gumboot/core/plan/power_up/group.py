"""Several inverters: each proved alone on the combining panel, then together, before the house is fed."""

from __future__ import annotations

from collections.abc import Iterable

from gumboot.core.figure import Figure, constant
from gumboot.core.ledger import Ledger
from gumboot.core.plan.bank import banks_of
from gumboot.core.plan.group import line_v
from gumboot.core.plan.power_up.banks import agrees, on_display
from gumboot.core.plan.power_up.board import mark, panelled
from gumboot.core.plan.power_up.parts import Ready, Step, output_check, seen_volts
from gumboot.core.plan.prove import Check
from gumboot.core.seats import InverterSeat

APART = constant("U_apart", "Voltage across an open breaker between two inverters in step, at most", 5.0, "V", "cp.combine")
GLOVES = "Live AC at the terminals. Insulating gloves."


def _in_step(ledger: Ledger, inverter: InverterSeat) -> Check:
    """Across the open breaker of an inverter that is to join others on its legs."""
    leg = ledger.house.phases_of(inverter)[0]
    return Check(
        id=f"phase-{inverter.id}",
        station="power-up",
        title=f"Across the open panel breaker of {inverter.name}, {leg} to {leg}",
        unit="V",
        why="Two inverters out of step meet with twice their voltage: in step nothing stands across the breaker.",
        high=APART,
        life=True,
        caution="Live AC on both sides of an open breaker.",
        code="READ-PHASE",
        measures="magnitude",
        places=tuple(sorted(ledger.house.panels)),
    )


def _lines(ledger: Ledger) -> tuple[Check, ...]:
    """Voltage between the lines that the inverters make together, and their rotation."""
    volts = line_v(ledger)
    low: Figure = ledger.work(
        ledger.key("power.lines.low"), "V_lo", ledger.titled("Between lines at least"), 0.95 * volts, "V", source="cp.voltage"
    )
    high: Figure = ledger.work(
        ledger.key("power.lines.high"), "V_hi", ledger.titled("Between lines at most"), 1.05 * volts, "V", source="cp.voltage"
    )
    between = Check(
        id=f"group-lines{ledger.house.mark}",
        station="power-up",
        title="Between lines at the combining panel, each to the next",
        unit="V",
        why="Two units on one phase show nothing between their lines, a wrong phase the wrong voltage.",
        low=low,
        high=high,
        expected=volts,
        life=True,
        caution="Live AC.",
        code="READ-ISLAND",
        places=tuple(sorted(ledger.house.panels)),
    )
    if len(ledger.house.legs) < 3:
        return (between,)
    turning = Check(
        id=f"group-rotation{ledger.house.mark}",
        station="power-up",
        title="Rotation L1, L2, L3 at the combining panel, the same as the supply's",
        unit="",
        why="Motors run backwards on the wrong rotation.",
        life=True,
        code="READ-PHASE",
        places=tuple(sorted(ledger.house.panels)),
    )
    return between, turning


def joining(ledger: Ledger) -> list[InverterSeat]:
    """Inverters that join a leg which another carries already."""
    found, carried = [], set[str]()
    for inverter in ledger.seats.inverters:
        legs = ledger.house.phases_of(inverter)
        if carried & set(legs):
            found.append(inverter)
        carried |= set(legs)
    return found


def shifted(ledger: Ledger) -> bool:
    """Whether units make legs beside each other that none of them makes alone."""
    return len(ledger.house.legs) > len(ledger.seats.inverter.phases)


def group_checks(ledger: Ledger) -> list[Check]:
    """Every measurement of the group's output before the house is fed."""
    alone = [output_check(ledger, i, "combining panel") for i in ledger.seats.inverters]
    lines = list(_lines(ledger)) if shifted(ledger) else []
    return [*alone, *(_in_step(ledger, i) for i in joining(ledger)), *lines]


def _breaker(r: Ready, inverter: InverterSeat) -> str:
    """The breaker of an inverter in the combining panel; none where they meet at no panel, which is a stop."""
    return f"panel-{inverter.id}" if panelled(r.ledger) else ""


def _alone(r: Ready, inverter: InverterSeat) -> Iterable[Step]:
    """One inverter started, measured at the panel by itself, and taken off it again."""
    m, name, uid = mark(r.ledger, inverter), inverter.name, inverter.id
    own, battery = r.live_of(inverter, "output"), r.battery_at(inverter)
    see = "It starts within 5 minutes; its screen says island."
    title = f"Turn {name} on, every breaker of the combining panel open"
    yield Step(id=f"inverter-on{m}", title=title, see=see, move=f"inverter{m}", lands=(*battery, *own))
    yield from on_display(r, inverter)
    title, see = f"Close the breaker of {name} in the panel, alone", "The panel's bar is live from one inverter; the board's main is open."
    yield Step(id=f"panel-on-{uid}", title=title, see=see, move=_breaker(r, inverter), lands=(*own, *r.live("backup", "through")))
    check = output_check(r.ledger, inverter, "combining panel")
    yield Step(
        id=f"island-volts{m}",
        title=f"Measure {name} alone at the panel's bar",
        see=seen_volts(inverter.card).replace("the LOAD terminals", "the panel's bar"),
        measure=check,
        caution=GLOVES,
    )
    yield Step(
        id=f"panel-off-{uid}",
        title=f"Open the breaker of {name} again",
        see="The panel's bar is dead.",
        move=_breaker(r, inverter),
        opens=True,
    )


def _together(r: Ready) -> Iterable[Step]:
    """The link made, then one inverter after another onto the panel."""
    ledger, checks = r.ledger, {c.id: c for c in group_checks(r.ledger)}
    alone = tuple(f"island-volts{mark(ledger, i)}" for i in ledger.seats.inverters)
    lead = ledger.house.lead.name
    yield Step(
        id=f"group-link{ledger.house.mark}",
        title="Join the link between the inverters, then restart them, the leader first",
        see=f"{lead} says it leads; each other shows its own address and its phase.",
        holds=alone,
        needs=("settings",),
    )
    for inverter in ledger.seats.inverters:
        phase = checks.get(f"phase-{inverter.id}")
        if phase is not None:
            title = f"Measure across the open breaker of {inverter.name}"
            yield Step(id=phase.id, title=title, see="Next to nothing: the two are in step.", measure=phase, caution=GLOVES)
        yield Step(
            id=f"panel-join-{inverter.id}",
            title=f"Close the breaker of {inverter.name} in the panel",
            see="It takes its share; no alarm.",
            move=_breaker(r, inverter),
            holds=(phase.id,) if phase is not None else alone,
            lands=r.live_of(inverter, "output"),
        )
    if shifted(ledger):
        lines = checks[f"group-lines{ledger.house.mark}"]
        see = f"{lines.expected.value:.0f} V between each line and the next." if lines.expected else ""
        yield Step(
            id=f"group-lines{ledger.house.mark}", title="Measure between the lines at the panel", see=see, measure=lines, caution=GLOVES
        )
    if (turning := checks.get(f"group-rotation{ledger.house.mark}")) is not None:
        yield Step(
            id=f"group-rotation{ledger.house.mark}",
            title="Prove the rotation at the panel",
            see="L1, L2, L3 as at the main board.",
            measure=turning,
        )


def group_steps(r: Ready) -> Iterable[Step]:
    """From switch-fuses closed to a group that may feed the house."""
    for inverter in r.ledger.seats.inverters:
        yield from _alone(r, inverter)
    yield from agrees(r, "leader" if len(banks_of(r.ledger)) == 1 else "inverter")
    yield from _together(r)

"""The acts of proving, of first power and its way back, and of the settings."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from gumboot.core.acts.act import LICENSED, Act, Band, Guards, Kind, ident
from gumboot.core.acts.graph import PLAN
from gumboot.core.acts.leads import BEFORE_POWER, ON_A_BUS, proved_leads
from gumboot.core.acts.ritual import ritual_acts
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up import Step
from gumboot.core.plan.power_up.parts import METER
from gumboot.core.plan.prove import Check, Lasts
from gumboot.core.plan.settings import Setting
from gumboot.core.wording import within

OFF = ident("off", "all.switches")  # no name has a dot: no switch is called so


def check_act(check: Check, needs: tuple[str, ...] = ()) -> Act:
    """A measurement or look as an act; how far others stand apart follows from them."""
    band = Band(
        unit=check.unit,
        low=check.low,
        high=check.high,
        expected=check.expected,
        measures=check.measures,
        shows=check.shows,
        choices=() if check.unit else ("yes", "no"),
    )
    of = tuple(ident("check", name) for name in check.spread_of)
    return Act(
        id=ident("check", check.id),
        kind=Kind.DISPLAYS if check.shows else Kind.MEASUREMENT if check.unit else Kind.LOOK,
        station=check.station,
        title=check.title,
        thing=next(iter(check.places), ""),
        prepare=check.prepare,
        see=check.why,
        caution=check.caution,
        band=band,
        guards="life" if check.life else "equipment",
        needs=(*of, *needs),
        lasts=check.lasts,
        is_derived=bool(of),
    )


def prove_acts(plan: Plan) -> Iterator[Act]:
    """The dead checks: nothing comes before a look or a measurement that makes sure."""
    for check in plan.proved:
        yield check_act(check)


def _needed(plan: Plan, step: Step, meters: dict[str, str]) -> list[str]:
    """What a step needs beside the step before it: what it makes live landed and proved, ritual, settings and meter tests."""
    found = [ident("check", check) for check in step.holds]
    found += [ident("torque", t.id) for t in plan.terminations if t.circuit in step.lands]
    for need in step.needs:
        if need == "links":
            found += [*(act.id for act in ritual_acts(plan)), *proved_leads(plan, *ON_A_BUS)]
        elif need == "settings":
            found += [ident("setting", row.key) for row in plan.settings.sheet]
        else:
            found += [meters[need]] if need in meters else []
    return found


def joints(plan: Plan) -> list[str]:
    """Joints from the factory: what is loose there burns when power comes."""
    return [ident("joint", f"{box.place}.{own.joint.id}") for box in plan.fitting.boxes for own in box.joints]


def power_acts(plan: Plan) -> Iterator[Act]:
    """Each step of first power with the reading that it rests on, after the step before it."""
    meters = {f"{METER}{tested.mark}": ident("meter", tested.test) for tested in plan.sensing.sets if tested.cts}
    before: tuple[str, ...] = ()
    for step in plan.power_up.steps:
        read: tuple[str, ...] = ()
        if step.measure is not None:
            measured = check_act(step.measure, (PLAN, *before))
            read = (measured.id,)
            yield measured
        first = () if before else (*proved_leads(plan, *BEFORE_POWER), *joints(plan))
        needs = tuple(dict.fromkeys((PLAN, *before, *read, *_needed(plan, step, meters), *first)))
        # Of what it does not wait for, nothing may have failed.
        heeds = () if before else tuple(i for c in plan.proved if (i := ident("check", c.id)) not in needs)
        act = ident("step", step.id)
        yield Act(
            id=act,
            kind=Kind.STEP,
            station="power-up",
            title=step.title,
            thing=step.move,
            see=step.see,
            caution=step.caution,
            guards="life",
            needs=needs,
            heeds=heeds,
            moves=(step.move,) if step.move else (),
        )
        before = (act,)


def off_acts(plan: Plan) -> Iterator[Act]:
    """The way back, which nothing holds: all off in order, and each switch opened by itself. What stood on it is done again."""
    steps, line = plan.power_up.steps, plan.power_up.line
    if not steps:
        return
    every = tuple(ident("step", step.id) for step in steps)
    order = f"{', then '.join(within(words) for words in plan.power_up.off_order)}."
    yield Act(
        id=OFF, kind=Kind.OFF, station="power-up", title="All switched off, in the off order", see=order[:1].upper() + order[1:],
        guards="life", undoes=every, makes_safe=True, is_optional=True,
    )  # fmt: skip
    closing = {step.move: at for at, step in reversed(list(enumerate(steps))) if step.move and not step.opens and not step.back}
    for switch, at in sorted(closing.items(), key=lambda item: -item[1]):
        if line.switch(switch).part != "precharge":
            yield Act(
                id=ident("off", switch), kind=Kind.OFF, station="power-up", title=f"Opened again: {line.switch(switch).title}",
                thing=switch, guards="life", undoes=every[at:], moves=(switch,), makes_safe=True, is_optional=True,
            )  # fmt: skip


def setting_acts(plan: Plan) -> Iterator[Act]:
    """Each line of the sheet. A device is told its limits before it may give power: nothing comes before."""
    for row in plan.settings.sheet:
        yield Act(
            id=ident("setting", row.key), kind=Kind.SETTING, station="settings", title=row.title, thing=row.group, see=row.why,
            band=_asked(row), guards=_guards(row), lasts=Lasts(firmware=True),
        )  # fmt: skip


def _guards(row: Setting) -> Guards:
    return row.guards or "equipment"


def _asked(row: Setting) -> Band:
    if row.figure is None:
        return Band(words=row.text, choices=row.choices)
    return Band(unit=row.figure.unit, expected=row.figure, measures="magnitude" if row.unsigned else "signed")


def clearance_acts(plan: Plan) -> Iterator[Act]:
    """What a licence holder may clear: each reading that stands outside its band, with a reason. Nobody waits for it."""
    for check in itertools.chain(plan.all_checks()):
        yield Act(
            id=ident("clear", check.id), kind=Kind.CLEARANCE, station=check.station, title=f"Cleared: {check.title}",
            thing=ident("check", check.id), guards="life" if check.life else "equipment", who=LICENSED, makes_safe=False, is_optional=True,
        )  # fmt: skip

"""The acts of landing and sensing."""

from __future__ import annotations

from collections.abc import Iterator

from gumboot.core.acts.act import Act, Band, Kind, ident
from gumboot.core.acts.fitting_up import ferrite_act
from gumboot.core.acts.graph import PLAN
from gumboot.core.acts.labels import marks_of_circuits
from gumboot.core.acts.start import check_act
from gumboot.core.card.base import EnclosureCard
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.prove import Lasts
from gumboot.core.plan.sensing import CtSet
from gumboot.core.plan.terminations import Termination, termination_id

DAY_AFTER_H, YEAR_AFTER_H = 24.0, 365 * 24.0
NEVER = "Once tightened, never disturbed: look at its mark, and leave it."


def _landing(t: Termination, *, before: tuple[str, ...]) -> Act:
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
        needs=before,
        lasts=Lasts(rests=t.size),
    )


def far_ends(plan: Plan) -> dict[str, tuple[str, ...]]:
    """By an end at a source that nobody can switch off: the other end of its conductor, which is landed first.

    Between two such ends, as from block to block, neither comes first.
    """
    known = {t.id for t in plan.terminations if not t.live_method}
    found: dict[str, tuple[str, ...]] = {}
    for live in (t for t in plan.terminations if t.live_method):
        circuit = plan.circuits.sized[live.circuit].circuit
        core = next((c for c in circuit.cores if any(termination_id(end, live.circuit) == live.base for end in c.ends)), None)
        others = [termination_id(end, live.circuit) for end in core.ends] if core is not None else []
        found[live.id] = tuple(
            name for other in others if other != live.base and (name := f"{other}{live.id.removeprefix(live.base)}") in known
        )
    return found


def isolated_at(plan: Plan) -> dict[str, str]:
    """By the place of a source that can be switched off: the act that proves it dead before anything is landed there."""
    return {check.places[0]: ident("check", check.id) for check in plan.isolated}


def isolated_acts(plan: Plan) -> Iterator[Act]:
    """Sources switched off, locked, and proved dead."""
    for check in plan.isolated:
        yield check_act(check)


def wire_acts(plan: Plan) -> Iterator[Act]:
    """Each landing, in landing order, and each lug that is looked at again a day later."""
    placed = {box.id for wall in plan.walls for box in wall.boxes}
    first = {place for place, card in plan.house.cards.items() if place in placed and isinstance(card, EnclosureCard) and card.hang_first}
    ferrites = {(box.place, f.port): ferrite_act(box.place, f.port) for box in plan.fitting.boxes for f in box.ferrites}
    far, marked, isolated = far_ends(plan), marks_of_circuits(plan), isolated_at(plan)
    for t in plan.terminations:
        hung = (ident("lift", t.place),) if t.place in first else ()
        on = (ferrites[t.place, t.port],) if (t.place, t.port) in ferrites else ()
        marks = marked.get(t.circuit, ()) if t.live_method else ()
        dead = (isolated[t.place],) if t.place in isolated else ()
        yield _landing(t, before=(*hung, *dead, *on, *marks, *(ident("torque", end) for end in far.get(t.id, ()))))
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


def _placed(tested: CtSet) -> str:
    """Where the CTs of a set sit, in words: one that is moved is tested again."""
    return ", ".join(f"{ct.place.channel} {ct.place.leg} {ct.place.arrow} {ct.place.side}" for ct in tested.cts)


def _core_acts(plan: Plan, tested: CtSet) -> Iterator[Act]:
    """Each core closed round its conductor, after its secondary is in."""
    ct, leads = plan.seats.of_meters.get(tested.meter), {lead.id for lead in plan.leads.leads}
    for each in tested.cts:
        place, lead = each.place, f"ct.{tested.meter}.{each.place.channel}"
        yield Act(
            id=ident("core", f"{tested.meter}.{place.channel}"),
            kind=Kind.CORE,
            station="sensing",
            title=f"{place.channel} closed round {place.leg}{tested.of}",
            thing=tested.meter,
            see=f"Round {place.leg} alone, {place.side}; arrow {place.arrow}; both halves clicked, nothing between them.",
            caution=" ".join(ct.house_notes) if ct is not None else "",
            needs=(ident("lead", lead),) if lead in leads else (),
            lasts=Lasts(rests=f"{place.channel} {place.leg} {place.arrow} {place.side}"),
        )


def sensing_acts(plan: Plan) -> Iterator[Act]:
    """Each core in its place, then the meter test of each set, PV off: after the grid is in, before PV and export."""
    steps = {step.id for step in plan.power_up.steps}
    for tested in plan.sensing.sets:
        if not tested.cts:
            continue
        cores = tuple(_core_acts(plan, tested))
        yield from cores
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
            needs=(*(act.id for act in cores), ident("step", grid) if grid in steps else PLAN),
            lasts=Lasts(rests=_placed(tested)),
        )

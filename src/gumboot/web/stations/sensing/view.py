"""What the station Sensing is drawn from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.acts import Act, ident
from gumboot.core.figure import Figure
from gumboot.core.job.model import Meter
from gumboot.core.plan.sensing import CtSet
from gumboot.core.recording import Input, inputs_of
from gumboot.core.sim.ct_readings import CtVerdict, MeterVerdict
from gumboot.drawing import sensing
from gumboot.drawing.upstream import upstream_canvas
from gumboot.web.page_words import free_channels, lines_of
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class Group:
    """Answers of a meter test that are asked together, and what one channel must show more than before; ``others``: further ones as before."""

    title: str
    asks: list[Input]
    expect: Figure | None
    channel: str
    others: bool


@dataclass(frozen=True, slots=True)
class Told:
    """What is told of a channel, and the heads of the table of what could be so with it."""

    said: CtVerdict
    heads: list[str]


@dataclass(frozen=True, slots=True)
class Test:
    """A meter test: what waits before it, what it asks, and how the last one was judged. ``others`` are asked where a further core was touched."""

    act: Act
    title: str
    waits: str
    groups: list[Group]
    others: list[Group]
    verdict: MeterVerdict | None
    told: list[Told]


@dataclass(frozen=True, slots=True)
class Set:
    """A set of CTs: as the job has it, who reads it, the inputs that have no CT yet, and its test."""

    meter: Meter
    at: str
    reader: str
    free: tuple[str, ...]
    lines: tuple[str, ...]
    drawing: Markup | None
    waits: str
    test: Test | None


@dataclass(frozen=True, slots=True)
class SensingView:
    """The station Sensing."""

    waits: str
    upstream: Markup | None
    sets: list[Set]
    readers: list[str]
    loads: list[tuple[str, str]]
    may_add: bool


def _grouped(own: CtSet, asks: Sequence[Input]) -> Iterator[Group]:
    for title in dict.fromkeys(asked.group for asked in asks):
        here = {asked.name: asked for asked in asks if asked.group == title}
        legs = [ct.wanted_leg.lower() for ct in own.cts if f"load-{ct.wanted_leg.lower()}{own.mark}" in here]
        names = {ct.place.channel: f"{leg}-{ct.place.channel}{own.mark}" for leg in legs for ct in own.cts}
        loaded = next((ct for ct in own.cts if ct.wanted_leg.lower() in legs and names[ct.place.channel] in here), None)
        others = [name for channel, name in names.items() if name in here and (loaded is None or channel != loaded.place.channel)]
        yield Group(title, list(here.values()), loaded.expected if loaded else None, loaded.place.channel if loaded else "", bool(others))


def _test(b: Bench, own: CtSet) -> Test:
    act = b.standing.acts[ident("meter", own.test)]
    asks = inputs_of(b.plan, b.standing, act)
    groups = _grouped(own, [asked for asked in asks if asked.required])
    others = _grouped(own, [asked for asked in asks if not asked.required])
    waits = b.standing.waiting.get(own.test, "")
    verdict = b.standing.meters.get(own.test)
    told = [Told(each, _heads(each)) for each in (verdict.channels if verdict is not None else ())]
    return Test(act, f"Meter test{own.of}", waits, list(groups), list(others), verdict, told)


def _heads(said: CtVerdict) -> list[str]:
    shown = said.causes[0].shown if said.causes else ()
    return ["it may sit", *(f"{one.on or 'nothing'} on: would show · showed" for one in shown), ""]


def _set(b: Bench, meter: Meter, own: CtSet | None) -> Set:
    unit = next((i for i in b.plan.seats.inverters if i.id == meter.inverter), None)
    drawn = own is not None and bool(own.cts)
    several = len(b.job.sensing.meters) > 1
    unchosen = "Choose the current transformers on the Survey: nothing is planned for this set."
    waits = "" if drawn or not several else "Nothing is planned for this set." if meter.card else unchosen
    return Set(
        meter=meter,
        at=f"sensing.meters.{meter.id}",
        reader=unit.name if unit else meter.inverter,
        free=free_channels(b, meter),
        lines=lines_of(b, meter),
        drawing=sensing.ct_drawing(b.plan, own.mark) if own is not None and drawn else None,
        waits=waits,
        test=_test(b, own) if own is not None and drawn else None,
    )


def _waits(b: Bench, has_grid: bool) -> str:
    if b.plan.sensing.cts:
        return ""
    if not has_grid:
        return "No grid: nothing is measured on service conductors."
    if any(seat.card.style == "gateway" for seat in b.plan.seats.transfers):
        return "The gateway measures the grid itself: there are no current transformers to place."
    if not b.plan.seats.inverter.ct_channels:
        return "This system has no current transformers of its own."
    return "The current transformers wait for an answer."


def view_of(b: Bench) -> SensingView:
    """The station as its page needs it; the sets that are read come first."""
    has_grid = b.job.site.supply != "none"
    planned = {each.meter: each for each in b.plan.sensing.sets}
    order = list(planned)
    meters = sorted(b.job.sensing.meters, key=lambda x: order.index(x.id) if x.id in planned else len(order))
    legs = sorted({leg for each in b.plan.sensing.sets for leg in each.legs})
    upstream = upstream_canvas(b.plan)
    return SensingView(
        waits=_waits(b, has_grid),
        upstream=upstream.render() if upstream is not None else None,
        sets=[_set(b, meter, planned.get(meter.id)) for meter in meters] if has_grid else [],
        readers=[seat.id for seat in b.plan.seats.inverters],
        loads=[(f"sensing.test_{leg.lower()}_w", f"Known load on {leg}") for leg in legs],
        may_add=has_grid and bool(b.plan.sensing.blind),
    )

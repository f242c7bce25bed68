"""Which rules does a layout break?"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TypeVar

from gumboot.core.card.inverter import Tracker
from gumboot.core.card.solar import ModuleCard, OptimiserCard
from gumboot.core.expression import total
from gumboot.core.figure import Figure
from gumboot.core.job.model import Face, Job
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.strings import currents, optimised, voltages
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rules import Asked, Breach, Code, connection
from gumboot.core.rules import strings as rules
from gumboot.core.study.layouts.parts import Broken, Finder, Lay, finder_of
from gumboot.core.workbook import Workbook

Facts = TypeVar("Facts")


def cold_volts(f: Finder, lay: Lay) -> float:
    """Open-circuit voltage of a lay's strings on the coldest morning, V."""
    card = f.modules[lay.face]
    return pv.string_voltage_v(float(lay.modules), card.voc_v, card.voc_per_k, f.site.record_low_c or 0.0)


@dataclass(frozen=True)
class Thought:
    """A lay that is only thought of, with a workbook to work it out in."""

    f: Finder
    lay: Lay
    tracker: Tracker
    face: Face
    w: Workbook
    found: list[Broken]

    @property
    def name(self) -> str:
        """The lay in words."""
        return f"{self.lay.count} × {self.lay.modules} on {self.tracker.id}"

    def ask(self, rule: Asked[Facts], facts: Facts) -> None:
        """Ask a rule of the plan and note what it says against the lay."""
        if (breach := rule(facts)) is not None:
            self.found.append(Broken(rule.code, breach.text))

    @property
    def module(self) -> ModuleCard:
        """The module of its face."""
        return self.f.modules[self.face.id]

    def count(self) -> Figure:
        """Modules in series."""
        return self.w.given("modules", "n", "Modules in series", float(self.lay.modules), "")


def _judge_plain(t: Thought) -> None:
    converter, w = t.f.converter_of(t.tracker.id), t.w
    air = voltages.Weather(coldest=w.told(t.f.site, "site.record_low_c"), summer=w.told(t.f.site, "site.summer_high_c"))
    rise = w.told(t.face, f"faces.{t.face.id}.cell_rise_k")
    hung = voltages.Hung(place=t.name, module=t.module, longest=t.count(), shortest=t.count(), cell_rise=rise, building=t.face.building)
    v = voltages.volts(w, "lay", hung, converter, t.tracker, air=air)
    for rule in rules.VOLTAGES:
        t.ask(rule, v)
    parallel = currents.parallel(w, "lay", t.lay.count)
    flows = currents.of_modules(w, "lay", t.module, parallel)
    _judge_amps(t, flows, held=False)
    chosen = w.said(Job, "string_fuse_a", t.f.fuse_a) if t.f.fuse_a is not None else None
    _judge_fuses(t, currents.fuse(w, "lay", t.name, t.module, parallel, chosen=chosen))
    _judge_isolator(t, v.cold, flows[1])


def _judge_optimised(t: Thought, card: OptimiserCard) -> None:
    converter, w, module = t.f.converter_of(t.tracker.id), t.w, t.module
    facts = optimised.string(w, "lay", t.name, t.count(), module, card=card)
    t.ask(rules.optimiser_count, facts)
    t.ask(rules.optimiser_power, facts)
    v = optimised.volts(w, "lay", (t.name, module, t.face.building), card, converter=converter, tracker=t.tracker)
    t.ask(rules.cold_voltage, v)
    amps = optimised.maximum(w, "lay", currents.parallel(w, "lay", t.lay.count), card)
    _judge_amps(t, (amps, amps), held=True)
    _judge_isolator(t, v.cold, amps)


def _judge_amps(t: Thought, flows: tuple[Figure, Figure], *, held: bool) -> None:
    facts = currents.amps(t.w, t.name, t.f.converter_of(t.tracker.id), t.tracker, flows, bridged=t.lay.bridge, held=held)
    for rule in rules.CURRENTS:
        t.ask(rule, facts)


def _judge_fuses(t: Thought, strung: rules.Fuse) -> None:
    t.ask(rules.string_fuse, strung)
    box = t.f.roof_boxes.get(t.tracker.id)
    if box is not None and (asked := currents.breaking(t.w, t.name, box, strung)):
        says, breaks = asked
        t.ask(connection.card_states, says)
        if breaks is not None:
            t.ask(rules.fuse_breaks, breaks)


def _judge_isolator(t: Thought, cold: Figure, maximum: Figure) -> None:
    box = t.f.roof_boxes.get(t.tracker.id)
    if box is not None:
        t.ask(rules.isolator, currents.isolator(t.w, t.name, box, cold, maximum))


def _on_face(f: Finder, face: Face, wanted: int) -> rules.OnFace:
    holds = Workbook(f.book).work("holds", "n_face", f"Places on {face.title.lower()}", float(f.holds[face.id]), "", source="cp.clear")
    return rules.OnFace(title=face.title, wanted=wanted, places=holds)


def broken_by(f: Finder, lay: Lay) -> list[Broken]:
    """Every limit that one tracker's lay breaks, as the plan's rules say; empty when it may be built."""
    tracker = next((t for t in f.trackers if t.id == lay.tracker), None)
    face = next((x for x in f.faces if x.id == lay.face), None)
    if tracker is None or face is None:
        return [Broken(rules.tracker_exists.code, f"{lay.tracker} or the face {lay.face} is not part of this job.")]
    t = Thought(f, lay, tracker, face, Workbook(f.book), [])
    t.ask(rules.face_holds, _on_face(f, face, lay.total))
    if f.optimiser is not None:
        _judge_optimised(t, f.optimiser)
    else:
        _judge_plain(t)
    return t.found


def why_not(plan: Plan, wanted: tuple[Lay, ...]) -> list[Broken]:
    """Every limit that a wanted layout breaks, tracker by tracker and as a whole; empty when it may be built."""
    f = finder_of(plan)
    if isinstance(f, str):
        return [Broken("PLAN-WAITS", f"This can be judged when {f}.")]
    found = list(itertools.chain.from_iterable(broken_by(f, x) for x in wanted))
    return found + [Broken(code, breach.text) for code, breach in _together(f, wanted) if breach is not None]


def _laid(f: Finder, x: Lay) -> tuple[int, str, str]:
    """A lay by its length, its face and its module."""
    return x.modules, x.face, f.modules[x.face].id if x.face in f.modules else ""


def _together(f: Finder, wanted: tuple[Lay, ...]) -> Iterator[tuple[Code, Breach | None]]:
    """What the plan's rules say of a layout as a whole."""
    for face in f.faces:
        on = [x for x in wanted if x.face == face.id]
        if len(on) > 1:
            yield rules.face_holds.code, rules.face_holds(_on_face(f, face, sum(x.total for x in on)))
    w = Workbook(f.book)
    for x in wanted:
        tracker = next((t for t in f.trackers if t.id == x.tracker), None)
        taken = tuple(f"{y.count} × {y.modules}" for y in wanted if tracker and y.tracker == tracker.bridge_with)
        if tracker is not None and x.bridge and taken:
            flows = currents.of_modules(w, x.tracker, f.modules[x.face], currents.parallel(w, x.tracker, x.count))
            facts = currents.amps(w, x.tracker, f.converter_of(x.tracker), tracker, flows, bridged=True, others=taken)
            yield rules.bridge.code, rules.bridge(facts)
    for tracker_id in dict.fromkeys(x.tracker for x in wanted):
        lays = [_laid(f, x) for x in wanted if x.tracker == tracker_id]
        yield rules.alike.code, rules.alike(rules.Laid(place=tracker_id, lays=lays))
    for nth, converter in enumerate(f.converters):
        own = {t.id for t in converter.trackers}
        parts = [float(x.total) * w.read(f.modules[x.face], "power_w") for x in wanted if x.tracker in own and x.face in f.modules]
        if converter.trackers and parts:
            power = w.work(f"power.{nth}", "P_pv", "PV power", total(parts, parts[0]), "W", source="arith")
            yield rules.array_power.code, rules.array_power(rules.Array(power=power, most=w.read(converter, "pv_max_w")))
    if f.parallel_only:
        laid = rules.Laid(place="inputs", lays=[_laid(f, x) for x in wanted])
        yield rules.input_mode.code, rules.input_mode(rules.Mode(mode="parallel", modes=("parallel",), laid=laid))

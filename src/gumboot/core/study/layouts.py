"""Which assignments of modules to trackers are admissible on this roof, which is best and why, and why is a wanted one not?"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from gumboot.core.card import ModuleCard
from gumboot.core.card.model import BoardCard, OptimiserCard, Tracker
from gumboot.core.figure import Figure
from gumboot.core.job.model import Face, Job, Site
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.places import places
from gumboot.core.plan.strings import currents, optimised, voltages
from gumboot.core.plan.strings.faces import accepted
from gumboot.core.rulebook.books import RuleBook, book
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.rules import Asked, Breach
from gumboot.core.rules import strings as rules
from gumboot.core.seats import Converter, seats_of
from gumboot.core.study.year import face_yield_w, place_of
from gumboot.core.workbook import Workbook

Facts = TypeVar("Facts")


@dataclass(frozen=True)
class Lay:
    """Strings of one tracker: ``count`` strings of ``modules`` each on ``face``; a bridge where one terminal is not enough."""

    tracker: str
    face: str
    modules: int
    count: int
    bridge: bool = False

    @property
    def total(self) -> int:
        """Modules on this tracker."""
        return self.modules * self.count


@dataclass(frozen=True)
class Broken:
    """One limit that a lay breaks, in words with both numbers."""

    code: str
    text: str


@dataclass(frozen=True)
class Finder:
    """Everything a lay is judged against, taken from a plan once. Lays are judged by the plan's own rules."""

    converters: tuple[Converter, ...]
    faces: tuple[Face, ...]
    holds: Mapping[str, int]
    module: ModuleCard
    site: Site
    book: RuleBook
    kwh_each: Mapping[str, float] | None
    optimiser: OptimiserCard | None = None
    roof_box: BoardCard | None = None
    parallel_only: bool = False
    fuse_a: float | None = None

    @property
    def trackers(self) -> tuple[Tracker, ...]:
        """Every PV input."""
        return tuple(t for c in self.converters for t in c.trackers)

    @property
    def pv_max_w(self) -> float:
        """PV power that the inverters accept, W."""
        return sum(c.pv_max_w for c in self.converters if c.trackers)

    def with_inputs(self, trackers: Sequence[Tracker], pv_max_w: float | None = None) -> Finder:
        """The same roof with one inverter that has these inputs."""
        first = self.converters[0]
        changed = first.model_copy(update={"trackers": list(trackers), "pv_max_w": self.pv_max_w if pv_max_w is None else pv_max_w})
        return replace(self, converters=(changed,))

    def converter_of(self, tracker: str) -> Converter:
        """The inverter that has an input."""
        return next(c for c in self.converters if any(t.id == tracker for t in c.trackers))

    @cached_property
    def limit_v(self) -> Mapping[str, float]:
        """The voltage that each input never exceeds, V."""
        w = Workbook(self.book)
        return {t.id: voltages.limit(w, t.id, self.converter_of(t.id), t, self.module).value for t in self.trackers}


def finder_of(plan: Plan) -> Finder | str:
    """The finder for a plan's roof and inverters, or what must be answered first."""
    job = plan.job
    seats = seats_of(job, plan.shelf)
    if seats.module is None:
        return "a module is chosen"
    if not job.faces:
        return "a roof face is entered"
    if job.site.record_low_c is None or job.site.summer_high_c is None:
        return "the record low and the summer temperature are answered"
    converters = tuple(c for c in (seats.inverter, seats.pv_inverter) if c is not None)
    if not any(c.trackers for c in converters):
        return "an inverter with PV inputs is chosen"
    place, _ = place_of(job)
    kwh = None
    if place is not None:
        kwh = {f.id: float(face_yield_w(plan, place, f.id).sum()) / 1000 for f in job.faces}
    return Finder(
        converters=converters,
        faces=tuple(job.faces),
        holds={f.id: places(f, seats.module) for f in job.faces},
        module=seats.module,
        site=job.site,
        book=book(job.rule_book),
        kwh_each=kwh,
        optimiser=seats.optimiser,
        roof_box=seats.roof_box,
        parallel_only=job.pv_mode == "parallel",
        fuse_a=job.string_fuse_a,
    )


def cold_volts(f: Finder, modules: int) -> float:
    """Open-circuit voltage of a string on the coldest morning, V."""
    return pv.string_voltage_v(float(modules), f.module.voc_v, f.module.voc_per_k, f.site.record_low_c or 0.0)


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

    def count(self) -> Figure:
        """Modules in series."""
        return self.w.given("modules", "n", "Modules in series", float(self.lay.modules), "")


def _judge_plain(t: Thought) -> None:
    converter, w = t.f.converter_of(t.tracker.id), t.w
    air = voltages.Weather(w.told(t.f.site, "site.record_low_c"), w.told(t.f.site, "site.summer_high_c"))
    rise = w.told(t.face, f"faces.{t.face.id}.cell_rise_k")
    hung = voltages.Hung(place=t.name, module=t.f.module, longest=t.count(), shortest=t.count(), cell_rise=rise)
    v = voltages.volts(w, "lay", hung, converter, t.tracker, air)
    for rule in rules.VOLTAGES:
        t.ask(rule, v)
    flows = currents.of_modules(w, "lay", t.f.module, currents.parallel(w, "lay", t.lay.count))
    _judge_amps(t, flows, held=False)
    chosen = w.said(Job, "string_fuse_a", t.f.fuse_a) if t.f.fuse_a is not None else None
    t.ask(rules.string_fuse, currents.fuse(w, "lay", t.name, t.f.module, t.lay.count, chosen))
    _judge_isolator(t, v.cold, flows[1])


def _judge_optimised(t: Thought, card: OptimiserCard) -> None:
    converter, w, module = t.f.converter_of(t.tracker.id), t.w, t.f.module
    facts = optimised.string(w, "lay", t.name, t.count(), module, card)
    t.ask(rules.optimiser_count, facts)
    t.ask(rules.optimiser_power, facts)
    v = optimised.volts(w, "lay", t.name, module, card, converter, t.tracker)
    t.ask(rules.cold_voltage, v)
    amps = optimised.maximum(w, "lay", currents.parallel(w, "lay", t.lay.count), card)
    _judge_amps(t, (amps, amps), held=True)
    _judge_isolator(t, v.cold, amps)


def _judge_amps(t: Thought, flows: tuple[Figure, Figure], *, held: bool) -> None:
    facts = currents.amps(t.w, t.name, t.f.converter_of(t.tracker.id), t.tracker, flows, bridged=t.lay.bridge, held=held)
    for rule in rules.CURRENTS:
        t.ask(rule, facts)


def _judge_isolator(t: Thought, cold: Figure, maximum: Figure) -> None:
    if t.f.roof_box is not None:
        t.ask(rules.isolator, currents.isolator(t.w, t.name, t.f.roof_box, cold, maximum))


def _on_face(f: Finder, face: Face, wanted: int) -> rules.OnFace:
    holds = Workbook(f.book).work("holds", "n_face", f"Places on {face.title.lower()}", float(f.holds[face.id]), "", "cp.clear")
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


def lays_of(f: Finder, tracker: Tracker) -> list[Lay]:
    """Every admissible lay of one tracker."""
    found = []
    for face in f.faces:
        top = f.holds[face.id]
        for modules in range(1, top + 1):
            for count in range(1, top // modules + 1):
                plain = Lay(tracker.id, face.id, modules, count)
                broken = broken_by(f, plain)
                if not broken:
                    found.append(plain)
                elif tracker.bridge_max_a is not None and {b.code for b in broken} == {"PV-TERMINAL-CURRENT"}:
                    bridged = Lay(tracker.id, face.id, modules, count, True)
                    if not broken_by(f, bridged):
                        found.append(bridged)
    return found


def _alike(a: Tracker, b: Tracker) -> bool:
    return a.model_copy(update={"id": "", "port": "", "bridge_with": ""}) == b.model_copy(update={"id": "", "port": "", "bridge_with": ""})


def _holds_the_bridge(f: Finder, tracker: Tracker) -> bool:
    """Of two inputs that the maker's bridge joins, the first holds the string: the other way round is the same layout."""
    order = [t.id for t in f.trackers]
    return tracker.bridge_with not in order or order.index(tracker.id) < order.index(tracker.bridge_with)


def assignments(f: Finder) -> Iterator[tuple[Lay, ...]]:
    """Every admissible assignment, each once: trackers that are alike are not told apart. The empty one is left out.

    A bridge that takes the terminal of another input leaves that input empty.
    """
    options = [[x for x in lays_of(f, t) if not x.bridge or _holds_the_bridge(f, t)] for t in f.trackers]
    partner = {t.id: t.bridge_with for t in f.trackers if t.bridge_with}
    most = math.floor(f.pv_max_w / f.module.power_w + 1e-9) if f.pv_max_w else 0
    paired = any(x.bridge and x.tracker in partner for rows in options for x in rows)
    alike = [k > 0 and not paired and _alike(f.trackers[k - 1], f.trackers[k]) for k in range(len(f.trackers))]
    kinds = [next(k for k, other in enumerate(f.trackers) if _alike(other, t)) for t in f.trackers]
    numbered = [list(enumerate(rows)) for rows in options]
    seen: set[tuple[tuple[int, str, int, int, bool], ...]] = set()

    def further(k: int, free: dict[str, int], left: int, before: int, taken: frozenset[str]) -> Iterator[tuple[Lay, ...]]:
        if k == len(f.trackers):
            yield ()
            return
        # Of alike trackers the later one never takes an option before the earlier one's: each set comes once.
        floor = before if alike[k] else -1
        for n, lay in numbered[k] if f.trackers[k].id not in taken else ():
            if n < floor or lay.total > free[lay.face] or lay.total > left:
                continue
            free[lay.face] -= lay.total
            more = taken | {partner[lay.tracker]} if lay.bridge and lay.tracker in partner else taken
            for rest in further(k + 1, free, left - lay.total, n, more):
                yield (lay, *rest)
            free[lay.face] += lay.total
        # An empty tracker comes after every option, so the alike one behind it stays empty too.
        yield from further(k + 1, free, left, 10**9, taken)

    index = {t.id: kinds[k] for k, t in enumerate(f.trackers)}
    for lays in further(0, dict(f.holds), most, -1, frozenset()):
        if not lays or (f.parallel_only and len({(x.face, x.modules) for x in lays}) > 1):
            continue
        if paired:
            # Pairs are alike as pairs, which the order of single trackers does not see: told by what lies on them.
            same = tuple(sorted((index[x.tracker], x.face, x.modules, x.count, x.bridge) for x in lays))
            if same in seen:
                continue
            seen.add(same)
        yield lays


def why_not(plan: Plan, wanted: tuple[Lay, ...]) -> list[Broken]:
    """Every limit that a wanted layout breaks, tracker by tracker and as a whole; empty when it may be built."""
    f = finder_of(plan)
    if isinstance(f, str):
        return [Broken("PLAN-WAITS", f"This can be judged when {f}.")]
    found = list(itertools.chain.from_iterable(broken_by(f, x) for x in wanted))
    return found + [Broken(rule.code, breach.text) for rule, breach in _together(f, wanted) if breach is not None]


def _together(f: Finder, wanted: tuple[Lay, ...]) -> Iterator[tuple[Asked[Any], Breach | None]]:
    """What the plan's rules say of a layout as a whole."""
    for face in f.faces:
        on = [x for x in wanted if x.face == face.id]
        if len(on) > 1:
            yield rules.face_holds, rules.face_holds(_on_face(f, face, sum(x.total for x in on)))
    w = Workbook(f.book)
    for x in wanted:
        tracker = next((t for t in f.trackers if t.id == x.tracker), None)
        taken = tuple(f"{y.count} × {y.modules}" for y in wanted if tracker and y.tracker == tracker.bridge_with)
        if tracker is not None and x.bridge and taken:
            flows = currents.of_modules(w, x.tracker, f.module, currents.parallel(w, x.tracker, x.count))
            facts = currents.amps(w, x.tracker, f.converter_of(x.tracker), tracker, flows, bridged=True, others=taken)
            yield rules.bridge, rules.bridge(facts)
    for tracker_id in dict.fromkeys(x.tracker for x in wanted):
        lays = [(x.modules, x.face) for x in wanted if x.tracker == tracker_id]
        yield rules.alike, rules.alike(rules.Laid(place=tracker_id, lays=lays))
    power = w.work("power", "P_pv", "PV power", float(sum(x.total for x in wanted)) * w.read(f.module, "power_w"), "W", "arith")
    if (most := accepted(w, list(f.converters))) is not None:
        yield rules.array_power, rules.array_power(rules.Array(power=power, most=most))
    if f.parallel_only:
        laid = rules.Laid(place="inputs", lays=[(x.modules, x.face) for x in wanted])
        yield rules.input_mode, rules.input_mode(rules.Mode(mode="parallel", modes=("parallel",), laid=laid))


def series_mismatch_pct(plan: Plan, face_a: str, modules_a: int, face_b: str, modules_b: int) -> float | None:
    """Share of a year's yield lost by joining modules of two faces in one string, %, None while the place is not known.

    At each hour the string works either at the darker face's current with all modules, or at the brighter one's with the
    others bypassed, whichever gives more: the two peaks of such a string.
    """
    place, _ = place_of(plan.job)
    if place is None:
        return None
    a, b = face_yield_w(plan, place, face_a), face_yield_w(plan, place, face_b)
    alone = modules_a * a + modules_b * b
    joined = np.maximum((modules_a + modules_b) * np.minimum(a, b), np.maximum(modules_a * a, modules_b * b))
    total = float(alone.sum())
    return 100 * (1 - float(joined.sum()) / total) if total > 0 else None


def series_mismatch(plan: Plan, modules: int = 6) -> Figure | None:
    """What a string of two unlike faces, ``modules`` of each, would lose, as a figure; None with fewer than two faces or no place."""
    if len(plan.job.faces) < 2:
        return None
    first, second = plan.job.faces[:2]
    value = series_mismatch_pct(plan, first.id, modules, second.id, modules)
    if value is None:
        return None
    name = f"Lost by {modules} modules of {first.title.lower()} and {modules} of {second.title.lower()} in one string"
    return Figure(
        "mismatch.series",
        "f_mis",
        name,
        value,
        "%",
        "sun.chain",
        limits="Each hour the better of two peaks: all at the darker face's current, or the darker ones bypassed.",
    )


def strings_of(job: Job, lays: tuple[Lay, ...]) -> list[dict[str, object]]:
    """The job's strings for a layout, labelled alike at both ends; names follow the faces."""
    letters: dict[str, str] = {}
    for face in job.faces:
        stem = (face.id[:1] or "S").upper()
        letters[face.id] = stem if stem not in letters.values() else face.id[:2].upper()
    numbers: dict[str, int] = {}
    rows: list[dict[str, object]] = []
    for lay in lays:
        for _ in range(lay.count):
            numbers[lay.face] = numbers.get(lay.face, 0) + 1
            name = f"{letters[lay.face]}{numbers[lay.face]}"
            rows.append(
                {
                    "id": name,
                    "tracker": lay.tracker,
                    "face": lay.face,
                    "modules": lay.modules,
                    "bridge": lay.bridge,
                    "label_top": name,
                    "label_bottom": name,
                }
            )
    return rows

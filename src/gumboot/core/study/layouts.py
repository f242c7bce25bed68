"""Which assignments of modules to trackers are admissible on this roof, which is best and why, and why is a wanted one not?"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from gumboot.core.card import ModuleCard
from gumboot.core.card.model import InverterCard, OptimiserCard, PvInverterCard, Tracker
from gumboot.core.figure import Figure
from gumboot.core.job.model import Face, Job
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.places import places
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.iec_family import photovoltaic as iec
from gumboot.core.rulebook.north_american import photovoltaic as pv
from gumboot.core.study.year import face_yield_w, place_of


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
    """Everything a lay is judged against, taken from a plan once."""

    trackers: tuple[Tracker, ...]
    faces: tuple[Face, ...]
    holds: Mapping[str, int]
    module: ModuleCard
    cold_c: float
    summer_c: float
    limit_v: Mapping[str, float]
    family: str
    pv_max_w: float
    kwh_each: Mapping[str, float] | None
    optimiser: OptimiserCard | None = None
    parallel_only: bool = False
    fuse_a: float | None = None


def finder_of(plan: Plan) -> Finder | str:
    """The finder for a plan's roof and inverters, or what must be answered first."""
    job = plan.job
    module = plan.shelf[job.equipment.module] if job.equipment.module else None
    if not isinstance(module, ModuleCard):
        return "a module is chosen"
    if not job.faces:
        return "a roof face is entered"
    if job.site.record_low_c is None or job.site.summer_high_c is None:
        return "the record low and the summer temperature are answered"
    cards = [plan.shelf[c] for c in (job.equipment.inverter, job.equipment.pv_inverter) if c]
    trackers = tuple(t for card in cards if isinstance(card, InverterCard | PvInverterCard) for t in card.trackers)
    if not trackers:
        return "an inverter with PV inputs is chosen"
    rules = book(job.rule_book)
    optimiser = plan.shelf[job.equipment.optimiser] if job.equipment.optimiser else None
    place, _ = place_of(job)
    kwh = None
    if place is not None:
        kwh = {f.id: float(face_yield_w(plan, place, f.id).sum()) / 1000 for f in job.faces}
    return Finder(
        trackers,
        tuple(job.faces),
        {f.id: places(f, module) for f in job.faces},
        module,
        job.site.record_low_c,
        job.site.summer_high_c,
        {t.id: min(t.v_max, module.system_v_max, rules.pv_limit_v) for t in trackers},
        rules.family,
        sum(card.pv_max_w for card in cards if isinstance(card, InverterCard | PvInverterCard) and card.trackers),
        kwh,
        optimiser if isinstance(optimiser, OptimiserCard) else None,
        job.pv_mode == "parallel",
        job.string_fuse_a,
    )


def _volts(module: ModuleCard, modules: int, cell_c: float, which: str) -> float:
    stc, beta = (module.voc_v, module.voc_per_k) if which == "open" else (module.vmp_v, module.vmp_per_k)
    return pv.string_voltage_v(modules, stc, beta, cell_c)


def cold_volts(f: Finder, modules: int) -> float:
    """Open-circuit voltage of a string on the coldest morning, V."""
    return _volts(f.module, modules, f.cold_c, "open")


def broken_by(f: Finder, lay: Lay) -> list[Broken]:
    """Every limit that one tracker's lay breaks; empty when it may be built. The same limits as the plan's findings."""
    tracker = next((t for t in f.trackers if t.id == lay.tracker), None)
    face = next((x for x in f.faces if x.id == lay.face), None)
    if tracker is None or face is None:
        return [Broken("PV-NO-TRACKER", f"{lay.tracker} or the face {lay.face} is not part of this job.")]
    found, name = [], f"{lay.count} × {lay.modules} on {tracker.id}"
    if lay.total > f.holds[face.id]:
        found.append(Broken("PV-FACE-FULL", f"{name}: {face.title} holds {f.holds[face.id]} modules, not {lay.total}."))
    if f.optimiser is not None:
        o, power = f.optimiser, lay.modules * f.module.power_w
        if not o.count_min <= lay.modules <= o.count_max:
            found.append(Broken("PV-OPTIMISER-COUNT", f"{name}: an optimised string has {o.count_min} to {o.count_max} modules."))
        if power > o.string_max_w:
            found.append(Broken("PV-OPTIMISER-POWER", f"{name}: {power:.0f} W a string; {o.string_max_w:.0f} W may be."))
        if o.string_v > f.limit_v[tracker.id]:
            found.append(Broken("PV-COLD-VOC", f"{name}: held at {o.string_v:g} V; {f.limit_v[tracker.id]:g} V is the limit."))
        amps = lay.count * o.output_max_a
    else:
        cold = _volts(f.module, lay.modules, f.cold_c, "open")
        hot = _volts(f.module, lay.modules, f.summer_c + face.cell_rise_k, "power")
        if cold > f.limit_v[tracker.id]:
            found.append(Broken("PV-COLD-VOC", f"{name}: {cold:.1f} V on the coldest morning; {f.limit_v[tracker.id]:g} V is the limit."))
        if hot < tracker.v_min:
            found.append(Broken("PV-HOT-LOW", f"{name}: {hot:.1f} V on a hot day; the window begins at {tracker.v_min:g} V."))
        if hot < tracker.v_start:
            found.append(Broken("PV-START", f"{name}: {hot:.1f} V on a hot day; the tracker starts at {tracker.v_start:g} V."))
        operating, amps = lay.count * f.module.imp_a, pv.maximum_circuit_current_a(f.module.isc_a, lay.count)
        if operating > tracker.i_max_a:
            found.append(Broken("PV-TRACKER-CURRENT", f"{name}: works at {operating:.1f} A; above {tracker.i_max_a:g} A it only clips."))
        if amps > tracker.isc_max_a:
            found.append(Broken("PV-TRACKER-ISC", f"{name}: may see {amps:.1f} A; the input is built for {tracker.isc_max_a:g} A."))
    terminal = tracker.bridge_max_a if lay.bridge and tracker.bridge_max_a is not None else tracker.terminal_max_a
    if amps > terminal:
        how = "two bridged terminals carry" if lay.bridge else "one terminal carries"
        found.append(Broken("PV-TERMINAL-CURRENT", f"{name}: {amps:.1f} A; {how} {terminal:g} A."))
    if lay.bridge and (tracker.bridge_max_a is None or amps <= tracker.terminal_max_a):
        found.append(Broken("PV-BRIDGE", f"{name}: a bridge is not needed here, or its maker has none."))
    fused = f.optimiser is None and (pv if f.family == "nec" else iec).string_fuse_needed(lay.count, f.module.isc_a, f.module.fuse_max_a)
    if fused and f.fuse_a is None:
        found.append(Broken("PV-FUSE", f"{name}: {lay.count} strings meet and no string fuse is chosen."))
    return found


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
    for face in f.faces:
        on = [x for x in wanted if x.face == face.id]
        total = sum(x.total for x in on)
        if len(on) > 1 and total > f.holds[face.id]:
            found.append(Broken("PV-FACE-FULL", f"{face.title} holds {f.holds[face.id]} modules; {total} are wanted on it."))
    for x in wanted:
        pair = next((t.bridge_with for t in f.trackers if t.id == x.tracker), "")
        if x.bridge and pair and any(y.tracker == pair for y in wanted):
            found.append(Broken("PV-BRIDGE", f"The bridge of {x.tracker} takes the terminal of {pair}, which is wanted too."))
    if len({x.tracker for x in wanted}) < len(wanted):
        found.append(Broken("PV-UNLIKE", "One tracker is given two unlike lays: its strings must have one face and one length."))
    power = sum(x.total for x in wanted) * f.module.power_w
    if power > f.pv_max_w:
        found.append(Broken("PV-POWER", f"{power:.0f} W of modules; the inverter accepts {f.pv_max_w:.0f} W."))
    if f.parallel_only and len({(x.face, x.modules) for x in wanted}) > 1:
        found.append(Broken("PV-MODE", "The inputs are set to parallel, which wants strings of one length on one face."))
    return found


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

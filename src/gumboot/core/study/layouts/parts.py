"""What a layout is, and what the finder knows of the house."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from gumboot.core.card import ModuleCard
from gumboot.core.card.boxes import BoardCard
from gumboot.core.card.inverter import Tracker
from gumboot.core.card.solar import OptimiserCard
from gumboot.core.installation import Input
from gumboot.core.job.model import Face, Site
from gumboot.core.once import once
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.places import places
from gumboot.core.plan.strings import voltages
from gumboot.core.rulebook.books import RuleBook, book
from gumboot.core.seating import seats_of
from gumboot.core.seats import Converter
from gumboot.core.study.year import face_yield_w, place_of
from gumboot.core.workbook import Workbook


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
    modules: Mapping[str, ModuleCard]
    site: Site
    book: RuleBook
    kwh_each: Mapping[str, float] | None
    optimiser: OptimiserCard | None = None
    roof_boxes: Mapping[str, BoardCard] = field(default_factory=dict)
    parallel_only: bool = False
    fuse_a: float | None = None

    @property
    def trackers(self) -> tuple[Tracker, ...]:
        """Every PV input."""
        return tuple(t for c in self.converters for t in c.trackers)

    @property
    def owners(self) -> tuple[int, ...]:
        """For each input, which inverter has it."""
        return tuple(nth for nth, c in enumerate(self.converters) for _ in c.trackers)

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

    @once
    def limit_v(self) -> Mapping[tuple[str, str], float]:
        """The voltage that each input never exceeds with any of the modules, by input and face, V."""
        least = min(self.modules.values(), key=lambda card: card.system_v_max)
        w, found = Workbook(self.book), dict[tuple[str, str], float]()
        for t in self.trackers:
            for face in self.faces:
                key = f"{t.id}.{face.id}"
                found[t.id, face.id] = voltages.limit(w, key, self.converter_of(t.id), t, least, building=face.building).value
        return found


def _holding(plan: Plan) -> tuple[Converter, ...]:
    """Every inverter with PV inputs, its inputs called as the house calls them: each name once."""
    found: dict[str, list[Input]] = {}
    for at in plan.house.inputs:
        found.setdefault(at.place, []).append(at)
    return tuple(_renamed(own) for own in found.values())


def _renamed(own: Sequence[Input]) -> Converter:
    names = {at.tracker.id: at.name for at in own}
    if all(known == name for known, name in names.items()):
        return own[0].converter
    trackers = [
        t.model_copy(update={"id": names[t.id], "bridge_with": names.get(t.bridge_with, t.bridge_with)}) for t in own[0].converter.trackers
    ]
    return own[0].converter.model_copy(update={"trackers": trackers})


def finder_of(plan: Plan) -> Finder | str:
    """The finder for a plan's roof and inverters, or what must be answered first."""
    job = plan.job
    seats = seats_of(job, plan.shelf)
    modules = {f.id: card for f in job.faces if (card := seats.module_or_none(f.id)) is not None}
    if seats.module is None and not modules:
        return "a module is chosen"
    if not job.faces:
        return "a roof face is entered"
    if len(modules) < len(job.faces):
        return "every roof face has its module"
    if job.site.record_low_c is None or job.site.summer_high_c is None:
        return "the record low and the summer temperature are answered"
    converters = _holding(plan)
    if not any(c.trackers for c in converters):
        return "an inverter with PV inputs is chosen"
    place, _ = place_of(job)
    kwh = None
    if place is not None:
        kwh = {f.id: float(face_yield_w(plan, place, f.id).sum()) / 1000 for f in job.faces}
    return Finder(
        converters=converters,
        faces=tuple(job.faces),
        holds={f.id: places(f, modules[f.id]) for f in job.faces},
        modules=modules,
        site=job.site,
        book=book(job.rule_book),
        kwh_each=kwh,
        optimiser=seats.optimiser,
        roof_boxes={at.name: box.card for at in plan.house.inputs if (box := plan.house.roof_box_of(at.place)) is not None},
        parallel_only=job.pv_mode == "parallel",
        fuse_a=job.string_fuse_a,
    )

"""What the station Strings is drawn from, and its ranked layouts."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.job.model import Face, String
from gumboot.core.plan.strings.parts import TrackerPlan
from gumboot.core.study.layout_ranks import Layout
from gumboot.core.study.layouts import Broken, Lay, why_not
from gumboot.drawing import show, strings
from gumboot.web import studies
from gumboot.web.page_words import input_names
from gumboot.web.view import Bench

RANKS = (("yield", "modules and yield"), ("margin", "margin below the limit"), ("wiring", "least wiring"))
MOST_COLUMNS = 3


@dataclass(frozen=True, slots=True)
class StringRow:
    """A string as the job has it, and what is planned of its input."""

    string: String
    at: str
    planned: TrackerPlan | None


@dataclass(frozen=True, slots=True)
class FaceRow:
    """A roof face: its heading, and how many modules have a place on it."""

    face: Face
    at: str
    note: str
    holds: Figure | None
    is_used: bool
    opened: bool


@dataclass(frozen=True, slots=True)
class Coupling:
    """How a PV inverter behind the bank falls back by frequency."""

    starts: Figure
    silent: Figure
    absorbed: Figure
    waits: list[Figure]


@dataclass(frozen=True, slots=True)
class StringsView:
    """The station Strings."""

    roof: Markup
    waits: str
    rulers: Markup | None
    terminals: Markup | None
    has_faces: bool
    inverters: list[str]
    trackers: list[str]
    faces: list[str]
    is_bridged: bool
    strings: list[StringRow]
    power: Figure | None
    coupling: Coupling | None
    face_rows: list[FaceRow]


def _waits(b: Bench) -> str:
    if not b.job.strings:
        return "This job has no PV strings." + (" Take a layout below, or add a string." if b.job.faces else "")
    if b.plan.strings:
        return ""
    return "The rulers wait: " + " ".join(gap.question for gap in b.plan.gaps if "site." in gap.path)


def _coupling(b: Bench) -> Coupling | None:
    figures = b.plan.figures
    silent = figures.get("coupling.silent_hz")
    if silent is None:
        return None
    waits = [f for key, f in figures.items() if key.endswith(".t_back")]
    return Coupling(figures["coupling.half_hz"].given[0], silent, figures["coupling.absorbed_w"], waits)


def _face(b: Bench, face: Face) -> FaceRow:
    holds = b.plan.figures.get(f"faces.{face.id}.holds")
    note = f"{face.tilt_deg:g}° tilt, {face.azimuth_deg:g}°" + (f", {show.figure_text(holds)} places" if holds else "")
    used = any(s.face == face.id for s in b.job.strings)
    return FaceRow(face, f"faces.{face.id}", note, holds, used, len(b.job.faces) == 1)


def view_of(b: Bench) -> StringsView:
    """The station as its page needs it."""
    planned, inputs = b.plan.strings, b.plan.house.inputs
    bridged = any(at.tracker.bridge_max_a is not None for at in inputs) or any(s.bridge for s in b.job.strings)
    return StringsView(
        roof=strings.roof_drawing(b.plan, b.system),
        waits=_waits(b),
        rulers=strings.rulers_drawing(b.plan, b.system) if planned and b.job.strings else None,
        terminals=strings.terminals_drawing(b.plan) if planned else None,
        has_faces=bool(b.job.faces),
        inverters=list(dict.fromkeys(at.place for at in inputs)),
        trackers=list(dict.fromkeys(at.tracker.id for at in inputs)),
        faces=[face.id for face in b.job.faces],
        is_bridged=bridged,
        strings=[StringRow(s, f"strings.{s.id}", planned.of(s.id) if planned else None) for s in b.job.strings],
        power=planned.power if planned else None,
        coupling=_coupling(b),
        face_rows=[_face(b, face) for face in b.job.faces],
    )


@dataclass(frozen=True, slots=True)
class RankedRow:
    """A layout in its rank: what lies on each input, and whether it is the one that is planned."""

    layout: Layout
    inputs: list[str]
    sent: str
    is_taken: bool


@dataclass(frozen=True, slots=True)
class Asking:
    """What may be asked about one input: strings, modules, face, as they were asked."""

    input: str
    strings: str
    modules: str
    face: str


@dataclass(frozen=True, slots=True)
class LayoutsView:
    """The ranked layouts, and what speaks against another one."""

    modules: int
    heading: str
    note: str
    waits: bool
    counts: tuple[int, ...]
    ranks: tuple[tuple[str, str], ...]
    rank: str
    heads: list[str]
    is_wide: bool
    rows: list[RankedRow]
    asking: list[Asking]
    faces: list[tuple[str, str]]
    asked: str
    broken: list[Broken]
    mismatch: Figure | None


def _lay_words(b: Bench, lay: Lay) -> str:
    """A layout of one input in words: ``2 × 9 on south ∥``."""
    face = next(f for f in b.job.faces if f.id == lay.face).title.replace(" face", "").lower()
    several = lay.count > 1
    return f"{f'{lay.count} × ' if several else ''}{lay.modules} on {face}{' ∥' if several else ''}{', bridged' if lay.bridge else ''}"


def _sent(lays: tuple[Lay, ...]) -> str:
    """A layout as a form carries it."""
    return ",".join(f"{x.tracker}:{x.face}:{x.modules}:{x.count}:{1 if x.bridge else 0}" for x in lays)


def _is_planned(b: Bench, layout: Layout) -> bool:
    house = b.plan.house
    mine = sorted((at.name, s.face, s.modules, s.bridge) for at in house.inputs for s in house.strings_on(at))
    return mine == sorted((x.tracker, x.face, x.modules, x.bridge) for x in layout.lays for _ in range(x.count))


def _asked(b: Bench) -> tuple[Lay, ...]:
    """The layout that a person asks about, from the address."""
    found = []
    for tracker in input_names(b):
        count, modules = b.query.get(f"n.{tracker}", ""), b.query.get(f"m.{tracker}", "")
        if count.isdigit() and modules.isdigit() and 0 < int(count) <= 10 and 0 < int(modules) <= 60:
            found.append(Lay(tracker, b.query.get(f"f.{tracker}", ""), int(modules), int(count)))
    return tuple(found)


def _row(b: Bench, layout: Layout, inputs: list[str], *, is_wide: bool) -> RankedRow:
    if is_wide:
        told = [f"{lay.tracker}: {_lay_words(b, lay)}" for lay in layout.lays]
    else:
        told = ["–" if (lay := layout.on(name)) is None else _lay_words(b, lay) for name in inputs]
    return RankedRow(layout, told, _sent(layout.lays), _is_planned(b, layout))


def layouts_of(b: Bench) -> LayoutsView:
    """The layouts of the roof as the address asks for them."""
    asked = b.query.get("modules", "")
    modules = int(asked) if asked.isdigit() and int(asked) > 0 else 0
    rank, inputs = b.query.get("first", "yield"), input_names(b)
    found = studies.found_layouts(b.plan, modules or None, rank)
    wide = len(inputs) > MOST_COLUMNS
    about = _asked(b)
    fits = f"{found.fit} of {found.tried} admissible layouts{'' if modules else ', any number of modules'}"
    return LayoutsView(
        modules=modules,
        heading=f"{f'{modules} modules' if modules else 'Layouts'} on these faces",
        note=f"waits until {found.waits_for}" if found.waits_for else fits,
        waits=bool(found.waits_for),
        counts=tuple(found.counts),
        ranks=RANKS,
        rank=rank,
        heads=["layout"] if wide else inputs,
        is_wide=wide,
        rows=[_row(b, layout, inputs, is_wide=wide) for layout in found.best],
        asking=[Asking(n, b.query.get(f"n.{n}", ""), b.query.get(f"m.{n}", ""), b.query.get(f"f.{n}", "")) for n in inputs],
        faces=[(face.id, face.title) for face in b.job.faces],
        asked=_sent(about),
        broken=list(why_not(b.plan, about)) if about and not found.waits_for else [],
        mismatch=studies.series_mismatch(b.plan) if not found.waits_for else None,
    )

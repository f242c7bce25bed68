"""What the station Circuits is drawn from, its other sizes and its material."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.finding import Gap
from gumboot.core.installation import Circuit
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.loader import source
from gumboot.core.study.alternatives import Alternative
from gumboot.core.study.materials import Materials
from gumboot.drawing import single_line
from gumboot.web import studies
from gumboot.web.page_words import sizes_of
from gumboot.web.stations.circuits.faults import FaultRow, faults_of
from gumboot.web.view import Bench

# What of a run is asked where it waits, beside the run itself.
ASKED = ("", ".length_m", ".ambient_c", ".soil_km_per_w", ".installed_size")
CHOOSES_DEVICE = ("through", "pv-ac", "output", "feeder", "main-feeder")
# By whether the rule book is of the IEC family.
RACEWAYS = {True: ("conduit", "trunking"), False: ("EMT", "PVC 40", "PVC 80", "FMC", "LFMC", "wireway")}
RACEWAY_NOTES = {True: "inside diameter or width x height, mm", False: "trade size; width x height in mm for a wireway"}


@dataclass(frozen=True, slots=True)
class Run:
    """A run: its sizes, or the questions that it waits for and the fields that answer them."""

    circuit: Circuit
    at: str
    is_entered: bool
    sized: Sized | None
    maker_min: str
    waits: list[str]
    asks_air: bool
    asks_size: bool


@dataclass(frozen=True, slots=True)
class Laid:
    """How a run is laid: which of its answers make sense for it."""

    circuit: Circuit
    at: str
    insulations: tuple[str, ...]
    usual: str
    is_ac: bool
    has_device: bool
    has_earth_size: bool
    has_earth: bool


@dataclass(frozen=True, slots=True)
class Raceway:
    """What a run lies in: how full it is, and the smallest that would hold it."""

    title: str
    at: str
    filled: Figure | None
    most: Figure | None
    smallest: str


@dataclass(frozen=True, slots=True)
class LabelRow:
    """A label to make."""

    place: str
    text: str
    figures: tuple[Figure, ...]
    clause: str


@dataclass(frozen=True, slots=True)
class Loop:
    """The earth-fault loop at the end of a run."""

    circuit: str
    ohm: Figure
    most: Figure | None
    has_residual: bool


@dataclass(frozen=True, slots=True)
class CircuitsView:
    """The station Circuits."""

    line: Markup
    is_iec: bool
    is_group: bool
    runs: list[Run]
    pulled: list[Run]
    laid: list[Laid]
    sizes: tuple[str, ...]
    raceway_note: str
    raceway_kinds: tuple[str, ...]
    raceways: list[Raceway]
    faults: list[FaultRow]
    rise: Figure | None
    rise_most: Figure | None
    loops: list[Loop]
    generator: Figure | None
    leg_drop: Figure | None
    neutral: Figure | None
    busbar: Figure | None
    busbar_limit: Figure | None
    labels: list[LabelRow]


def _questions(b: Bench, circuit: Circuit) -> list[Gap]:
    mine = [gap for gap in b.plan.gaps if gap.path in {f"runs.{circuit.id}{part}" for part in ASKED}]
    return mine or [gap for gap in b.plan.gaps if gap.station in ("strings", "survey")]


def _run(b: Bench, circuit: Circuit) -> Run:
    at, sized = f"runs.{circuit.id}", b.plan.circuits.sized.get(circuit.id)
    waits = [] if sized else _questions(b, circuit)
    air, size = f"{at}.ambient_c", f"{at}.installed_size"
    return Run(
        circuit=circuit,
        at=at,
        is_entered=b.has(f"{at}.length_m"),
        sized=sized,
        maker_min=sized.demand.maker_min.replace("mm2", "mm²") if sized and sized.demand.maker_min else "–",
        waits=[gap.question for gap in waits],
        asks_air=sized is None and b.has(air) and b.value(air) is None,
        asks_size=sized is None and size in [gap.path for gap in waits],
    )


def _laid(b: Bench, circuit: Circuit) -> Laid:
    rules = book(b.job.rule_book)
    known, own = rules.wiring.insulations, next((r.insulation for r in b.job.runs if r.id == circuit.id and r.insulation), None)
    second_grid = circuit.kind == "grid" and circuit.id != "grid"
    return Laid(
        circuit=circuit,
        at=f"runs.{circuit.id}",
        insulations=known if own is None or own in known else (*known, own),
        usual=rules.usual_insulation(pv=circuit.kind == "pv"),
        is_ac=not circuit.is_dc,
        has_device=circuit.kind in CHOOSES_DEVICE or second_grid,
        has_earth_size=circuit.has_earth and circuit.id != "grid",
        has_earth=circuit.has_earth,
    )


def _raceway(b: Bench, circuit: Circuit) -> Raceway:
    figures, key = b.plan.figures, f"circuits.{circuit.id}"
    filled = figures.get(f"{key}.fill_pct")
    most = figures[f"{key}.fill_most"] if filled is not None else None
    return Raceway(circuit.title, f"runs.{circuit.id}", filled, most, studies.smallest_for(b.plan, circuit.id))


def _loops(b: Bench) -> Iterator[Loop]:
    figures = b.plan.figures
    for circuit in b.plan.circuits.all:
        if (ohm := figures.get(f"circuits.{circuit.id}.loop_ohm")) is not None:
            residual = bool(b.value(f"runs.{circuit.id}.residual_ma"))
            yield Loop(circuit.id, ohm, figures.get(f"circuits.{circuit.id}.loop_most"), residual)


def view_of(b: Bench) -> CircuitsView:
    """The station as its page needs it."""
    rules, figures, circuits = book(b.job.rule_book), b.plan.figures, b.plan.circuits
    runs = [_run(b, circuit) for circuit in circuits.all]
    rise, iec = figures.get("circuits.rise_pct"), rules.family == "iec"
    return CircuitsView(
        line=single_line.single_line(b.plan),
        is_iec=iec,
        is_group=len(b.plan.seats.inverters) > 1,
        runs=runs,
        pulled=[run for run in runs if run.circuit.kind != "battery-unit" and run.sized],
        laid=[_laid(b, run.circuit) for run in runs if run.is_entered],
        sizes=sizes_of(b),
        raceway_note=RACEWAY_NOTES[iec],
        raceway_kinds=RACEWAYS[iec],
        raceways=[_raceway(b, run.circuit) for run in runs if run.is_entered],
        faults=faults_of(b),
        rise=rise,
        rise_most=figures[f"const.{rules.rise_source}.dr_max"] if rise is not None else None,
        loops=list(_loops(b)),
        generator=figures.get("circuits.generator_need"),
        leg_drop=figures.get("circuits.backup.leg_drop_pct"),
        neutral=figures.get("circuits.backup.neutral_a"),
        busbar=circuits.busbar_sum,
        busbar_limit=circuits.busbar_limit,
        labels=[LabelRow(x.place, x.text, tuple(x.figures), source(x.source).citation) for x in b.plan.labels],
    )


@dataclass(frozen=True, slots=True)
class SizeRow:
    """Another size of a run: its figures, and every rule that it would break, each once."""

    row: Alternative
    ampacity: Figure | None
    drop: Figure | None
    earth: str
    breaks: list[tuple[str, str]]
    stops: bool


@dataclass(frozen=True, slots=True)
class SizesView:
    """Other sizes of a run."""

    circuit: str
    title: str
    rows: list[SizeRow]


def _size(row: Alternative) -> SizeRow:
    sized, breaks = row.sized, {f.code: f.text.replace("mm2", "mm²") for f in reversed(row.breaks)}
    stops = any(f.level == "stop" for f in row.breaks)
    if sized is None:
        return SizeRow(row, None, None, "", list(breaks.items())[::-1], stops)
    earth = sized.earth_size.replace("mm2", "mm²") if sized.earth_size else "–"
    return SizeRow(row, row.shown(sized.ampacity), row.shown(sized.drop_pct), earth, list(breaks.items())[::-1], stops)


def sizes_view(b: Bench) -> SizesView:
    """The other sizes of the run that the address names; no rows where it is not sized yet."""
    circuit = b.query.get("circuit", "")
    rows = studies.sizes(b.plan, circuit)
    title = b.plan.circuits.sized[circuit].circuit.title if rows else ""
    return SizesView(circuit, title, [_size(row) for row in rows])


def material_of(b: Bench) -> Materials:
    """The cut list and the material list."""
    return studies.material(b.plan)

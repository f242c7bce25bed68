"""What the station Loads is drawn from, its best picks and its year."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.job.model import Consumption, Load
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.loads.school import is_single_line
from gumboot.core.study.pick import Pick
from gumboot.core.study.schools import School
from gumboot.drawing import loads
from gumboot.web import studies
from gumboot.web.page_words import island_title, leg_options
from gumboot.web.view import Bench

PRIORITIES = ((1, "must run"), (2, "should"), (3, "may"))
MOST_REASONS = 3


@dataclass(frozen=True, slots=True)
class Island:
    """A part of the house that an inverter carries: its legs against the inverter, and how long it lasts in the dark."""

    title: str
    heading: str
    beams: Markup
    ribbon: Markup
    energy: Figure
    shortest: Figure


@dataclass(frozen=True, slots=True)
class LoadsView:
    """The station Loads."""

    tags: Markup
    legs: list[str]
    boards: list[tuple[str, str]]
    islands: list[Island]
    counted_from: str
    asks_multiwire: bool
    own_months: bool
    loads: list[Load]
    priorities: tuple[tuple[int, str], ...]
    consumption: Consumption


def _island(part: Plan) -> Island:
    legs = len(part.house.legs)
    side = {2: "Each leg", 3: "Each phase"}.get(legs, "The backed-up side")
    title = island_title(part) if part.house.is_apart else ""
    drawn = loads.beams_drawing(part), loads.ribbon_drawing(part)
    return Island(title, f"{side} against the inverter", *drawn, part.loads.energy, part.loads.shortest)


def view_of(b: Bench) -> LoadsView:
    """The station as its page needs it; the first board is where a load is that names none."""
    wrong = b.problems.get("site.clearness") or b.problems.get("site.air_c")
    return LoadsView(
        tags=loads.tags_drawing(b.plan),
        legs=leg_options(b),
        boards=[("" if n == 0 else board.id, board.name) for n, board in enumerate(b.plan.house.boards)],
        islands=[_island(part) for part in b.plan.islands],
        counted_from=f"{b.job.preferences.start_of_autonomy_pct:g} %",
        asks_multiwire=any(is_single_line(part) for part in b.plan.house.islands),
        own_months=bool(wrong),
        loads=list(b.job.loads),
        priorities=PRIORITIES,
        consumption=b.job.consumption,
    )


@dataclass(frozen=True, slots=True)
class Why:
    """A limit that keeps a circuit out, by how much, and what it would take."""

    limit: str
    too_much: Figure | None
    takes: str


@dataclass(frozen=True, slots=True)
class Best:
    """The best pick of circuits: how many fit, what is left out and why, and what taking it would change."""

    in_all: int
    fit: int
    fit_if_moved: int
    is_planned: bool
    left_out: list[tuple[str, list[Why]]]
    changes: str
    moves_legs: bool


@dataclass(frozen=True, slots=True)
class Balanced:
    """The legs as they are and as they could be."""

    legs: list[tuple[str, Figure, Figure]]
    moves: str
    heaviest: str


@dataclass(frozen=True, slots=True)
class StartRow:
    """A start against the others: None where the pair stands elsewhere in the table."""

    title: str
    pairs: list[bool | None]


@dataclass(frozen=True, slots=True)
class Starts:
    """What may start at one moment."""

    words: str
    heads: list[str]
    rows: list[StartRow]
    most: int


@dataclass(frozen=True, slots=True)
class SchoolRow:
    """A way of backing up, beside the others."""

    school: School
    running: Figure
    starting: Figure
    shortest: Figure
    against: str


@dataclass(frozen=True, slots=True)
class PickPart:
    """The studies of one island."""

    title: str
    lead: str
    best: Best | None
    balanced: Balanced | None
    starts: Starts
    schools: list[SchoolRow]


def _titled(b: Bench, names: dict[str, str]) -> str:
    titles = {x.id: x.title for x in b.job.loads}
    return ", ".join(f"{titles[load]} {to}" for load, to in names.items())


def _best(b: Bench, part: Plan, fixed: Pick, free: Pick) -> Best | None:
    if not b.job.loads:
        return None
    left = [
        (x.load.title, [Why(s.limit, s.figure and studies.of_island(part, s.figure), s.takes) for s in x.because[:MOST_REASONS]])
        for x in fixed.left_out
    ]
    sides = {load: "to the backed-up side" if to[0] == "backed" else "to the house side" for load, to in fixed.changes.items()}
    more = len(free.chosen) > len(fixed.chosen)
    return Best(
        in_all=len(part.job.loads),
        fit=len(fixed.chosen),
        fit_if_moved=len(free.chosen) if more else 0,
        is_planned=not fixed.changes,
        left_out=left,
        changes=_titled(b, sides),
        moves_legs=bool(free.changes) and more,
    )


def _balanced(b: Bench, part: Plan) -> Balanced | None:
    if len(part.house.legs) < 2:
        return None
    found = studies.balance(part)
    legs = [(leg, part.loads.running[leg], studies.of_island(part, found.after(leg))) for leg in found.after_w]
    moves = _titled(b, {load: f"to {leg}" for load, leg in found.moves.items()})
    return Balanced(legs, moves, "phase" if len(part.house.legs) == 3 else "leg")


def _starts(part: Plan) -> Starts:
    found = studies.starts(part)
    if not found.names:
        return Starts("No motor starts on the backed-up side.", [], [], 0)
    if len(found.largest) == len(found.names) and min(found.pairs.values(), default=True):
        return Starts(f"All {len(found.names)} starts may fall together: {', '.join(found.titles).lower()}.", [], [], 0)
    rows = [
        StartRow(found.titles[n], [found.pairs[(name, other)] if at >= n else None for at, other in enumerate(found.names[1:])])
        for n, name in enumerate(found.names[:-1])
    ]
    return Starts("", list(found.titles[1:]), rows, len(found.largest))


def _schools(part: Plan) -> Iterator[SchoolRow]:
    for school in studies.three_schools(part):

        def own(figure: Figure, school: School = school) -> Figure:
            return studies.of_island(part, school.shown(figure))

        loads = school.plan.loads
        against = next((f.text for f in school.findings if f.level == "stop"), "")
        yield SchoolRow(school, own(loads.running_total), own(loads.starting_total), own(loads.shortest), against)


def picks_of(b: Bench) -> list[PickPart]:
    """The best picks, the balance, the starts and the schools of each island."""
    found = []
    for part in b.plan.islands:
        lead, title = (part.house.lead.id, island_title(part)) if part.house.is_apart else ("", "")
        best = _best(b, part, studies.best_pick(part, legs_free=False), studies.best_pick(part, legs_free=True))
        found.append(PickPart(title, lead, best, _balanced(b, part), _starts(part), list(_schools(part))))
    return found


@dataclass(frozen=True, slots=True)
class Reserve:
    """The reserve that an outage of a month asks, and whether what is set meets it."""

    title: str
    figure: Figure
    met: str


@dataclass(frozen=True, slots=True)
class YearPart:
    """The year of one island, or what it waits for."""

    title: str
    waits: str
    percentiles: list[tuple[str, Figure]]
    share: Figure | None = None
    field: Markup | None = None
    months: Markup | None = None
    reserves: tuple[Reserve, ...] = ()
    buys: tuple[tuple[str, Figure, Figure], ...] = ()
    energy: dict[str, Figure] | None = None
    notes: tuple[str, ...] = ()


ENERGY = ("pv", "load", "import", "export", "curtailed", "lost", "unserved", "own")
LEAST_UNSERVED_KWH = 0.5


def _met(b: Bench, figure: Figure) -> str:
    set_pct = b.job.settings.reserve_pct
    if figure.value > 100:
        return "more than the bank holds"
    return f"the reserve set is {set_pct:g} %" if figure.value > set_pct else f"met by the {set_pct:g} % set"


def _year(b: Bench, part: Plan) -> YearPart:
    year, title = studies.year(part), island_title(part) if part.house.is_apart else ""
    if year.waits_for:
        return YearPart(title, ", ".join(year.waits_for), [])

    def own(figure: Figure) -> Figure:
        return studies.of_island(part, figure)

    energy = {name: own(year.figures[f"year.{name}"]) for name in ENERGY}
    if energy["unserved"].value <= LEAST_UNSERVED_KWH:
        del energy["unserved"]
    return YearPart(
        title,
        "",
        [(k.name, own(k)) for k in year.percentiles],
        own(year.share) if year.share is not None else None,
        loads.field_drawing(year, b.job.settings.outage_hours, studies.prefix_of(part)),
        loads.months_drawing(year),
        tuple(Reserve(r.name.split(" from ")[1].capitalize(), own(r), _met(b, r)) for r in year.reserves),
        tuple((x.title, own(x.hours), own(x.own)) for x in year.buys),
        energy,
        (*year.notes, "A typical year with dull spells, not a forecast; the dark outage above is the safe side."),
    )


def year_of(b: Bench) -> list[YearPart]:
    """The year of each island."""
    return [_year(b, part) for part in b.plan.islands]

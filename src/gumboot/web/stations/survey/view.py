"""What the station Survey is drawn from, and what fits into a place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from gumboot.core.figure import Figure
from gumboot.core.finding import Gap
from gumboot.core.job.wall import Opening
from gumboot.core.plan.survey import GROUPS, Question, asked_first, questions_of
from gumboot.core.rulebook.books import book
from gumboot.core.study.compare import Decision, changed_fields
from gumboot.core.study.fit import ratings
from gumboot.core.study.offers import Offer
from gumboot.core.wording import within
from gumboot.web import equipment, studies, urls
from gumboot.web.page_words import offers_of, sizes_of
from gumboot.web.view import Bench

MOST_NEXT, MOST_CHANGES, MOST_TO_MEND = 6, 8, 3
# What else is asked of a load calculation, by how it is made.
DEMANDS: dict[str, tuple[tuple[str, str], ...]] = {
    "measured peak": (("peak_a", "Highest demand, fullest line"),),
    "by area": (
        ("area_m2", "Floor area"),
        ("circuits", "Small-appliance and laundry circuits"),
        ("appliances_w", "Fastened appliances, all nameplates"),
        ("cooling_w", "Air conditioning"),
        ("heating", "Electric heating"),
    ),
    "": (("there_w", "Load there is, heating and cooling in it"),),
}


@dataclass(frozen=True, slots=True)
class Next:
    """A question to answer next: where, and what waits for it."""

    gap: Gap
    href: str
    holds_up: str


@dataclass(frozen=True, slots=True)
class Newer:
    """A card of which there is a newer revision, and what changed in it."""

    card: str
    title: str
    planned: int
    there: int
    changes: list[Decision]


@dataclass(frozen=True, slots=True)
class Gear:
    """A place for equipment: what stands there, and what it is joined to."""

    place: equipment.Place
    stands: str
    ratings: str
    is_filled: bool


@dataclass(frozen=True, slots=True)
class More:
    """A thing that may be added: its words, and what is sent."""

    verb: str
    words: str
    sent: dict[str, str | int]


@dataclass(frozen=True, slots=True)
class Asked:
    """A question, whether it is answered, and what it asks besides."""

    question: Question
    is_open: bool
    besides: list[tuple[str, str]]
    together: Figure | None


@dataclass(frozen=True, slots=True)
class OnWall:
    """What stands on a wall besides the boxes."""

    heading: str
    at: str
    openings: list[Opening]


@dataclass(frozen=True, slots=True)
class Route:
    """The length of a run, as it is answered and as the wall gives it."""

    id: str
    title: str
    at: str
    on_the_wall: Figure | None
    may_take: bool


@dataclass(frozen=True, slots=True)
class SurveyView:
    """The station Survey."""

    book: str
    left_to_local: str
    next: list[Next]
    more_open: int
    newer: list[Newer]
    gears: list[Gear]
    additions: list[More]
    groups: list[tuple[str, list[Asked]]]
    besides: list[tuple[str, str, Sequence[str] | None, str]]
    walls: list[OnWall]
    together: str
    together_field: str
    routes: list[Route]


def _is_open(b: Bench, path: str) -> bool:
    return b.value(path) in (None, "")


def _next(b: Bench) -> list[Next]:
    found = []
    for gap in asked_first(b.plan.gaps):
        href = f"{urls.station(b.job.id, gap.station)}#f-{gap.path.replace('.', '-')}"
        found.append(Next(gap, href, f"holds up {within(gap.holds_up)}"))
    return found


def _newer(b: Bench) -> list[Newer]:
    found = []
    for card, (planned, there) in b.behind.items():
        changes = changed_fields(planned.model_dump(mode="json"), there.model_dump(mode="json"))[:MOST_CHANGES]
        told = [change for change in changes if change.path != "revision"]
        found.append(Newer(card, there.title, planned.revision, there.revision, told))
    return found


def _gear(b: Bench, place: equipment.Place) -> Gear:
    now = b.value(place.path) if b.has(place.path) else None
    if not now:
        return Gear(place, place.empty, "", is_filled=False)
    card, revision = b.plan.shelf[now], b.job.cards.get(now, 1)
    told = ratings(card) + (f", revision {revision}" if revision > 1 else "")
    return Gear(place, card.title, told, is_filled=True)


def _additions(b: Bench) -> Iterator[More]:
    lead, seen = b.plan.seats.inverters[0], len(b.plan.seats.inverters)
    another: dict[str, str | int] = {"like": lead.id, "seen": seen}
    yield More("things/another", f"Add another inverter like {lead.thing.title or 'this one'}", another)
    if lead.card.parallel and "several" in lead.card.parallel.banks:
        yield More("things/another", "Add one with a bank of its own", {**another, "own": "bank"})
    yield More("things/another", "Add one with a board of its own", {**another, "own": "board"})
    for box in equipment.more(b.job):
        yield More("things/another-box", box.words, {"like": box.like, "seen": box.seen})


def _besides(b: Bench) -> list[tuple[str, str]]:
    demand = b.job.demand
    named = DEMANDS.get(demand.method or "", DEMANDS[""])
    if demand.method == "by area" and demand.heating != "none":
        named = (*named, ("heating_w", "Its power"))
    if demand.method == "by area" and demand.heating == "heat pump with supplement":
        named = (*named, ("supplement_w", "Supplement"))
    return [(f"demand.{name}", words) for name, words in named]


def _asked(b: Bench, question: Question) -> Asked:
    calculates = question.path == "demand.method" and bool(b.job.demand.method)
    together = b.plan.figures.get("service.together_a") if calculates else None
    return Asked(question, _is_open(b, question.path), _besides(b) if calculates else [], together)


def _group(b: Bench, group: str) -> list[Asked]:
    """The questions of a group: those without an answer first."""
    questions = [q for q in questions_of(b.job) if q.group == group]
    still_open = sorted((q for q in questions if _is_open(b, q.path)), key=lambda q: q.path)
    return [_asked(b, q) for q in (*still_open, *(q for q in questions if not _is_open(b, q.path)))]


Field = tuple[str, str, Sequence[str] | None, str]
UNSAID = "not answered"


def _supply(b: Bench) -> Iterator[Field]:
    """What else may be said of supply and place, by path, words, choices, and what stands for no answer."""
    sizes, family = sizes_of(b), book(b.job.rule_book).family
    yield "site.altitude_m", "Altitude", None, UNSAID
    yield "site.main_board_interrupting_a", "Breakers there break", None, UNSAID
    yield "site.service_size", "Largest service conductor", sizes, UNSAID
    yield "site.private_supply", "Transformer of its own", None, UNSAID
    yield "site.mains", "Frequency of the network", None, "usual for the rule book"
    if family != "nec":
        yield "demand.peak_a", "Highest demand measured, fullest line", None, UNSAID
        yield "site.bonding_size", "Main bonding conductor fitted", sizes, UNSAID
        return
    yield "site.electrode_size", "Electrode conductor fitted", sizes, UNSAID
    yield "site.service_material", "Metal of the service conductors", None, UNSAID
    yield "demand.service", "They feed", None, UNSAID
    yield "site.electrode", "The conductor leads only to a", None, UNSAID
    yield "site.electrode_material", "Metal of the electrode conductor", None, UNSAID
    if b.job.site.electrode == "ground ring":
        yield "site.ring_size", "Conductor of the ring", sizes, "not known"
    yield "site.busbar_opposite_end", "Inverter breaker at the far end of the busbar", None, UNSAID
    yield "site.busbar_case", "Busbar rule", None, "by the breaker’s place"
    yield "site.board_devices_a", "Devices on the busbar but the main, A", None, UNSAID
    yield "site.control_setting_a", "Listed power control set to", None, UNSAID
    yield "site.series_rating", "Series rating relied on", None, UNSAID


def _routes(b: Bench) -> Iterator[Route]:
    entered = {run.id for run in b.job.runs}
    for c in b.plan.circuits.all:
        if c.id in entered:
            given = studies.wall_route(b.plan, c)
            may_take = given is not None and b.value(f"runs.{c.id}.length_m") is None
            yield Route(c.id, c.title, f"runs.{c.id}", given, may_take)


def view_of(b: Bench) -> SurveyView:
    """The station as its page needs it."""
    rules, asked = book(b.job.rule_book), _next(b)
    iec, alone = rules.family == "iec", len(b.job.walls) == 1
    return SurveyView(
        book=rules.title,
        left_to_local=rules.left_to_local,
        next=asked[:MOST_NEXT],
        more_open=max(0, len(asked) - MOST_NEXT),
        newer=_newer(b),
        gears=[_gear(b, place) for place in equipment.places(b.job)],
        additions=list(_additions(b)),
        groups=[(group, _group(b, group)) for group in GROUPS],
        besides=list(_supply(b)),
        walls=[OnWall("the wall" if alone else w.title, f"walls.{w.id}.openings", list(w.openings)) for w in b.job.walls],
        together="circuits together, this one counted" if iec else "current-carrying conductors with it",
        together_field="circuits_together" if iec else "current_carrying",
        routes=list(_routes(b)),
    )


@dataclass(frozen=True, slots=True)
class OfferRow:
    """A card for a place: whether it is chosen, what speaks against it, and what would be to mend then."""

    offer: Offer
    is_chosen: bool
    to_mend: list[str]
    more_to_mend: int


@dataclass(frozen=True, slots=True)
class FitsView:
    """What fits into a place; ``empties`` are the words that leave it empty, where it may be."""

    path: str
    verb: str
    rows: list[OfferRow]
    empties: str
    empty_verb: str


def fits_of(b: Bench, place: equipment.Place) -> FitsView:
    """The cards on offer for a place."""
    now = b.value(place.path) if b.has(place.path) else None
    verb = "things/fit" if place.path.startswith("things.") else "edit"
    rows = []
    for offer in offers_of(b, place):
        chosen = offer.fit.card.id == now
        then = [] if chosen else [f.text for f in offer.then]
        rows.append(OfferRow(offer, chosen, then[:MOST_TO_MEND], max(0, len(then) - MOST_TO_MEND)))
    words = "Choose none" if place.empty == "none" else place.empty.capitalize()
    out = "things/fit" if place.path.startswith("banks.") else verb
    return FitsView(place.path, verb, rows, words if place.optional and now else "", out)

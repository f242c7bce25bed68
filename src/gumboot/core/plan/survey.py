"""Which answers does this system need, and what waits for each?"""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache
from typing import NamedTuple

from pydantic import BaseModel

from gumboot.core.card import InverterCard
from gumboot.core.card.boxes import BoardCard
from gumboot.core.finding import Gap
from gumboot.core.job import Job
from gumboot.core.job.air import Told, coldest_air, hottest_air
from gumboot.core.job.model import Backup, Demand, Site, Wall
from gumboot.core.ledger import Ledger
from gumboot.core.plan import air
from gumboot.core.quantity import Quantity, declared, options
from gumboot.core.rulebook.books import RuleBook, book
from gumboot.core.rules import belonging
from gumboot.core.rules import site as rules
from gumboot.core.wording import within


def _told_of(job: Job, clauses: RuleBook, wall: Wall) -> dict[str, bool]:
    """What decides whether a question is needed, by the words of the table below."""
    site, pv, loops, masonry = job.site, bool(job.strings), clauses.shock.judges_loops, wall.surface == "masonry"
    grid = site.supply != "none"
    return {
        "always": True,
        "PV": pv,
        "grid": grid,
        "loops are judged": loops,
        "grid whose loops are judged": grid and loops,
        "earthing TT": loops and site.earthing == "TT",
        "earth of its own": loops or not grid,
        "kinds of connection": grid and clauses.boards.has_connections,
        "demand is told": grid and clauses.boards.asks_demand and job.settings.grid_charge_a > 0,
        "backfed breakers": grid and clauses.boards.asks_fastening,
        "rapid shutdown": pv and clauses.strings.asks_rapid_shutdown,
        "outdoors": wall.room == "outdoor",
        "masonry": masonry,
        "studs": not masonry,
    }


class Question(NamedTuple):
    """A survey question with what it unlocks, as its field declares it. ``options`` is empty for a number or a text."""

    path: str
    group: str
    text: str
    unit: str
    unlocks: str
    options: tuple[str, ...]


# Section and field of each question, its group, and when it is needed.
ASKED: tuple[tuple[str, str, str, str], ...] = (
    ("site", "record_low_c", "Climate", "PV"),
    ("site", "summer_high_c", "Climate", "PV"),
    ("site", "room_low_c", "Climate", "always"),
    ("site", "room_high_c", "Climate", "always"),
    ("site", "service_main_a", "Supply", "grid"),
    ("site", "busbar_a", "Supply", "grid"),
    ("site", "grid_fault_a", "Supply", "grid"),
    ("demand", "method", "Supply", "demand is told"),
    ("site", "export_limit_w", "Supply", "grid"),
    ("site", "supply", "Supply", "always"),
    ("site", "loop_ohm", "Supply", "grid whose loops are judged"),
    ("site", "neutral_bond", "Supply", "always"),
    ("backup", "bypass", "Supply", "always"),
    ("site", "connection", "Supply", "kinds of connection"),
    ("site", "backfed_fastened", "Supply", "backfed breakers"),
    ("site", "rapid_shutdown", "Supply", "rapid shutdown"),
    ("site", "earthing", "Supply", "loops are judged"),
    ("site", "electrode_ohm", "Supply", "earthing TT"),
    ("site", "island_electrode", "Supply", "earth of its own"),
    ("wall", "width_mm", "Wall", "always"),
    ("wall", "height_mm", "Wall", "always"),
    ("wall", "surface", "Wall", "always"),
    ("wall", "masonry", "Wall", "masonry"),
    ("wall", "stud_spacing_mm", "Wall", "studs"),
    ("wall", "stud_first_mm", "Wall", "studs"),
    ("wall", "free_depth_mm", "Wall", "always"),
    ("wall", "room", "Wall", "always"),
    ("wall", "in_sun", "Wall", "outdoors"),
    ("site", "internet", "Permission and network", "always"),
    ("site", "utility_approval", "Permission and network", "grid"),
    ("site", "building_approval", "Permission and network", "always"),
)
GROUPS = tuple(dict.fromkeys(group for _, _, group, _ in ASKED))
MODELS: dict[str, type[BaseModel]] = {"site": Site, "wall": Wall, "backup": Backup, "demand": Demand}


@cache
def _told(section: str, field: str) -> tuple[str, str, str, tuple[str, ...]]:
    """Name, unit, what waits for it, and options, as declared beside the field."""
    told = declared(MODELS[section], field)
    unlocks = within(told.holds_up)
    return told.name, told.unit if isinstance(told, Quantity) else "", unlocks, options(MODELS[section], field)


# A question that a job needs: section, field and group, with the wall that it is asked of.
_Needed = tuple[str, str, str, Wall]


def _in_words(job: Job, needed: _Needed) -> Question:
    section, field, group, wall = needed
    name, unit, unlocks, choices = _told(section, field)
    if section != "wall":
        return Question(f"{section}.{field}", group, name, unit, unlocks, choices)
    asked = f"{name}, {wall.title}" if len(job.walls) > 1 else name
    return Question(f"walls.{wall.id}.{field}", group, asked, unit, unlocks, choices)


def questions_of(job: Job) -> tuple[Question, ...]:
    """The survey questions that this job needs: none of PV without strings, none of the grid where there is none; each wall's own."""
    return tuple([_in_words(job, needed) for needed in _needed(job)])


def _needed(job: Job) -> list[_Needed]:
    clauses, found = book(job.rule_book), list[_Needed]()
    walls = [(wall, _told_of(job, clauses, wall)) for wall in job.walls]
    for section, field, group, when in ASKED:
        for wall, told in walls if section == "wall" else walls[:1]:
            if told[when]:
                found.append((section, field, group, wall))
    return found


# What most figures wait for, first; then the rest of the site, then the runs.
FIRST_ASKED = (
    "site.record_low_c",
    "site.summer_high_c",
    "site.service_main_a",
    "site.busbar_a",
    "site.room_high_c",
    "site.room_low_c",
    "site.grid_fault_a",
)


def asked_first(gaps: Sequence[Gap]) -> list[Gap]:
    """Unanswered questions in the order in which to ask them."""
    later = (("site.", 1), ("runs.", 2), ("", 3))

    def place(gap: Gap) -> tuple[int, int]:
        if gap.path in FIRST_ASKED:
            return 0, FIRST_ASKED.index(gap.path)
        return next(rank for start, rank in later if gap.path.startswith(start)), 0

    return sorted(gaps, key=place)


ROLES = {"main": "main_board", "backed-up": "sub_board", "combining": "combining_panel"}


def _check_belonging(ledger: Ledger) -> None:
    """Inverters with their grid, gateway and generator, and boards with the terminals of their places."""
    seats, brings = ledger.seats, ledger.job.site.supply
    transfers, generators = {t.id for t in seats.transfers}, {g.thing.feeds: g.id for g in seats.generators}
    for island, unit in ((part, unit) for part in ledger.house.islands for unit in part.seats.inverters):
        supply = brings if island.joins_grid else "none"
        beside = belonging.Beside(
            inverter=unit.card,
            supply=supply,
            has_transfer=not transfers.isdisjoint(ledger.house.below(unit.id)),
            generator=generators.get(unit.id, ""),
            place=unit.id,
        )
        for rule in belonging.BESIDE:
            ledger.ask(rule, beside)
    placed: list[tuple[str, BoardCard, str]] = [(b.id, b.card, ROLES[b.thing.duty]) for b in seats.boards]
    ahead = {b.thing.fed_from for b in ledger.house.boards}
    placed += [(b.id, b.card, "board_ahead") for b in ledger.house.boards if b.id in ahead]
    placed += [(b.id, b.card, "busbar_box") for b in seats.busbars] + [(r.id, r.card, "roof_box") for r in seats.roof_boxes]
    for place, card, role in placed:
        ledger.ask(belonging.has_the_terminals, belonging.Placed(board=card, role=role, field=f"things.{place}.card", where=place))


def _check_banks(ledger: Ledger) -> None:
    """Every bank serves an inverter."""
    for bank in ledger.seats.banks:
        hanging = [i.id for i in ledger.house.on_bank(bank.id)]
        ledger.ask(belonging.serves_an_inverter, belonging.Hanging(bank=bank.id, inverters=hanging))


def check_survey(ledger: Ledger) -> None:
    """Note a gap for each unanswered question that no plan module asks for itself, and judge the air at the equipment."""
    job = ledger.job
    for needed in _needed(job):
        section, field, _, wall = needed
        owner: BaseModel = wall if section == "wall" else getattr(job, section)
        if getattr(owner, field) in (None, ""):
            question = _in_words(job, needed)
            ledger.gap(question.path, "survey", f"{question.text}?", question.unlocks)
    _check_belonging(ledger)
    _check_banks(ledger)
    _check_spans(ledger)
    air.check_places(ledger)
    # Inverters of one card in one air are asked about once.
    places = [(i.card, hottest_air(job, (i.id,)), coldest_air(job, (i.id,))) for i in ledger.seats.inverters]
    for card, hot, cold in {(card.id, hot, cold): (card, hot, cold) for card, hot, cold in places}.values():
        _check_air(ledger, card, hot, cold)


def _check_spans(ledger: Ledger) -> None:
    """The site's air, and that of each wall that tells its own, the right way round."""
    site = ledger.job.site
    told = [("site", "site.room_low_c", site.room_low_c, "site.room_high_c", site.room_high_c)]
    told += [(w.title, f"walls.{w.id}.air_low_c", w.air_low_c, f"walls.{w.id}.air_high_c", w.air_high_c) for w in ledger.job.walls]
    for where, low, coldest, high, hottest in told:
        if coldest is not None and hottest is not None:
            facts = rules.Span(where=where, coldest=ledger.decided(low), hottest=ledger.decided(high), field=high)
            ledger.ask(rules.right_way_round, facts)


def _check_air(ledger: Ledger, inverter: InverterCard, hot: Told, cold: Told) -> None:
    if hot.value is not None:
        facts = rules.Air(air=ledger.decided(hot.path), limit=ledger.read(inverter, "ambient_max_c"), field=hot.path)
        ledger.ask(rules.cool_enough, facts)
    if cold.value is not None:
        facts = rules.Air(air=ledger.decided(cold.path), limit=ledger.read(inverter, "ambient_min_c"), field=cold.path)
        ledger.ask(rules.warm_enough, facts)

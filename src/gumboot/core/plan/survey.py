"""Which answers does this system need, and what waits for each?"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cache
from typing import NamedTuple

from pydantic import BaseModel

from gumboot.core.card import InverterCard
from gumboot.core.card.boxes import BoardCard
from gumboot.core.finding import Gap
from gumboot.core.job import Job
from gumboot.core.job.model import Backup, Site, Wall
from gumboot.core.ledger import Ledger
from gumboot.core.quantity import Quantity, declared, options
from gumboot.core.rulebook.books import RuleBook, book
from gumboot.core.rules import belonging
from gumboot.core.rules import site as rules


class Asking(NamedTuple):
    """A job and its book: what decides whether a question is needed."""

    job: Job
    book: RuleBook
    wall: Wall

    @property
    def grid(self) -> bool:
        """Whether the network brings anything."""
        return self.job.site.supply != "none"

    @property
    def loops(self) -> bool:
        """Whether the book judges earth-fault loops."""
        return self.book.shock.judges_loops


Needed = Callable[[Asking], bool]


class Question(NamedTuple):
    """A survey question with what it unlocks, as its field declares it. ``options`` is empty for a number or a text."""

    path: str
    group: str
    text: str
    unit: str
    unlocks: str
    options: tuple[str, ...]


ASKED: tuple[tuple[str, str, Needed], ...] = (
    ("site.record_low_c", "Climate", lambda a: bool(a.job.strings)),
    ("site.summer_high_c", "Climate", lambda a: bool(a.job.strings)),
    ("site.room_low_c", "Climate", lambda _: True),
    ("site.room_high_c", "Climate", lambda _: True),
    ("site.service_main_a", "Supply", lambda a: a.grid),
    ("site.busbar_a", "Supply", lambda a: a.grid),
    ("site.grid_fault_a", "Supply", lambda a: a.grid),
    ("site.export_limit_w", "Supply", lambda a: a.grid),
    ("site.supply", "Supply", lambda _: True),
    ("site.loop_ohm", "Supply", lambda a: a.grid and a.loops),
    ("site.neutral_bond", "Supply", lambda _: True),
    ("backup.bypass", "Supply", lambda _: True),
    ("site.connection", "Supply", lambda a: a.grid and a.book.boards.has_connections),
    ("site.backfed_fastened", "Supply", lambda a: a.grid and a.book.boards.asks_fastening),
    ("site.rapid_shutdown", "Supply", lambda a: bool(a.job.strings) and a.book.strings.asks_rapid_shutdown),
    ("site.earthing", "Supply", lambda a: a.loops),
    ("site.electrode_ohm", "Supply", lambda a: a.loops and a.job.site.earthing == "TT"),
    ("site.island_electrode", "Supply", lambda a: a.loops or not a.grid),
    ("wall.width_mm", "Wall", lambda _: True),
    ("wall.height_mm", "Wall", lambda _: True),
    ("wall.surface", "Wall", lambda _: True),
    ("wall.masonry", "Wall", lambda a: a.wall.surface == "masonry"),
    ("wall.stud_spacing_mm", "Wall", lambda a: a.wall.surface != "masonry"),
    ("wall.stud_first_mm", "Wall", lambda a: a.wall.surface != "masonry"),
    ("wall.free_depth_mm", "Wall", lambda _: True),
    ("wall.room", "Wall", lambda _: True),
    ("site.internet", "Permission and network", lambda _: True),
    ("site.utility_approval", "Permission and network", lambda a: a.grid),
    ("site.building_approval", "Permission and network", lambda _: True),
)
GROUPS = tuple(dict.fromkeys(group for _, group, _ in ASKED))
MODELS: dict[str, type[BaseModel]] = {"site": Site, "wall": Wall, "backup": Backup}


@cache
def _told(path: str) -> tuple[str, str, str, tuple[str, ...]]:
    """Name, unit, what waits for it, and options, as declared beside the field."""
    section, field = path.split(".")
    told = declared(MODELS[section], field)
    unlocks = told.holds_up[:1].lower() + told.holds_up[1:]
    return told.name, told.unit if isinstance(told, Quantity) else "", unlocks, options(MODELS[section], field)


def _question(path: str, group: str, asking: Asking) -> Question:
    (name, unit, unlocks, choices), wall, several = _told(path), asking.wall, len(asking.job.walls) > 1
    if not path.startswith("wall."):
        return Question(path, group, name, unit, unlocks, choices)
    place = f"walls.{wall.id}.{path.partition('.')[2]}"
    return Question(place, group, f"{name}, {wall.title}" if several else name, unit, unlocks, choices)


def questions_of(job: Job) -> tuple[Question, ...]:
    """The survey questions that this job needs: none of PV without strings, none of the grid where there is none; each wall's own."""
    return tuple([_question(path, group, asking) for path, group, asking in _needed(job)])


def _needed(job: Job) -> Iterator[tuple[str, str, Asking]]:
    """Path and group of each question that a job needs, with the wall that it is asked of."""
    clauses = book(job.rule_book)
    walls = [Asking(job, clauses, wall) for wall in job.walls]
    for path, group, needed in ASKED:
        for asking in walls if group == "Wall" else walls[:1]:
            if needed(asking):
                yield path, group, asking


def _is_answered(path: str, asking: Asking) -> bool:
    section, _, field = path.partition(".")
    owner: BaseModel = asking.wall if section == "wall" else asking.job.site if section == "site" else asking.job.backup
    return getattr(owner, field) not in (None, "")


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
    for path, group, asking in _needed(ledger.job):
        if not _is_answered(path, asking):
            question = _question(path, group, asking)
            ledger.gap(question.path, "survey", f"{question.text}?", question.unlocks)
    _check_belonging(ledger)
    _check_banks(ledger)
    for inverter in dict.fromkeys(i.card.id for i in ledger.seats.inverters):
        _check_air(ledger, next(i.card for i in ledger.seats.inverters if i.card.id == inverter))


def _check_air(ledger: Ledger, inverter: InverterCard) -> None:
    site = ledger.job.site
    if site.room_high_c is not None:
        most = ledger.read(inverter, "ambient_max_c")
        ledger.ask(rules.cool_enough, rules.Air(air=ledger.decided("site.room_high_c"), limit=most))
    if site.room_low_c is not None:
        least = ledger.read(inverter, "ambient_min_c")
        ledger.ask(rules.warm_enough, rules.Air(air=ledger.decided("site.room_low_c"), limit=least))

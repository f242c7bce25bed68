"""The workbook of one calculation: figures and findings as they are worked out, for a whole job or a single question."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from math import isfinite
from typing import TypeVar

from pydantic import BaseModel

from gumboot.core.card.model import AnyCard
from gumboot.core.errors import BadFigure, WrongCard
from gumboot.core.expression import Expression, figures_in
from gumboot.core.figure import Figure, card_value, checked, job_input, made
from gumboot.core.finding import Finding
from gumboot.core.quantity import Quantity, locate, quantity
from gumboot.core.rulebook.books import RuleBook
from gumboot.core.rulebook.books.draft import Draft
from gumboot.core.rulebook.loader import sources
from gumboot.core.rules import Asked
from gumboot.core.wording import within

F = TypeVar("F")

# How the sources of numbers begin that a person or a card gives.
GIVEN = ("input", "card:")


def with_parts(figures: Mapping[str, Figure]) -> dict[str, Figure]:
    """Figures by key, and before each what its working names: that can be opened as well, whether somebody kept it or not."""
    found: dict[str, Figure] = {}
    for key, figure in figures.items():
        if figure.work is not None:
            for part in figures_in(figure.work):
                if part.key not in found:
                    found[part.key] = figures.get(part.key, part)
        found[key] = figure
    return found


@lru_cache(maxsize=4096)
def _declared_at(model: type[BaseModel], path: str) -> tuple[str, str, Quantity, str]:
    """Key, field, declaration and source of a number that a person decided, by its path from the job."""
    field = path.rpartition(".")[2]
    return f"in.{path}", field, quantity(model, field), f"input:{path}"


class Workbook:
    """Collects figures and findings under one rule book. One per calculation; never shared."""

    def __init__(self, book: RuleBook) -> None:
        self.book = book
        self.figures: dict[str, Figure] = {}
        self.findings: list[Finding] = []
        self.asks_rules = False
        self._known = sources()

    def keep(self, figure: Figure) -> Figure:
        """Register a figure under its key; a second figure of that key must have the same value and name."""
        if figure.source not in self._known and figure.source[:5] not in GIVEN:
            checked(figure)
            raise BadFigure(f"{figure.key} names the unknown source '{figure.source}'")
        if not isfinite(figure.value):
            checked(figure)
        known = self.figures.setdefault(figure.key, figure)
        if known is not figure:
            if known.value != figure.value or known.name != figure.name:
                raise BadFigure(f"{figure.key} is worked out twice, as {known.name} {known.value} and {figure.name} {figure.value}")
            self.figures[figure.key] = figure
        return figure

    def work(
        self, key: str, symbol: str, name: str, value: Expression | float, unit: str, *, source: str, label: str = "", limits: str = ""
    ) -> Figure:
        """Work out and keep one figure from an expression, or a number that a table gives."""
        figure = made(key, symbol, name, value, unit, source=source, label=label, limits=limits)
        # Nearly every figure is good and new; of any other, keep() says what is wrong.
        if source in self._known and isfinite(figure.value) and self.figures.setdefault(key, figure) is figure:
            return figure
        return self.keep(figure)

    def put(self, key: str, draft: Draft) -> Figure:
        """Keep what a clause worked out under a key; what another keeps already is kept once more under this one."""
        if draft.key:
            draft = draft.renamed(key)
        draft.key = key
        if draft.source in self._known and isfinite(draft.value) and self.figures.setdefault(key, draft) is draft:
            return draft
        return self.keep(draft)

    def read(self, card: AnyCard, field: str) -> Figure:
        """A number off a card; ``field`` steps by attribute, or by id within a list. Raises WrongCard when the card is silent."""
        found = card.read_so_far.figures.get(field) or card.figure(field)
        if found is None:
            owner, last, _ = locate(card, field)
            title = quantity(type(owner), last).named(card)
            raise WrongCard(f"The card {card.title} gives no {within(title)} ({field}). Choose a card that does.")
        # Finite and with a source, as every card's.
        return found if self.figures.setdefault(found.key, found) is found else self.keep(found)

    def stated(self, card: AnyCard, field: str) -> Figure | None:
        """As ``read``, or None where the card is silent."""
        found = card.figure(field)
        return found and self.keep(found)

    def ask(self, rule: Asked[F], facts: F, within: str = "") -> bool:
        """Ask a rule, of the part of the job at ``within`` where it lies in one; a breach is recorded. Returns whether it held."""
        breach = rule.judge(facts)
        self.asks_rules = True
        if breach is None:
            return True
        self.open(breach.found, breach.limit)
        self.findings.append(rule.finding(breach, self.book.family, within=within))
        return False

    def given(self, path: str, symbol: str, name: str, value: float, unit: str, *, label: str = "") -> Figure:
        """A number that a person gave, kept once."""
        return self.keep(job_input(path, symbol, name, float(value), unit, label=label))

    def told(self, owner: BaseModel, path: str) -> Figure:
        """A number that a person decided, as its field declares it; ``path`` addresses it from the job."""
        key, field, declared, source = _declared_at(type(owner), path)
        name = declared.name if "{" not in declared.name else declared.named(owner)
        return self.keep(made(key, declared.symbol, name, float(getattr(owner, field)), declared.unit, source=source))

    def said(self, model: type[BaseModel], path: str, value: float) -> Figure:
        """As ``told``, for a value that somebody only asks about."""
        declared = quantity(model, path.rpartition(".")[2])
        return self.keep(job_input(path, declared.symbol, declared.name, value, declared.unit))

    def from_card(self, card_id: str, field: str, symbol: str, name: str, value: float, *, unit: str) -> Figure:
        """A number that the caller has read off a card, kept once."""
        found = self.figures.get(f"card.{card_id}.{field}")
        return found or self.keep(card_value(card_id, field, symbol, name, value, unit=unit))

    def open(self, *figures: Figure | None) -> None:
        """Make figures openable that are shown without having been worked out here, such as fixed limits."""
        for figure in figures:
            if figure is not None and figure.key not in self.figures:
                self.keep(figure)

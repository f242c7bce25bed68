"""The workbook of one calculation: figures and findings as they are worked out, for a whole job or a single question."""

from __future__ import annotations

from math import isfinite

from gumboot.core.errors import BadFigure
from gumboot.core.figure import Figure, card_value, checked, job_input
from gumboot.core.finding import Finding, Level
from gumboot.core.rulebook.books import RuleBook
from gumboot.core.rulebook.loader import sources
from gumboot.core.rules import RULES


class Workbook:
    """Collects figures and findings under one rule book. One per calculation; never shared."""

    def __init__(self, book: RuleBook) -> None:
        self.book = book
        self.figures: dict[str, Figure] = {}
        self.findings: list[Finding] = []
        self._known = sources()

    def keep(self, figure: Figure) -> Figure:
        """Register a figure under its key; a second figure of that key must have the same value."""
        known = self.figures.get(figure.key)
        if known is figure:
            return figure
        source = figure.source
        # The whole check only where it can find something: this runs eight hundred times in a derivation.
        if figure._given or not source or not isfinite(figure.value):
            checked(figure)
        if source not in self._known and not source.startswith(("input:", "card:")):
            raise BadFigure(f"{figure.key} names the unknown source '{source}'")
        if known is not None and known.value != figure.value:
            raise BadFigure(f"{figure.key} is worked out twice, as {known.value} and {figure.value}")
        self.figures[figure.key] = figure
        return figure

    def work(
        self,
        key: str,
        symbol: str,
        name: str,
        value: float,
        unit: str,
        source: str,
        formula: str = "",
        given: tuple[Figure, ...] = (),
        label: str = "",
        limits: str = "",
    ) -> Figure:
        """Work out and keep one figure; its givens become openable as well."""
        figures = self.figures
        for part in given:
            if part.key not in figures:
                figures[part.key] = part
        return self.keep(Figure(key, symbol, name, value, unit, source, formula, given, label, limits))

    def given(self, path: str, symbol: str, name: str, value: float, unit: str, label: str = "") -> Figure:
        """A number that a person gave, kept once."""
        return self.keep(job_input(path, symbol, name, float(value), unit, label))

    def from_card(self, card_id: str, field: str, symbol: str, name: str, value: float, unit: str) -> Figure:
        """A number that the caller has read off a card, kept once."""
        found = self.figures.get(f"card.{card_id}.{field}")
        return found or self.keep(card_value(card_id, field, symbol, name, value, unit))

    def open(self, *figures: Figure | None) -> None:
        """Make figures openable that are shown without having been worked out here, such as fixed limits."""
        for figure in figures:
            if figure is not None and figure.key not in self.figures:
                self.keep(figure)

    def verdict(
        self,
        code: str,
        ok: bool,
        where: str,
        text: str,
        act: str,
        *,
        found: Figure | None = None,
        limit: Figure | None = None,
        field: str = "",
        level: Level | None = None,
        source: str = "",
    ) -> bool:
        """Record a finding when the check fails; returns whether it held."""
        if not ok:
            rule = RULES[code]
            self.open(found, limit)
            clause = source or rule.source_for(self.book.family)
            self.findings.append(Finding(code, level or rule.level, rule.station, where, text, act, clause, found, limit, field))
        return ok

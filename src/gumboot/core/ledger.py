"""The ledger of one derivation: figures, findings and gaps as they are worked out."""

from __future__ import annotations

from math import isfinite
from typing import Any

from gumboot.core.card import Shelf
from gumboot.core.errors import BadFigure, UnknownCard, WrongCard
from gumboot.core.figure import Figure, card_value, checked, job_input
from gumboot.core.finding import Finding, Gap, Level
from gumboot.core.job import Job, read_path
from gumboot.core.rulebook.loader import sources
from gumboot.core.rules import RULES

KIND_OF_ROLE = {
    "inverter": "inverter",
    "battery": "battery",
    "module": "module",
    "ct": "ct",
    "switch_fuse": "switch-fuse",
    "busbar_box": "board",
    "roof_box": "board",
    "sub_board": "board",
    "main_board": "board",
}


class Ledger:
    """Collects what the plan modules derive. One per derivation; never shared."""

    def __init__(self, job: Job, shelf: Shelf) -> None:
        self.job = job
        self.shelf = shelf
        self.figures: dict[str, Figure] = {}
        self.findings: list[Finding] = []
        self.gaps: list[Gap] = []
        self._document: dict[str, Any] = job.model_dump()
        self._known = sources()
        self.places: dict[str, str] = {}
        self._inputs: dict[tuple[str, str, str], Figure] = {}

    def card(self, role: str) -> Any:
        """The chosen card for an equipment role. Raises UnknownCard with the field's path."""
        card_id = getattr(self.job.equipment, role)
        try:
            card = self.shelf[card_id]
        except KeyError:
            raise UnknownCard(f"equipment.{role}", card_id) from None
        if card.kind != KIND_OF_ROLE[role]:
            raise WrongCard(f"{card.title} is a {card.kind}; equipment.{role} needs a {KIND_OF_ROLE[role]}. Choose another card.")
        return card

    def keep(self, figure: Figure) -> Figure:
        """Register a figure under its key; a second figure of that key must have the same value."""
        source = figure.source
        # The whole check only where it can find something: this runs eight hundred times in a derivation.
        if len(figure.given) > 1 or not source or not isfinite(figure.value):
            checked(figure)
        if source not in self._known and not source.startswith(("input:", "card:")):
            raise BadFigure(f"{figure.key} names the unknown source '{source}'")
        known = self.figures.get(figure.key)
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
        for part in given:
            if part.key not in self.figures:
                self.figures[part.key] = part
        return self.keep(Figure(key, symbol, name, value, unit, source, formula, given, label, limits))

    def decided(self, path: str, symbol: str, name: str, unit: str) -> Figure:
        """A job input that always has a value."""
        found = self._inputs.get((path, symbol, name))
        if found is None:
            found = self.keep(job_input(path, symbol, name, float(read_path(self._document, path)), unit))
            self._inputs[path, symbol, name] = found
        return found

    def answer(self, path: str) -> Any:
        """The job's raw answer at a path, None when there is none."""
        return read_path(self._document, path)

    def asked(self, path: str, symbol: str, name: str, unit: str, station: str, question: str, holds_up: str) -> Figure | None:
        """A job input that may be unanswered; an empty one is kept as a gap."""
        if (path, symbol, name) in self._inputs:
            return self._inputs[path, symbol, name]
        if read_path(self._document, path) is None:
            self.gap(path, station, question, holds_up)
            return None
        return self.decided(path, symbol, name, unit)

    def gap(self, path: str, station: str, question: str, holds_up: str) -> None:
        """Note a missing answer once for each field; the first asker says what it holds up."""
        if all(gap.path != path for gap in self.gaps):
            self.gaps.append(Gap(path, station, question, holds_up))

    def from_card(self, card_id: str, field: str, symbol: str, name: str, value: float, unit: str) -> Figure:
        """A number that the caller has read off a card, kept once."""
        found = self.figures.get(f"card.{card_id}.{field}")
        return found or self.keep(card_value(card_id, field, symbol, name, value, unit))

    def read(self, card: Any, field: str, symbol: str, name: str, unit: str) -> Figure:
        """A number off a card; ``field`` steps by attribute, or by id within a list."""
        found = self._inputs.get((f"{card.id}:{field}", symbol, name))
        if found is not None:
            return found
        node: Any = card
        for part in field.split("."):
            node = next(i for i in node if i.id == part) if isinstance(node, list) else getattr(node, part)
        if node is None:
            raise WrongCard(f"The card {card.title} gives no {name[:1].lower()}{name[1:]} ({field}). Choose a card that does.")
        found = self.keep(card_value(card.id, field, symbol, name, float(node), unit))
        self._inputs[f"{card.id}:{field}", symbol, name] = found
        return found

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
    ) -> bool:
        """Record a finding when the check fails; returns whether it held."""
        if not ok:
            rule = RULES[code]
            self.open(found, limit)
            self.findings.append(Finding(code, level or rule.level, rule.station, where, text, act, rule.source, found, limit, field))
        return ok

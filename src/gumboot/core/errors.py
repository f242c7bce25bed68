"""Named refusals. Each says quantity, value, range, source and remedy; none is ever swallowed."""

from __future__ import annotations

from collections.abc import Sequence


class GumbootError(Exception):
    """Root of every error that the program raises on purpose."""


class OutOfRange(GumbootError):
    """A value lies outside the range for which a rule or table is valid."""

    def __init__(self, quantity: str, value: object, valid: str, source: str, remedy: str) -> None:
        super().__init__(f"{quantity} is {value}, valid is {valid} ({source}). {remedy}")
        self.quantity, self.value, self.valid = quantity, value, valid
        self.source, self.remedy = source, remedy


class NotInTable(OutOfRange):
    """A key that the table does not hold."""


class BadFigure(GumbootError):
    """A figure that is not finite, has no source, or repeats a symbol."""


def divided_by_nothing(names: Sequence[str]) -> BadFigure:
    """The refusal of a division by figures that come to 0."""
    what = " and ".join(names) or "What is divided by"
    return BadFigure(f"{what} comes to 0, and something is divided by it: correct it on its card or in its answer.")


class BadRule(GumbootError):
    """A rule under a code that the register lacks, or a second one under one code."""


class UnknownCard(GumbootError):
    """The job names a card that the catalogue does not hold."""

    def __init__(self, field: str, card: str) -> None:
        super().__init__(f"{field} names the card '{card}', which the catalogue does not hold. Choose another card.")
        self.field, self.card = field, card


class WrongCard(GumbootError):
    """The job names a card of another kind than its place asks for, or one that lacks a terminal the job needs."""


class BadUnit(GumbootError):
    """A quantity typed in a unit of the wrong dimension, or not understood."""

"""Which labels and marks are printed, how often, how high their letters are at least, and what tape or sheet there is for them."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from gumboot.core.figure import Figure
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.labels import LETTERS, Label
from gumboot.core.plan.marks import Mark, marks_of
from gumboot.core.rulebook.loader import read_table

# Marks on cores and cables are read in the hand: common practice.
MARK_MM = 2.0


class Medium(NamedTuple):
    """A tape or a sheet that labels are printed on, mm; a tape is as long as its label, ``width_mm`` at most."""

    key: str
    title: str
    is_strip: bool
    width_mm: float
    height_mm: float
    across: int
    down: int
    margin_mm: float

    @property
    def cell_mm(self) -> tuple[float, float]:
        """Width and height of what is free for one label's words."""
        return (self.width_mm / self.across - 2 * self.margin_mm, self.height_mm / self.down - 2 * self.margin_mm)


class Print(NamedTuple):
    """One label to print: its words, where each copy goes, how high its capitals are at least and by what, and the stock where that is told.

    What a clause asks is asked of the heading; the words below it are read at arm's length.
    """

    text: str
    where: tuple[str, ...]
    letters_mm: float
    letters: Figure | None = None
    stock: str = ""
    is_mark: bool = False

    @property
    def parts(self) -> tuple[tuple[str, float], ...]:
        """Heading and the words below it, each with the least height of its capitals; all in one where they are alike."""
        heading, dot, rest = self.text.partition(". ")
        if self.letters_mm <= LETTERS.value or not rest:
            return ((self.text, self.letters_mm),)
        return ((f"{heading}{dot.strip()}", self.letters_mm), (rest, LETTERS.value))


@lru_cache(maxsize=1)
def media() -> tuple[Medium, ...]:
    """Every tape and sheet, tapes by width first."""
    return tuple(
        Medium(
            key=row["medium"],
            title=row["title"],
            is_strip=row["kind"] == "strip",
            width_mm=float(row["width_mm"]),
            height_mm=float(row["height_mm"]),
            across=int(row["across"]),
            down=int(row["down"]),
            margin_mm=float(row["margin_mm"]),
        )
        for row in read_table("common/tables/label_media.csv")
    )


def _bound(text: str) -> str:
    """A text whose numbers stay on a line with what they count."""
    return re.sub(r"(?<=\d) (?=\S)| (?=[AD]C\b)", "\u00a0", text)


def _label(label: Label) -> Print:
    return Print(_bound(label.text), (label.place,), label.letters.value, label.letters, label.stock)


def _marks(marks: tuple[Mark, ...]) -> list[Print]:
    """Marks of like words are one print with a copy for each place."""
    places: dict[str, list[str]] = {}
    for mark in marks:
        places.setdefault(mark.text, []).append(mark.where)
    return [Print(text, tuple(where), MARK_MM, is_mark=True) for text, where in places.items()]


def prints_of(plan: Plan) -> tuple[Print, ...]:
    """Every label of a house, then the marks of its strings and leads."""
    return (*(_label(label) for label in plan.labels), *_marks(marks_of(plan.job.strings, plan.strings, plan.leads.leads)))

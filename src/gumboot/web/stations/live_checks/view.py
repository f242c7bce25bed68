"""What the station Live checks is drawn from."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup

from gumboot.core.figure import Figure
from gumboot.core.plan.prove import Check
from gumboot.core.study.label_prints import Medium, Print, media, prints_of
from gumboot.documents.labels import Laid, label_svg, laid_out, narrowest
from gumboot.drawing import show
from gumboot.web.view import Bench


@dataclass(frozen=True, slots=True)
class PrintRow:
    """A label or mark as it comes out on the narrowest tape that it goes on, or on the first sheet where it goes on none."""

    where: tuple[str, ...]
    drawing: Markup | None
    text: str
    on: str
    long: str
    letters: Figure | None
    stock: str


@dataclass(frozen=True, slots=True)
class MediumRow:
    """A tape or sheet: its file, how many labels go on it, and the places of those that do not."""

    title: str
    file: str
    fits: int
    of: int
    too_small: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class LiveChecksView:
    """The station Live checks."""

    checks: list[Check]
    labels: list[PrintRow]
    marks: list[PrintRow]
    mark_copies: int
    media: list[MediumRow]


def _best(print_: Print) -> tuple[Medium | None, Laid | None]:
    tape = narrowest(print_)
    tried = [(medium, laid_out(print_, medium)) for medium in ((tape,) if tape else media())]
    return next(((medium, laid) for medium, laid in tried if laid is not None), (None, None))


def _row(print_: Print, system: str) -> PrintRow:
    medium, laid = _best(print_)
    drawing = label_svg(laid, print_.text) if laid is not None else None
    long = show.quantity(laid.width, "mm", system) if laid is not None and medium is not None and medium.is_strip else ""
    return PrintRow(print_.where, drawing, print_.text, medium.title if medium else "", long, print_.letters, print_.stock)


def _medium(medium: Medium, prints: tuple[Print, ...]) -> MediumRow:
    too_small = tuple(print_.where[0] for print_ in prints if laid_out(print_, medium) is None)
    return MediumRow(medium.title, f"labels-{medium.key}.pdf", len(prints) - len(too_small), len(prints), too_small)


def view_of(b: Bench) -> LiveChecksView:
    """The station as its page needs it."""
    prints = prints_of(b.plan)
    rows = [(print_, _row(print_, b.system)) for print_ in prints]
    return LiveChecksView(
        checks=list(b.plan.live_checks),
        labels=[row for print_, row in rows if not print_.is_mark],
        marks=[row for print_, row in rows if print_.is_mark],
        mark_copies=sum(len(print_.where) for print_ in prints if print_.is_mark),
        media=[_medium(medium, prints) for medium in media()],
    )

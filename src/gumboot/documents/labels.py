"""Labels as they are printed: on a tape of a width, or on sheets of paper that are cut or peeled.

A label whose letters would come out lower than its clause asks is not printed small: it does not fit, and that is said.
"""

from __future__ import annotations

import csv
import io
import itertools
from collections.abc import Iterator, Sequence
from functools import lru_cache
from html import escape
from typing import NamedTuple

from markupsafe import Markup
from PIL import ImageFont

from gumboot.core.study.label_prints import Medium, Print, media
from gumboot.documents.buying import safe
from gumboot.documents.pack import FONTS

FACE = "atkinson-hyperlegible-next-latin-700-normal.woff2"
# Share of its size that a capital is high, and that one line is above the next.
CAPITAL, LINE = 0.668, 1.16
# A tape is not made longer than this where more lines do; letters are never higher than this.
HANDY_MM, HIGHEST_MM = 130.0, 12.0
# What stays free at each end of the words.
SIDE_MM = 1.5
FEWEST_MM = 12.0
MOST_LINES = 7
# Share of its size that letters hang below the line.
HANG = 0.2
CSV_HEAD = ("words", "where", "copies", "letters_mm", "strip_mm", "stock")


class Line(NamedTuple):
    """One line of a label, and the size of its type, mm."""

    words: str
    size: float


class Laid(NamedTuple):
    """A label as it is printed: its lines, and how large it is, mm."""

    lines: tuple[Line, ...]
    width: float
    height: float

    @property
    def capital_mm(self) -> float:
        """How high the capitals of its first line come out, mm."""
        return self.lines[0].size * CAPITAL

    @property
    def block_mm(self) -> float:
        """How high all lines are together, from the top of the first capital to the foot of the last, mm."""
        return _block([line.size for line in self.lines])


def _block(sizes: Sequence[float]) -> float:
    """Height of lines of these sizes from the top of the first capital to the foot of the last."""
    return sizes[0] * CAPITAL + sum(size * LINE for size in sizes[1:])


@lru_cache(maxsize=1)
def _font() -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(FONTS / FACE, 1000)


@lru_cache(maxsize=4096)
def wide(words: str) -> float:
    """How wide words are in the shipped bold face, in sizes of type."""
    return float(_font().getlength(words)) / 1000


def wrapped(text: str, most: float) -> tuple[str, ...] | None:
    """The lines of a text where none is wider than ``most`` sizes of type; None where one word is wider."""
    lines: list[str] = []
    for word in text.split(" "):
        joined = f"{lines[-1]} {word}" if lines else word
        if lines and wide(joined) <= most:
            lines[-1] = joined
        elif wide(word) <= most:
            lines.append(word)
        else:
            return None
    return tuple(lines)


def _even(text: str, count: int, most: float) -> tuple[str, ...] | None:
    """At most so many lines, as short as they can be made; None where they do not go into ``most`` sizes of type."""
    lines = wrapped(text, most)
    if lines is None or len(lines) > count:
        return None
    low, high = max(wide(word) for word in text.split(" ")), max(wide(line) for line in lines)
    while high - low > 0.05:
        half = (low + high) / 2
        tried = wrapped(text, half)
        if tried is not None and len(tried) <= count:
            lines, high = tried, max(wide(line) for line in tried)
        else:
            low = half
    return lines


def _parted(print_: Print, counts: Sequence[int], cell: tuple[float, float]) -> tuple[Line, ...] | None:
    """A label in so many lines for each of its parts, as large as the height allows; None where they do not go in."""
    parts = [(words, capital / CAPITAL) for words, capital in print_.parts]
    least = [size for (_, size), count in zip(parts, counts, strict=True) for _ in range(count)]
    # Room below the last line for letters that hang.
    larger = min(cell[1] / (_block(least) + least[-1] * HANG), HIGHEST_MM / (max(least) * CAPITAL))
    if larger < 1 - 1e-9:
        return None
    lines: list[Line] = []
    for (words, size), count in zip(parts, counts, strict=True):
        made = _even(words, count, cell[0] / (size * larger))
        if made is None:
            return None
        lines += [Line(line, size * larger) for line in made]
    return tuple(lines)


def _widest(lines: Sequence[Line]) -> float:
    return max(wide(line.words) * line.size for line in lines)


def _tried(print_: Print, medium: Medium) -> Iterator[tuple[Line, ...]]:
    """Every way in which a label goes on a medium, with few lines first."""
    w, h = medium.cell_mm
    for counts in sorted(itertools.product(range(1, MOST_LINES + 1), repeat=len(print_.parts)), key=sum):
        lines = _parted(print_, counts, (w - 2 * SIDE_MM, h))
        if lines is not None:
            yield lines


def _on_strip(print_: Print, medium: Medium) -> Laid | None:
    """The fewest lines that keep the tape handy; else the shortest tape."""
    tried = _tried(print_, medium)
    found = [Laid(lines, max(_widest(lines), FEWEST_MM) + 2 * (medium.margin_mm + SIDE_MM), medium.height_mm) for lines in tried]
    return next((laid for laid in found if laid.width <= HANDY_MM), min(found, key=lambda laid: laid.width, default=None))


def _on_sheet(print_: Print, medium: Medium) -> Laid | None:
    """The highest letters that go into one field of the sheet."""
    best = max(_tried(print_, medium), key=lambda lines: lines[0].size, default=None)
    return Laid(best, medium.width_mm / medium.across, medium.height_mm / medium.down) if best is not None else None


@lru_cache(maxsize=2048)
def laid_out(print_: Print, medium: Medium) -> Laid | None:
    """A label on a medium; None where its letters would come out lower than they may."""
    return _on_strip(print_, medium) if medium.is_strip else _on_sheet(print_, medium)


def narrowest(print_: Print) -> Medium | None:
    """The narrowest tape that a label goes on without being long; of none such the narrowest at all; None where it goes on none."""
    tapes = [(medium, laid) for medium in media() if medium.is_strip and (laid := laid_out(print_, medium)) is not None]
    handy = (medium for medium, laid in tapes if laid.width <= HANDY_MM)
    return next(handy, tapes[0][0] if tapes else None)


def medium_of(key: str) -> Medium | None:
    """A medium by its name."""
    return next((medium for medium in media() if medium.key == key), None)


def _n(value: float) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".")


def _printed(laid: Laid) -> str:
    """What is drawn of a label: its ground and its words."""
    y = (laid.height - laid.block_mm) / 2 + laid.capital_mm
    words = ""
    for n, line in enumerate(laid.lines):
        y += line.size * LINE if n else 0.0
        face = f'font-family="Atkinson Hyperlegible Next" font-weight="700" font-size="{_n(line.size)}" text-anchor="middle" fill="#24221d"'
        words += f'<text x="{_n(laid.width / 2)}" y="{_n(y)}" {face}>{escape(line.words)}</text>'
    ground = f'<rect width="{_n(laid.width)}" height="{_n(laid.height)}" fill="#ffffff" stroke="#b9b09c" stroke-width="0.2"/>'
    return ground + words


def label_svg(laid: Laid, title: str = "") -> Markup:
    """A label at true size, a unit a millimetre."""
    told = f'role="img" aria-label="{escape(title, quote=True)}"' if title else ""
    size = f'width="{_n(laid.width)}mm" height="{_n(laid.height)}mm" viewBox="0 0 {_n(laid.width)} {_n(laid.height)}"'
    return Markup(f'<svg xmlns="http://www.w3.org/2000/svg" {size} {told}>{_printed(laid)}</svg>')  # noqa: S704 - every text was escaped above


def _copies(prints: Sequence[Print], medium: Medium) -> Iterator[Laid]:
    """Every copy of every label that goes on a medium."""
    for print_ in prints:
        laid = laid_out(print_, medium)
        if laid is not None:
            yield from [laid] * len(print_.where)


def _strips(copies: Sequence[Laid]) -> tuple[str, str]:
    """A page for each piece of tape: rules of the pages, and the pages."""
    lengths = list(dict.fromkeys((laid.width, laid.height) for laid in copies))
    rules = "".join(
        f"@page t{n} {{ size: {_n(w)}mm {_n(h)}mm; margin: 0; }} .t{n} {{ page: t{n}; break-before: page; }}"
        for n, (w, h) in enumerate(lengths)
    )
    return rules, "".join(f'<div class="t{lengths.index((laid.width, laid.height))}">{label_svg(laid)}</div>' for laid in copies)


def _sheets(copies: Sequence[Laid], medium: Medium) -> tuple[str, str]:
    """Fields of paper, row by row."""
    each, w, h = medium.across * medium.down, medium.width_mm / medium.across, medium.height_mm / medium.down
    pages = []
    for start in range(0, len(copies), each):
        fields = "".join(
            f'<svg x="{_n(n % medium.across * w)}" y="{_n(n // medium.across * h)}" width="{_n(w)}" height="{_n(h)}" '
            f'viewBox="0 0 {_n(w)} {_n(h)}">{_printed(laid)}</svg>'
            for n, laid in enumerate(copies[start : start + each])
        )
        size = (
            f'width="{_n(medium.width_mm)}mm" height="{_n(medium.height_mm)}mm" viewBox="0 0 {_n(medium.width_mm)} {_n(medium.height_mm)}"'
        )
        pages.append(f'<div><svg xmlns="http://www.w3.org/2000/svg" {size}>{fields}</svg></div>')
    rules = f"@page {{ size: {_n(medium.width_mm)}mm {_n(medium.height_mm)}mm; margin: 0; }} div {{ break-after: page; }} div:last-child {{ break-after: auto; }}"
    return rules, "".join(pages)


def labels_html(prints: Sequence[Print], medium: Medium, title: str, fonts: str) -> str:
    """Every label that goes on a medium, as a page for printing at true size."""
    copies = list(_copies(prints, medium))
    rules, body = _strips(copies) if medium.is_strip else _sheets(copies, medium)
    face = f'@font-face {{ font-family: "Atkinson Hyperlegible Next"; src: url("{fonts}/{FACE}"); font-weight: 700; }}'
    style = f"{face} body {{ margin: 0; }} div {{ line-height: 0; }} svg {{ display: block; }} {rules}"
    return f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title><style>{style}</style></head><body>{body}</body></html>'


def labels_csv(prints: Sequence[Print]) -> str:
    """Every label with where it goes, how many, and the narrowest tape that it goes on: for a label printer's own program."""
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(CSV_HEAD)
    for print_ in prints:
        tape = narrowest(print_)
        strip = f"{tape.height_mm:g}" if tape is not None else ""
        write.writerow((safe(print_.text), safe("; ".join(print_.where)), len(print_.where), f"{print_.letters_mm:g}", strip, print_.stock))
    return out.getvalue()

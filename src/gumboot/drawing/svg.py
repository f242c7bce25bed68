"""A small SVG pen: inks by role, hatches, dimension lines, and groups that open a figure's working.

Every shape carries both a presentation attribute (for print) and a class (for the dark theme); no style
attribute is used, since the page's policy forbids them.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from html import escape

from markupsafe import Markup

INK = {
    "plaster": "#efe9dc",
    "page": "#f8f4ea",
    "rule": "#d5ccb8",
    "ink": "#24221d",
    "pencil": "#655f53",
    "green": "#1f5b49",
    "wash": "#dfe8dc",
    "wash-deep": "#c3d9c8",
    "wash-deeper": "#a3c7b0",
    "ochre": "#8f5f05",
    "ochre-wash": "#f6e6c4",
    "oxide": "#9e3420",
    "oxide-wash": "#f4dcd3",
    "blue": "#336389",
    "timber": "#dfcda3",
    "board": "#e2dccb",
    "cell": "#2c4a55",
    "copper": "#c98b55",
    "tin": "#b3a78e",
    "white": "#fffdf7",
    "wire-black": "#24221d",
    "wire-red": "#b3261e",
    "wire-white": "#b9b09c",
    "wire-green": "#2f7d4f",
    "wire-brown": "#7a4a21",
    "wire-grey": "#8a8578",
    "wire-blue": "#2f6fb5",
    "wire-dark-blue": "#22477f",
}
# Conductors as they are: pigment in every theme, where an outline that inverts is drawn around them.
PIGMENT = {f"pigment-{name.removeprefix('wire-')}": colour for name, colour in INK.items() if name.startswith("wire-")}
PIGMENT["pigment-white"] = "#f4f1e8"
PIGMENT["pigment-orange"] = "#c8701a"
INK |= PIGMENT

# How wide the halo of letters is drawn, half of it to each side of their outline.
HALO = 4.0
# Share of its size that one letter takes, on the wide side: for judging room without a browser.
MONO_EM, SANS_EM, BOLD_EM = 0.605, 0.52, 0.55


@dataclass(frozen=True)
class Shape:
    """One thing drawn, kept beside its markup: for exchange files and for judging a drawing by its geometry.

    ``kind`` is rect, line, circle or text. ``points`` are corners, or the centre, or the anchor of a text.
    """

    kind: str
    points: tuple[tuple[float, float], ...]
    ink: str = "ink"
    width: float = 1.2
    filled: bool = False
    closed: bool = False
    radius: float = 0.0
    words: str = ""
    size: float = 0.0
    anchor: str = "start"
    turn: float = 0.0
    mono: bool = False
    bold: bool = False
    dashed: bool = False

    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom. A text's are estimated from its letters; a turned one is taken upright about its anchor."""
        if self.kind == "circle":
            (x, y), r = self.points[0], self.radius
            return x - r, y - r, x + r, y + r
        if self.kind != "text":
            xs, ys = [p[0] for p in self.points], [p[1] for p in self.points]
            return min(xs), min(ys), max(xs), max(ys)
        (x, y), w = self.points[0], text_width(self.words, self.size, self.mono, self.bold)
        left = {"start": 0.0, "middle": -w / 2, "end": -w}[self.anchor]
        if self.turn:
            return x - self.size * 0.75, y + left, x + self.size * 0.2, y + left + w
        return x + left, y - self.size * 0.75, x + left + w, y + self.size * 0.2


def text_width(words: str, size: float, mono: bool = False, bold: bool = False) -> float:
    """Width of a line of text, estimated, in the units of its size."""
    return len(words) * size * (MONO_EM if mono else BOLD_EM if bold else SANS_EM)


def shortened(words: str, size: float, room: float, mono: bool = False, bold: bool = False) -> str:
    """The words, cut with an ellipsis where they are wider than the room."""
    short = words
    while len(short) > 1 and text_width(short, size, mono, bold) > room:
        short = short.removesuffix("…")[:-1].rstrip() + "…"
    return short


Axis = Callable[[float], float]


def number(value: float) -> str:
    """A coordinate, short."""
    return f"{value:.1f}".rstrip("0").rstrip(".")


class Canvas:
    """Collects shapes in viewBox units and renders one SVG element."""

    def __init__(self, name: str, width: float, height: float, title: str, text_scale: float = 1.0) -> None:
        self.name, self.width, self.height, self.title = name, width, height, title
        self._parts: list[str] = []
        self.shapes: list[Shape] = []
        self.anchors: dict[str, tuple[float, float]] = {}
        self._scale = text_scale

    def _paint(self, fill: str | None, stroke: str | None, width: float = 1.2, dash: str = "", extra: str = "") -> str:
        classes, attributes = [], []
        if fill and fill.startswith("hatch"):
            attributes.append(f'fill="url(#{self.name}-{fill})"')
        elif fill:
            classes.append(f"f-{fill}")
            attributes.append(f'fill="{INK[fill]}"')
        else:
            attributes.append('fill="none"')
        if stroke:
            classes.append(f"s-{stroke}")
            attributes.append(f'stroke="{INK[stroke]}" stroke-width="{number(width)}"')
        if dash:
            attributes.append(f'stroke-dasharray="{dash}"')
        return f'class="{" ".join([*classes, extra]).strip()}" {" ".join(attributes)}'

    def rect(
        self,
        x: float,
        y: float,
        w: float,
        h: float,
        fill: str | None = None,
        stroke: str | None = None,
        width: float = 1.2,
        dash: str = "",
        r: float = 0,
    ) -> None:
        """A rectangle."""
        corners = ((x, y), (x + max(w, 0), y), (x + max(w, 0), y + max(h, 0)), (x, y + max(h, 0)))
        self.shapes.append(Shape("rect", corners, stroke or "", width, bool(fill), True, dashed=bool(dash)))
        corner = f' rx="{number(r)}"' if r else ""
        self._parts.append(
            f'<rect x="{number(x)}" y="{number(y)}" width="{number(max(w, 0))}" height="{number(max(h, 0))}"{corner} {self._paint(fill, stroke, width, dash)}/>'
        )

    def line(self, x1: float, y1: float, x2: float, y2: float, stroke: str = "ink", width: float = 1.2, dash: str = "") -> None:
        """A straight line."""
        self.shapes.append(Shape("line", ((x1, y1), (x2, y2)), stroke, width, dashed=bool(dash)))
        self._parts.append(
            f'<line x1="{number(x1)}" y1="{number(y1)}" x2="{number(x2)}" y2="{number(y2)}" {self._paint(None, stroke, width, dash)}/>'
        )

    def path(
        self,
        points: list[tuple[float, float]],
        stroke: str | None = "ink",
        width: float = 1.2,
        fill: str | None = None,
        dash: str = "",
        closed: bool = False,
    ) -> None:
        """A polyline or polygon."""
        self.shapes.append(Shape("line", tuple(points), stroke or "", width, bool(fill), closed, dashed=bool(dash)))
        d = "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points) + (" Z" if closed else "")
        self._parts.append(f'<path d="{d}" stroke-linejoin="round" {self._paint(fill, stroke, width, dash)}/>')

    def circle(self, x: float, y: float, r: float, fill: str | None = None, stroke: str | None = "ink", width: float = 1.2) -> None:
        """A circle."""
        self.shapes.append(Shape("circle", ((x, y),), stroke or "", width, bool(fill), radius=r))
        self._parts.append(f'<circle cx="{number(x)}" cy="{number(y)}" r="{number(r)}" {self._paint(fill, stroke, width)}/>')

    def text(
        self,
        x: float,
        y: float,
        words: str,
        size: float = 12,
        anchor: str = "start",
        ink: str = "ink",
        mono: bool = False,
        bold: bool = False,
        turn: float = 0,
        halo: str = "",
    ) -> None:
        """One line of text; ``mono`` for figures. A ``halo`` is the ink of what lies around its letters, so that no line strikes them through."""
        if words.strip():
            self.shapes.append(
                Shape("text", ((x, y),), ink, 0, words=words, size=size * self._scale, anchor=anchor, turn=turn, mono=mono, bold=bold)
            )
        family = "Atkinson Hyperlegible Mono" if mono else "Atkinson Hyperlegible Next"
        rotate = f' transform="rotate({number(turn)} {number(x)} {number(y)})"' if turn else ""
        weight = ' font-weight="700"' if bold else ""
        letters = f'x="{number(x)}" y="{number(y)}" font-size="{number(size * self._scale)}" text-anchor="{anchor}" font-family="{family}"{weight}{rotate}'
        if halo:
            # Drawn as text of its own: not every printer paints the outline of letters behind them.
            around = f'{self._paint(halo, halo, HALO)} stroke-linejoin="round" aria-hidden="true"'
            self._parts.append(f"<text {letters} {around}>{escape(words)}</text>")
        self._parts.append(f"<text {letters} {self._paint(ink, None)}>{escape(words)}</text>")

    def dimension(self, x1: float, y1: float, x2: float, y2: float, words: str, above: float = 5, size: float = 11) -> None:
        """A dimension line with ticks, chalk blue."""
        self.line(x1, y1, x2, y2, "blue", 1)
        if x1 == x2:
            for y in (y1, y2):
                self.line(x1 - 5, y, x1 + 5, y, "blue", 1)
            self.text(x1 - above, (y1 + y2) / 2, words, 11, "middle", "blue", mono=True, turn=-90)
        else:
            for x in (x1, x2):
                self.line(x, y1 - 5, x, y1 + 5, "blue", 1)
            # Words that are wider than what they measure stand clear of its ticks.
            clear = 0 if text_width(words, size, mono=True) < abs(x2 - x1) - 6 else 3
            self.text((x1 + x2) / 2, y1 - above - clear, words, size, "middle", "blue", mono=True)

    @contextmanager
    def opens(self, figure_key: str, label: str, css_class: str = "opens", cell: tuple[int, int] | None = None) -> Iterator[None]:
        """Everything drawn inside opens the working of a figure by click or key.

        A ``cell`` is one of a field, by row and column: Tab reaches the first, the arrows go on from there.
        """
        stop = "0" if cell in (None, (0, 0)) else "-1"
        place = f' data-cell="{cell[0]}-{cell[1]}"' if cell else ""
        self._parts.append(
            f'<g data-figure="{escape(figure_key, quote=True)}" role="button" tabindex="{stop}" aria-label="{escape(label, quote=True)}" class="{css_class}"{place}>'
        )
        yield
        self._parts.append("</g>")

    @contextmanager
    def tag(self, load: str, side: str, label: str) -> Iterator[None]:
        """A load's tag: dragged with a pointer, moved across with Enter or an arrow."""
        self._parts.append(
            f'<g class="tag" data-load="{escape(load, quote=True)}" data-side="{escape(side, quote=True)}" role="button" tabindex="0" aria-label="{escape(label, quote=True)}">'
        )
        yield
        self._parts.append("</g>")

    def grip(self, points: list[tuple[float, float]]) -> None:
        """An unseen wide line over a thin one, so that a thumb finds it."""
        d = "M" + " L".join(f"{number(x)} {number(y)}" for x, y in points)
        self._parts.append(
            f'<path d="{d}" fill="none" stroke="{INK["ink"]}" stroke-opacity="0" stroke-width="14" pointer-events="stroke"/>'
        )

    def anchor(self, name: str, x: float, y: float) -> None:
        """Where a thing, a switch or a terminal stands, so that a picture can be looked at there; the first place of a name counts."""
        if name:
            self.anchors.setdefault(name, (round(x, 1), round(y, 1)))

    @contextmanager
    def drawn_for(self, css_class: str, **data: str) -> Iterator[None]:
        """A plain group with a class and data attributes, for scripts."""
        attributes = "".join(f' data-{k.replace("_", "-")}="{escape(v, quote=True)}"' for k, v in data.items())
        self._parts.append(f'<g class="{css_class}"{attributes}>')
        yield
        self._parts.append("</g>")

    def link(self, href: str, label: str) -> _Link:
        """A group that leads to a page."""
        return _Link(self._parts, href, label)

    def under(self, other: Canvas, y: float) -> None:
        """Another drawing within this one, its top at y."""
        self._parts += [f'<g transform="translate(0 {number(y)})">', *other._parts, "</g>"]
        for name, (ax, ay) in other.anchors.items():
            self.anchor(name, ax, ay + y)
        self.shapes += [replace(shape, points=tuple((px, py + y) for px, py in shape.points)) for shape in other.shapes]

    def file(self) -> str:
        """The drawing as a file of its own: fonts named with a general family behind them, nothing fetched."""
        body = str(self.render()).removeprefix('<div class="sheet">').removesuffix("</div>")
        for family in ("Atkinson Hyperlegible Mono", "Atkinson Hyperlegible Next"):
            general = "monospace" if family.endswith("Mono") else "sans-serif"
            body = body.replace(f'font-family="{family}"', f'font-family="{family}, {general}"')
        ground = f'<rect width="{number(self.width)}" height="{number(self.height)}" fill="{INK["white"]}"/>'
        size = f' width="{number(self.width)}" height="{number(self.height)}"'
        start = body.index(">")
        return f'<?xml version="1.0" encoding="UTF-8"?>\n{body[:start]}{size}>{ground}{body[start + 1 :]}\n'

    def picture(self) -> str:
        """The drawing to look at only: nothing in it opens or leads anywhere, and nothing of it stops the keyboard."""
        body = str(self.render()).removeprefix('<div class="sheet">').removesuffix("</div>")
        body = re.sub(r' (?:data-figure|data-cell|tabindex|aria-label)="[^"]*"', "", body)
        body = body.replace(' role="button"', "").replace(' pointer-events="stroke"', "")
        return body.replace('role="group"', f'role="img" aria-label="{escape(self.title, quote=True)}"', 1).replace(
            'role="img" class', f'role="img" aria-label="{escape(self.title, quote=True)}" class', 1
        )

    def render(self) -> Markup:
        """The finished element."""
        defs = "".join(
            f'<pattern id="{self.name}-hatch-{ink}" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line x1="0" y1="0" x2="0" y2="7" class="s-{ink}" stroke="{INK[ink]}" stroke-width="1.6" stroke-opacity=".45"/></pattern>'
            for ink in ("green", "oxide", "pencil", "ochre")
        )
        # A role of its own only while nothing inside can be operated.
        role = ' role="img"' if "tabindex" not in "".join(self._parts) and "<a " not in "".join(self._parts) else ' role="group"'
        wide = self.width > 500
        return Markup(  # noqa: S704 - every text that enters was escaped above
            ('<div class="sheet">' if wide else "")
            + f'<svg viewBox="0 0 {number(self.width)} {number(self.height)}"{role} aria-label="{escape(self.title, quote=True)}" class="drawing" xmlns="http://www.w3.org/2000/svg">'
            f"<defs>{defs}</defs>{''.join(self._parts)}</svg>" + ("</div>" if wide else "")
        )


class _Link:
    def __init__(self, parts: list[str], href: str, label: str) -> None:
        self._parts, self._href, self._label = parts, href, label

    def __enter__(self) -> None:
        self._parts.append(f'<a href="{escape(self._href, quote=True)}" aria-label="{escape(self._label, quote=True)}">')

    def __exit__(self, *_: object) -> None:
        self._parts.append("</a>")

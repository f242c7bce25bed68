"""What every part of a single-line diagram draws with: wires, labels, cores, switches, boxes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import ExitStack, contextmanager, nullcontext
from textwrap import wrap

from gumboot.core.figure import Figure
from gumboot.core.plan.circuits.parts import Sized
from gumboot.core.plan.derive import Plan
from gumboot.core.plan.power_up.board import bars_of
from gumboot.core.rulebook.books import book
from gumboot.core.rulebook.common.identification import identification
from gumboot.drawing.show import figure_text, quantity
from gumboot.drawing.single_line.extra_layout import Extra
from gumboot.drawing.single_line.layout import Layout, circuit_of, lay_out
from gumboot.drawing.single_line.measures import WIDTH
from gumboot.drawing.svg import Canvas, text_width

SOURCE_INK = {
    "battery": "oxide",
    "grid": "blue",
    "PV": "ochre",
    "inverter": "green",
    "grid through the inverter": "blue",
    "generator": "ochre",
    "generator through the inverter": "ochre",
}
COLOUR_INK = {
    "black": "wire-black",
    "red": "wire-red",
    "white": "wire-white",
    "green": "wire-green",
    "green-yellow": "wire-green",
    "brown": "wire-brown",
    "grey": "wire-grey",
    "blue": "wire-blue",
    "dark blue": "wire-dark-blue",
}
ROLE_WORDS = {
    "line1": "L1",
    "line2": "L2",
    "line3": "L3",
    "neutral": "N",
    "earth": "earth",
    "positive": "+",
    "negative": "−",
}
BONDS = {
    "relay": "neutral bond: relay in island",
    "fixed in gateway": "neutral bond: fixed in the gateway",
    "none": "no neutral bond inside",
}


# Nodes and switches of which each island has its own.
OF_ISLAND = frozenset(
    (
        *("inverter-pv", "pv-strings", "inverter-dc", "inverter-load", "inverter-grid", "inverter-generator", "panel-bar"),
        *("backed-up-board", "pv-switch", "battery-switch", "grid-breaker", "sub-main", "inverter"),
    )
)
OF_GENERATOR = ("generator", "generator-breaker")


class Diagram:
    """A plan's diagram while it is drawn. ``live`` are the live nodes of a live board, None on paper."""

    def __init__(self, plan: Plan, live: Mapping[str, str] | None, closed: frozenset[str], height: float = 0.0) -> None:
        self.plan, self.live, self.closed = plan, live, closed
        self.at: Layout = Layout() if height else lay_out(plan)
        self.c = Canvas(
            "line",
            WIDTH,
            height or self.at.height,
            "Single-line diagram" if live is None else "Live board: conductors that are live are drawn heavy and coloured by source",
        )

    @property
    def extras(self) -> list[Extra]:
        """The boxes below the diagram that have no place of their own in it."""
        return self.at.extras

    def sized(self, circuit: str) -> Sized | None:
        """A circuit with its conductors, once it is sized."""
        return self.plan.circuits.sized.get(circuit_of(self.plan, circuit))

    def named(self, name: str) -> str:
        """A node or a switch of the island, by what it is called in a house of one."""
        mark = self.plan.house.mark
        if name == "dc-bus":
            return bars_of(self.plan.banks[0])
        if name in OF_GENERATOR and self.plan.seats.generators:
            first = self.plan.house.whole.seats.generators[0].id
            own = self.plan.seats.generators[0].id
            return name if own == first else f"{name}-{own}"
        return f"{name}{mark}" if name in OF_ISLAND else name

    def conductor(self, circuit: str) -> Figure | None:
        """The conductor pulled for a circuit, once it is sized."""
        sized = self.sized(circuit)
        return sized.installed if sized else None

    def card(self, role: str, field: str) -> Figure | None:
        """A figure read off the card in a role, if the plan has read it."""
        return self.plan.figures.get(f"card.{getattr(self.plan.seats, role).id}.{field}")

    def wire(self, points: list[tuple[float, float]], node: str = "", figure: Figure | None = None) -> None:
        """A conductor: heavy and coloured when its node is live, thin otherwise. It opens its circuit's figure."""
        with ExitStack() as stack:
            if figure is not None:
                stack.enter_context(self.c.opens(figure.key, f"{figure.name}: {figure_text(figure)}", "opens wire"))
            node = self.named(node)
            source = (self.live or {}).get(node)
            if self.live is None:
                self.c.path(points, "ink", 2.2)
            elif source:
                stack.enter_context(self.c.drawn_for("live", node=node, source=source))
                self.c.path(points, SOURCE_INK.get(source, "oxide"), 5)
            else:
                self.c.path(points, "pencil", 1.2, dash="4 3")
            if figure is not None:
                self.c.grip(points)

    @contextmanager
    def opening(self, figure: Figure | None, words: str) -> Iterator[None]:
        """Opens a figure's working, where the plan has that figure."""
        with self.c.opens(figure.key, f"{words}: {figure_text(figure)}") if figure is not None else nullcontext():
            yield

    def label(self, circuit: str, x: float, y: float) -> None:
        """Size, earth and drop of a circuit above its run; each opens its working."""
        sized = self.sized(circuit)
        self.c.anchor(circuit_of(self.plan, circuit), x - 14, y)
        if sized is None:
            self.c.text(x, y - 24, "not sized:", 11, ink="ochre")
            self.c.text(x, y - 11, "answer missing", 11, ink="ochre")
            return
        several = f"{sized.run.sets} × " if sized.run.sets > 1 else ""
        rows = [(sized.installed, f"{sized.circuit.title}", several + figure_text(sized.installed), 13, "ink", True)]
        if sized.earth is not None:
            rows.append((sized.earth, "Earth conductor", f"earth {figure_text(sized.earth)}", 11, "wire-green", False))
        rows.append((sized.drop_pct, "Drop", f"drop {figure_text(sized.drop_pct)}", 11, "pencil", False))
        for k, (figure, name, words, size, ink, bold) in enumerate(reversed(rows)):
            with self.opening(figure, name):
                self.c.text(x, y - 11 - 13 * k, words, size, ink=ink, mono=True, bold=bold)

    def callout(self, circuit: str, x: float, y: float) -> None:
        """The number of a run in the schedule, where runs are numbered."""

    def cores(self, circuit: str, x: float, y: float) -> None:
        """A slanted stroke for each core across a run, in the colour of the local code."""
        found = self.plan.house.by_id.get(circuit_of(self.plan, circuit))
        for k, core in enumerate(found.cores if found else ()):
            self.c.line(x + 5 * k, y + 6, x + 5 * k + 5, y - 6, COLOUR_INK[self.colour(core.role)], 2.4)

    def colour(self, role: str) -> str:
        """The local code's colour of a role."""
        rules = book(self.plan.job.rule_book)
        return identification(rules.identification, role).colour

    def switch(
        self,
        x: float,
        y: float,
        switch_id: str,
        title: str,
        rating: Figure | None,
        fuse: bool = False,
        ground: str = "page",
        words: bool = True,
    ) -> None:
        """A switch lying on a run, drawn open or closed; its rating and state stand below."""
        is_closed = self.live is None or self.named(switch_id) in self.closed
        self.c.anchor(self.named(switch_id), x, y)
        self.c.rect(x - 15, y - 4, 30, 8, ground, None)
        self.c.line(x - 15, y, x - 10, y, "ink", 1.6)
        self.c.line(x + 10, y, x + 15, y, "ink", 1.6)
        self.c.line(x - 10, y, x + 10 if is_closed else x + 7, y if is_closed else y - 9, "ink", 2.4)
        for dx in (-10, 10):
            self.c.circle(x + dx, y, 2.2, "ink", None)
        if fuse:
            self.c.rect(x - 7, y - 4, 14, 8, "white", "ink", 1.3)
        if not words:
            return
        below = y + 17
        if rating is not None:
            with self.opening(rating, title):
                self.c.text(x, below, quantity(rating.value, "A"), 12, "middle", mono=True, bold=True)
            below += 13
        if self.live is not None:
            self.c.text(x, below, "closed" if is_closed else "open", 11, "middle", "pencil")

    def box(
        self, x1: float, x2: float, y1: float, y2: float, title: str, figure: Figure | None, left: bool = False, thing: str = ""
    ) -> float:
        """An enclosure; its name, broken into lines that fit, opens the figure that rates it. Returns where the name ends.

        ``thing`` is what stands there.
        """
        self.c.anchor(thing, (x1 + x2) / 2, (y1 + y2) / 2)
        self.c.rect(x1, y1, x2 - x1, y2 - y1, "white", "ink", 1.8)
        lines = wrap(title, max(6, int((x2 - x1 - (34 if left else 12)) / text_width("n", 13, bold=True)))) or [title]
        with self.opening(figure, title):
            for k, line in enumerate(lines):
                self.c.text(x1 + 8 if left else (x1 + x2) / 2, y1 + 19 + 15 * k, line, 13, "start" if left else "middle", bold=True)
        return y1 + 19 + 15 * (len(lines) - 1)

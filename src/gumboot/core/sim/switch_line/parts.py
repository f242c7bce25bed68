"""The switches of a house between battery, grid and loads, and what is live behind them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal, NamedTuple

from gumboot.core.values import Values

Part = Literal["battery", "precharge", "battery switch", "inverter", "panel", "main", "feeder", "grid", "PV", "generator", "bypass"]


class Switch(NamedTuple):
    """Something a hand moves. It joins ``near`` to ``far`` when closed; ``unit`` is the inverter that it belongs to, ``island`` its island."""

    id: str
    title: str
    near: str
    far: str
    part: Part
    unit: str = ""
    island: str = ""


class Unit(Values):
    """An inverter on the board: its switch and the nodes of its terminals."""

    switch: str
    dc: str
    load: str
    grid: str
    generator: str


class Line(Values):
    """The switching network of one job."""

    switches: tuple[Switch, ...]
    sources: tuple[tuple[str, str], ...]
    interlocked: bool
    units: tuple[Unit, ...]

    def switch(self, switch_id: str) -> Switch:
        """A switch by id; KeyError when there is none."""
        for s in self.switches:
            if s.id == switch_id:
                return s
        raise KeyError(switch_id)

    def of(self, part: Part, unit: str | None = None, island: str | None = None) -> tuple[str, ...]:
        """Ids of the switches of a part, of one inverter or one island where one is named."""
        return tuple(s.id for s in self.switches if s.part == part and unit in (None, s.unit) and island in (None, s.island))


def _reach(line: Line, closed: frozenset[str], start: str, stop_at: Iterable[Part]) -> set[str]:
    barred = frozenset(stop_at)
    seen, queue = {start}, [start]
    while queue:
        node = queue.pop()
        for s in line.switches:
            if s.id in closed and s.part not in barred and node in (s.near, s.far):
                other = s.far if node == s.near else s.near
                if other not in seen:
                    seen.add(other)
                    queue.append(other)
    return seen


def live_nodes(line: Line, closed: Iterable[str]) -> dict[str, str]:
    """Every live node with the source that feeds it.

    An inverter makes its LOAD terminals live when it is on and has DC; with the grid at its GRID
    terminals it passes the grid through. A PV-only start is left out: this system starts from the battery.
    """
    on = frozenset(closed)
    live: dict[str, str] = {}
    for node, source in line.sources:
        for reached in _reach(line, on, node, ("inverter", "precharge")):
            live.setdefault(reached, source)
    for unit in line.units:
        if unit.switch in on and unit.dc in live:
            by = (
                "grid through the inverter"
                if live.get(unit.grid)
                else "generator through the inverter"
                if live.get(unit.generator)
                else "inverter"
            )
            for reached in _reach(line, on, unit.load, ("inverter", "precharge", "bypass")):
                live.setdefault(reached, by)
    return live


@dataclass(frozen=True, slots=True)
class Board:
    """The board before a move. ``charged`` are the inverters whose capacitors are full, ``proved`` those seen alone on the panel."""

    line: Line
    closed: frozenset[str] = frozenset()
    charged: frozenset[str] = frozenset()
    proved: frozenset[str] = frozenset()

    @property
    def live(self) -> dict[str, str]:
        """Live nodes."""
        return live_nodes(self.line, self.closed)

    def on(self, part: Part, unit: str | None = None, island: str | None = None) -> bool:
        """Whether a switch of a part is closed."""
        return any(s in self.closed for s in self.line.of(part, unit, island))

    def feeds(self, unit: Unit) -> bool:
        """Whether an inverter gives power at its LOAD terminals."""
        return unit.switch in self.closed and unit.dc in self.live

    def feeding(self, island: str) -> list[Unit]:
        """Inverters of an island that give power."""
        own = self.line.of("inverter", island=island)
        return [u for u in self.line.units if u.switch in own and self.feeds(u)]

    def joined(self, island: str) -> list[str]:
        """Inverters whose breakers in an island's combining panel are closed."""
        return [s.unit for s in self.line.switches if s.part == "panel" and s.island == island and s.id in self.closed]

"""The live board: which nodes a set of closed switches makes live, and which moves are wrong."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

Part = Literal["battery", "precharge", "battery switch", "inverter", "panel", "main", "grid", "PV", "generator", "bypass"]


@dataclass(frozen=True, slots=True)
class Switch:
    """Something a hand moves. It joins ``near`` to ``far`` when closed; ``unit`` is the inverter that it belongs to."""

    id: str
    title: str
    near: str
    far: str
    part: Part
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Unit:
    """An inverter on the board: its switch and the nodes of its terminals."""

    switch: str
    dc: str
    load: str
    grid: str
    generator: str


@dataclass(frozen=True, slots=True)
class Line:
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

    def of(self, part: Part, unit: str | None = None) -> tuple[str, ...]:
        """Ids of the switches of a part, of one inverter where one is named."""
        return tuple(s.id for s in self.switches if s.part == part and unit in (None, s.unit))


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a move does: allowed, or refused with the consequence."""

    move: str
    allowed: bool
    text: str


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

    def on(self, part: Part, unit: str | None = None) -> bool:
        """Whether a switch of a part is closed."""
        return any(s in self.closed for s in self.line.of(part, unit))

    def feeds(self, unit: Unit) -> bool:
        """Whether an inverter gives power at its LOAD terminals."""
        return unit.switch in self.closed and unit.dc in self.live

    @property
    def feeding(self) -> list[Unit]:
        """Inverters that give power."""
        return [u for u in self.line.units if self.feeds(u)]

    def joined(self) -> list[str]:
        """Inverters whose breakers in the combining panel are closed."""
        return [s.unit for s in self.line.switches if s.part == "panel" and s.id in self.closed]


Refusal = Callable[[Board, Switch], str]


def _bypass(b: Board, _: Switch) -> str:
    if b.feeding and not b.line.interlocked:
        return (
            "Refused: the inverter feeds this board. Closing the grid onto it without an interlock joins two sources "
            "out of step and destroys the inverter."
        )
    if b.line.interlocked and b.on("main"):
        return "Refused by the interlock: open the backed-up board's main first."
    return ""


def _main(b: Board, s: Switch) -> str:
    if b.line.interlocked and b.on("bypass"):
        return "Refused by the interlock: open the bypass first."
    if b.on("bypass") and b.on("inverter"):
        return "Refused: the bypass already feeds this board from the grid. Two sources would meet out of step."
    if s.near not in b.live:
        return "Nothing to feed the house with: the inverter's output is dead."
    alone = [u for u in b.line.of("inverter") if u not in b.proved]
    if b.line.of("panel") and alone:
        return "Not onto the house yet: prove each inverter alone on the combining panel first."
    return ""


def _battery_switch(b: Board, s: Switch) -> str:
    if s.unit not in b.charged:
        return "Refused: the inverter's capacitors are empty. Closing now draws thousands of amperes: pre-charge first."
    return ""


def _precharge(b: Board, s: Switch) -> str:
    return "" if s.near in b.live else "Nothing to pre-charge from: switch the batteries on first."


def _inverter(b: Board, s: Switch) -> str:
    return "" if s.near in b.live else "The inverter stays asleep: it needs the battery switch closed first."


def _panel(b: Board, s: Switch) -> str:
    others = [u for u in b.joined() if u != s.unit]
    if others and not {s.unit, *others} <= b.proved:
        return "Refused: another inverter is on the panel. Each is proved alone there first; open the other's breaker."
    if others and b.line.units and not all(b.on("inverter", u) for u in (s.unit, *others)):
        return "Refused: an inverter that is off would be fed from the others through its output. Turn it on first."
    return ""


def _generator(b: Board, _: Switch) -> str:
    if not b.on("inverter"):
        return "Prove the island from the battery first: the inverter is off."
    return "The grid is in: the generator runs only in an outage." if b.on("grid") else ""


def _grid(b: Board, _: Switch) -> str:
    if b.on("generator"):
        return "The generator feeds the inverter: stop it before the grid is let in."
    if not b.on("main"):
        return "Island first: prove the backed-up side from the battery before the grid is let in."
    return ""


def _pv(b: Board, _: Switch) -> str:
    if b.line.of("grid") and not b.on("grid"):
        return "The grid comes before PV in this order: close the grid breaker first."
    return ""


def _fine(_: Board, __: Switch) -> str:
    return ""


CLOSING: dict[Part, Refusal] = {
    "bypass": _bypass,
    "main": _main,
    "battery switch": _battery_switch,
    "precharge": _precharge,
    "inverter": _inverter,
    "panel": _panel,
    "generator": _generator,
    "grid": _grid,
    "PV": _pv,
}


def _opening(b: Board, s: Switch) -> str:
    """What is wrong with opening a switch."""
    if s.part == "battery switch" and b.on("inverter", s.unit):
        return "Refused: this switches DC under load. Turn the inverter off first."
    if (
        s.part == "PV"
        and b.on("inverter", s.unit)
        and not b.feeds(next(u for u in b.line.units if u.switch in b.line.of("inverter", s.unit)))
    ):
        return "Refused: PV is the only source; turn the inverter off first."
    if s.part == "battery" and not b.line.of("battery switch") and b.on("inverter"):
        return "Refused: this switches DC under load. Turn the inverter off first."
    if s.part == "battery" and b.on("battery switch"):
        return "Open the battery switch before the batteries, so that no battery breaker opens under load."
    return ""


def judge(board: Board, move: str) -> Outcome:
    """Whether a move (closing what is open, opening what is closed) is allowed, with the reason when it is not. KeyError: no such switch."""
    switch, closing = board.line.switch(move), move not in board.closed
    asked = CLOSING.get(switch.part, _fine) if closing else _opening
    refused = asked(board, switch)
    if refused:
        return Outcome(move, False, refused)
    after = board.closed | {move} if closing else board.closed - {move}
    new = set(live_nodes(board.line, after)) - set(board.live)
    return Outcome(move, True, f"Now live: {', '.join(sorted(n.replace('-', ' ') for n in new))}." if new else "Nothing more becomes live.")


def moved(board: Board, move: str) -> Board:
    """The board after an allowed move."""
    switch, line = board.line.switch(move), board.line
    if switch.part == "precharge":  # A button, not a switch: it springs back.
        return Board(line, board.closed, board.charged | {switch.unit}, board.proved)
    closing = move not in board.closed
    closed = board.closed | {move} if closing else board.closed - {move}
    charged = board.charged - {switch.unit} if not closing and switch.part == "battery switch" else board.charged
    after = Board(line, closed, charged, board.proved)
    joined = after.joined()
    if len(joined) == 1 and after.on("inverter", joined[0]) and not after.on("main"):
        return Board(line, closed, charged, board.proved | {joined[0], *line.of("inverter", joined[0])})
    return after


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """State after a list of moves."""

    closed: frozenset[str]
    charged: frozenset[str]
    outcomes: tuple[Outcome, ...]
    live: dict[str, str]


def rehearse(line: Line, moves: Sequence[str]) -> Rehearsal:
    """Play moves (a switch id toggles it); refused moves change nothing. Unknown ids raise KeyError."""
    board, outcomes = Board(line), []
    for move in moves:
        outcome = judge(board, move)
        outcomes.append(outcome)
        if outcome.allowed:
            board = moved(board, move)
    return Rehearsal(board.closed, board.charged, tuple(outcomes), board.live)

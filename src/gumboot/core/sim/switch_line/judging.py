"""What happens when somebody moves this switch now?"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gumboot.core.sim.switch_line.parts import Board, Part, Switch, live_nodes


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a move does: allowed, or refused with the consequence."""

    move: str
    allowed: bool
    text: str


Refusal = Callable[[Board, Switch], str]


def _bypass(b: Board, s: Switch) -> str:
    if b.feeding(s.island) and not b.line.interlocked:
        return (
            "Refused: the inverter feeds this board. Closing the grid onto it without an interlock joins two sources "
            "out of step and destroys the inverter."
        )
    if b.line.interlocked and b.on("main", island=s.island):
        return "Refused by the interlock: open the backed-up board's main first."
    return ""


def _main(b: Board, s: Switch) -> str:
    if b.line.interlocked and b.on("bypass", island=s.island):
        return "Refused by the interlock: open the bypass first."
    if b.on("bypass", island=s.island) and b.on("inverter", island=s.island):
        return "Refused: the bypass already feeds this board from the grid. Two sources would meet out of step."
    if s.near not in b.live:
        return "Nothing to feed the house with: the inverter's output is dead."
    alone = [u for u in b.line.of("inverter", island=s.island) if u not in b.proved]
    if b.line.of("panel", island=s.island) and alone:
        return "Not onto the house yet: prove each inverter alone on the combining panel first."
    return ""


def _feeder(b: Board, s: Switch) -> str:
    return "" if s.near in b.live else "Nothing to feed that board with: the board ahead of it is dead."


def _battery_switch(b: Board, s: Switch) -> str:
    if s.unit not in b.charged:
        return "Refused: the inverter's capacitors are empty. Closing now draws thousands of amperes: pre-charge first."
    return ""


def _precharge(b: Board, s: Switch) -> str:
    return "" if s.near in b.live else "Nothing to pre-charge from: switch the batteries on first."


def _inverter(b: Board, s: Switch) -> str:
    return "" if s.near in b.live else "The inverter stays asleep: it needs the battery switch closed first."


def _panel(b: Board, s: Switch) -> str:
    others = [u for u in b.joined(s.island) if u != s.unit]
    if others and not {s.unit, *others} <= b.proved:
        return "Refused: another inverter is on the panel. Each is proved alone there first; open the other's breaker."
    if others and b.line.units and not all(b.on("inverter", u) for u in (s.unit, *others)):
        return "Refused: an inverter that is off would be fed from the others through its output. Turn it on first."
    return ""


def _generator(b: Board, s: Switch) -> str:
    if not b.on("inverter", island=s.island):
        return "Prove the island from the battery first: the inverter is off."
    if b.on("generator", island=s.island):
        return "Another generator feeds: two are never in step."
    return "The grid is in: the generator runs only in an outage." if b.on("grid", island=s.island) else ""


def _grid(b: Board, s: Switch) -> str:
    if b.on("generator", island=s.island):
        return "The generator feeds the inverter: stop it before the grid is let in."
    if not b.on("main", island=s.island):
        return "Island first: prove the backed-up side from the battery before the grid is let in."
    return ""


def _pv(b: Board, s: Switch) -> str:
    if b.line.of("grid", island=s.island) and not b.on("grid", island=s.island):
        return "The grid comes before PV in this order: close the grid breaker first."
    return ""


def _fine(_: Board, __: Switch) -> str:
    return ""


CLOSING: dict[Part, Refusal] = {
    "bypass": _bypass,
    "main": _main,
    "feeder": _feeder,
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
    if s.part == "battery" and not b.line.of("battery switch", island=s.island) and b.on("inverter", island=s.island):
        return "Refused: this switches DC under load. Turn the inverter off first."
    if s.part == "battery" and b.on("battery switch", island=s.island):
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

"""A series of moves, one after another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from gumboot.core.sim.switch_line.judging import Outcome, judge
from gumboot.core.sim.switch_line.parts import Board, Line


def moved(board: Board, move: str) -> Board:
    """The board after an allowed move."""
    switch, line = board.line.switch(move), board.line
    if switch.part == "precharge":  # A button, not a switch: it springs back.
        return Board(line, board.closed, board.charged | {switch.unit}, board.proved)
    closing = move not in board.closed
    closed = board.closed | {move} if closing else board.closed - {move}
    charged = board.charged - {switch.unit} if not closing and switch.part == "battery switch" else board.charged
    after = Board(line, closed, charged, board.proved)
    joined = after.joined(switch.island)
    if len(joined) == 1 and after.on("inverter", joined[0]) and not after.on("main", island=switch.island):
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

"""The live board: which nodes a set of closed switches makes live, and which moves are wrong."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Switch:
    """Something a hand moves. It joins ``near`` to ``far`` when closed."""

    id: str
    title: str
    near: str
    far: str


@dataclass(frozen=True, slots=True)
class Line:
    """The switching network of one job."""

    switches: tuple[Switch, ...]
    sources: tuple[tuple[str, str], ...]
    interlocked: bool

    def switch(self, switch_id: str) -> Switch:
        """A switch by id; KeyError when there is none."""
        for s in self.switches:
            if s.id == switch_id:
                return s
        raise KeyError(switch_id)


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a move does: allowed, or refused with the consequence."""

    move: str
    allowed: bool
    text: str


def _reach(line: Line, closed: frozenset[str], start: str, stop_at: frozenset[str] = frozenset()) -> set[str]:
    seen, queue = {start}, [start]
    while queue:
        node = queue.pop()
        for s in line.switches:
            if s.id in closed and s.id not in stop_at and node in (s.near, s.far):
                other = s.far if node == s.near else s.near
                if other not in seen:
                    seen.add(other)
                    queue.append(other)
    return seen


def live_nodes(line: Line, closed: Iterable[str]) -> dict[str, str]:
    """Every live node with the source that feeds it.

    The inverter makes its LOAD terminals live when it is on and has DC; with the grid at its GRID
    terminals it passes the grid through. A PV-only start is left out: this system starts from the battery.
    """
    on = frozenset(closed)
    live: dict[str, str] = {}
    for node, source in line.sources:
        for reached in _reach(line, on, node, stop_at=frozenset({"inverter", "precharge"})):
            live.setdefault(reached, source)
    if "inverter" in on and "inverter-dc" in live:
        by = (
            "grid through the inverter"
            if live.get("inverter-grid")
            else "generator through the inverter"
            if live.get("inverter-generator")
            else "inverter"
        )
        for reached in _reach(line, on, "inverter-load", stop_at=frozenset({"inverter", "precharge", "bypass"})):
            live.setdefault(reached, by)
    return live


def judge(line: Line, closed: frozenset[str], charged: bool, move: str, closing: bool) -> Outcome:
    """Whether a move is allowed from a state, with the reason when it is not."""
    live = live_nodes(line, closed)
    if closing and move == "bypass":
        fed = "inverter" in closed and "inverter-dc" in live
        if fed and not line.interlocked:
            return Outcome(
                move,
                False,
                "Refused: the inverter feeds this board. Closing the grid onto it without an interlock joins two sources out of step and destroys the inverter.",
            )
        if line.interlocked and "sub-main" in closed:
            return Outcome(move, False, "Refused by the interlock: open the backed-up board's main first.")
    if closing and move == "sub-main" and line.interlocked and "bypass" in closed:
        return Outcome(move, False, "Refused by the interlock: open the bypass first.")
    if closing and move == "sub-main" and "bypass" in closed and "inverter" in closed:
        return Outcome(move, False, "Refused: the bypass already feeds this board from the grid. Two sources would meet out of step.")
    if closing and move == "battery-switch" and not charged:
        return Outcome(
            move, False, "Refused: the inverter's capacitors are empty. Closing now draws thousands of amperes: pre-charge first."
        )
    if closing and move == "precharge" and "dc-bus" not in live:
        return Outcome(move, False, "Nothing to pre-charge from: switch the batteries on first.")
    if closing and move == "inverter" and "inverter-dc" not in live:
        return Outcome(move, False, "The inverter stays asleep: it needs the battery switch closed first.")
    if closing and move == "sub-main" and "inverter-load" not in live:
        return Outcome(move, False, "Nothing to feed the house with: the inverter's output is dead.")
    if closing and move == "generator-breaker" and "inverter" not in closed:
        return Outcome(move, False, "Prove the island from the battery first: the inverter is off.")
    if closing and move == "generator-breaker" and "grid-breaker" in closed:
        return Outcome(move, False, "The grid is in: the generator runs only in an outage.")
    if closing and move == "grid-breaker" and "generator-breaker" in closed:
        return Outcome(move, False, "The generator feeds the inverter: stop it before the grid is let in.")
    if closing and move == "grid-breaker" and "sub-main" not in closed:
        return Outcome(move, False, "Island first: prove the backed-up side from the battery before the grid is let in.")
    grid = any(s.id == "grid-breaker" for s in line.switches)
    if closing and move == "pv-switch" and grid and "grid-breaker" not in closed:
        return Outcome(move, False, "The grid comes before PV in this order: close the grid breaker first.")
    if not closing and move == "battery-switch" and "inverter" in closed:
        return Outcome(move, False, "Refused: this switches DC under load. Turn the inverter off first.")
    if not closing and move == "pv-switch" and "inverter" in closed and "inverter-dc" not in live:
        return Outcome(move, False, "Refused: PV is the only source; turn the inverter off first.")
    if (
        not closing
        and f"{move}-cells" in dict(line.sources)
        and not any(s.id == "battery-switch" for s in line.switches)
        and "inverter" in closed
    ):
        return Outcome(move, False, "Refused: this switches DC under load. Turn the inverter off first.")
    if not closing and f"{move}-cells" in dict(line.sources) and "battery-switch" in closed:
        return Outcome(move, False, "Open the battery switch before the batteries, so that no battery breaker opens under load.")
    new = set(live_nodes(line, closed | {move} if closing else closed - {move})) - set(live)
    return Outcome(move, True, f"Now live: {', '.join(sorted(n.replace('-', ' ') for n in new))}." if new else "Nothing more becomes live.")


@dataclass(frozen=True, slots=True)
class Rehearsal:
    """State after a list of moves."""

    closed: frozenset[str]
    charged: bool
    outcomes: tuple[Outcome, ...]
    live: dict[str, str]


def rehearse(line: Line, moves: Sequence[str]) -> Rehearsal:
    """Play moves (a switch id toggles it); refused moves change nothing. Unknown ids raise KeyError."""
    closed: frozenset[str] = frozenset()
    charged, outcomes = False, []
    for move in moves:
        line.switch(move)
        closing = move not in closed
        outcome = judge(line, closed, charged, move, closing)
        outcomes.append(outcome)
        if not outcome.allowed:
            continue
        if move == "precharge":
            charged = True  # A button, not a switch: it springs back.
            continue
        closed = closed | {move} if closing else closed - {move}
        if not closing and move == "battery-switch":
            charged = False
    return Rehearsal(closed, charged, tuple(outcomes), live_nodes(line, closed))

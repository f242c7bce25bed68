"""The live board: which nodes a set of closed switches makes live, and which moves are wrong."""

from gumboot.core.sim.switch_line.judging import CLOSING, Outcome, Refusal, judge
from gumboot.core.sim.switch_line.parts import Board, Line, Part, Switch, Unit, live_nodes
from gumboot.core.sim.switch_line.rehearsal import Rehearsal, moved, rehearse

__all__ = [
    "CLOSING",
    "Board",
    "Line",
    "Outcome",
    "Part",
    "Refusal",
    "Rehearsal",
    "Switch",
    "Unit",
    "judge",
    "live_nodes",
    "moved",
    "rehearse",
]

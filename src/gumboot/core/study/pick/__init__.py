"""Which circuits should be backed up when not all fit, on which legs, and what may start together? Solved exactly."""

from gumboot.core.study.pick.balance import Balance, balance_legs
from gumboot.core.study.pick.best import LeftOut, Pick, Shortfall, best_pick
from gumboot.core.study.pick.limits import Limit, NoAnswer, limits_of, moved, options_of
from gumboot.core.study.pick.starts import Starts, start_ok, what_may_start_together

__all__ = [
    "Balance",
    "LeftOut",
    "Limit",
    "NoAnswer",
    "Pick",
    "Shortfall",
    "Starts",
    "balance_legs",
    "best_pick",
    "limits_of",
    "moved",
    "options_of",
    "start_ok",
    "what_may_start_together",
]

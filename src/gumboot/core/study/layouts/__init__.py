"""Which assignments of modules to trackers are admissible on this roof, which is best and why, and why is a wanted one not?"""

from gumboot.core.study.layouts.finding import assignments, lays_of, strings_of
from gumboot.core.study.layouts.judging import Facts, Thought, broken_by, cold_volts, why_not
from gumboot.core.study.layouts.mismatch import series_mismatch, series_mismatch_pct
from gumboot.core.study.layouts.parts import Broken, Finder, Lay, finder_of

__all__ = [
    "Broken",
    "Facts",
    "Finder",
    "Lay",
    "Thought",
    "assignments",
    "broken_by",
    "cold_volts",
    "finder_of",
    "lays_of",
    "series_mismatch",
    "series_mismatch_pct",
    "strings_of",
    "why_not",
]
